"""Where the parts' own meshes and the surface on the lattice meet: on faces of cells, of which one is kept for a part's
own and one is the lattice's, both have to leave the same line.

They do where the own mesh crosses the same edges of the face as the field does. The field is put on the mesh's side at
corners of such faces where it is not, since the mesh's facets are a little off the true shape. A tip of the mesh that
pokes over an edge of a face and back, where the lattice is too wide to see it, is cut off along that edge. What still
differs is given to the lattice.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from noble_clay.core.field.at_points import end_of_run
from noble_clay.core.field.block_map import block_of, what_is, what_is_beside
from noble_clay.core.field.block_values import crossing
from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.lattice import BLOCK, LATTICE
from noble_clay.core.field.marching_cubes import EDGE_AXES, EDGE_STARTS, inside_of, table
from noble_clay.core.field.nodes import Nodes, edge_key, ends_of, face_key
from noble_clay.core.field.own_pieces import OwnPieces, Pieces
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.gather import distinct, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints

REACH = 3
"""How far, in cells, what is given to the lattice can change where the two surfaces meet."""

LEAST = 0.05
"""How far from zero a value is put that was on the other side, in cells."""


def by_face(borders: Ints) -> Ints:
    """Lines between what is kept and what is not, in the order of the faces in which they run."""
    return borders[np.argsort(borders[:, 0], kind="stable")]


@dataclass(frozen=True, eq=False)
class Meeting:
    """pieces: of the own meshes, told apart. twice: (n,) edges of the lattice that are crossed twice, of each node
    there. borders: the pieces' lines by their faces. caps: lines around tips that the lattice does not see. amiss:
    (k, 3) cells that have to be given to the lattice, since the two surfaces do not meet there.
    """

    pieces: Pieces
    twice: Ints
    borders: Ints
    caps: list[Cap]
    amiss: Ints


@dataclass(frozen=True, eq=False)
class Cap:
    """A closed line around a cell of the lattice (3,). keys: its nodes, planes: the triangles of own meshes in which it
    runs from each to the next, or -1.
    """

    cell: Ints
    keys: list[int]
    planes: list[int]


def meet(own: OwnPieces, blocks: Blocks, normals: Floats, opened: Ints | None) -> Meeting:
    """Makes the two surfaces meet. normals: (t, 3) of the own meshes' triangles. opened: (k, 3) cells that were given
    last; beyond their neighbours all is as it was.
    """
    nodes = own.nodes
    pieces, twice = own.told_apart()
    borders = by_face(pieces.borders)
    keyed = nodes.low, nodes.across, nodes.corner
    lists = blocks.corners, blocks.values, blocks.pushed
    every = table()
    tables = every.sizes, every.edges, every.faces
    apart = own.first_twice, twice
    some = borders if opened is None else borders[np.isin(borders[:, 0] // 3, _numbers_about(opened, nodes))]
    there = np.arange(len(blocks.corners)) if opened is None else blocks.about(opened)
    passed = crossing(blocks.values, blocks.cells, there)
    _push(some, borders, normals, *keyed, *blocks.cell_map, *lists, blocks.cell, *passed, *tables)
    passed = crossing(blocks.values, blocks.cells, there)
    shown = blocks.corners, blocks.values
    found, tips = _amiss(some, borders, *keyed, *apart, *blocks.cell_map, *shown, *passed, *tables)
    caps, uncapped = _capped(borders, tips, *apart)
    amiss = unique_rows(np.concatenate([found, own.failed, uncapped]))
    if len(amiss) == 0 and opened is not None:
        none = np.zeros((0, 2), dtype=np.int64), np.zeros(0, dtype=np.int64)
        tips = _amiss(borders, borders, *keyed, *apart, *blocks.cell_map, *shown, *none, *tables)[1]
        caps, amiss = _capped(borders, tips, *apart)
    return Meeting(pieces, twice, borders, caps, amiss)


def _capped(borders: Ints, tips: Ints, first_twice: int, twice: Ints) -> tuple[list[Cap], Ints]:
    """Lines around tips, and (k, 3) own cells of those that none goes around. tips: see `_amiss`."""
    at_cells: dict[tuple[int, ...], list[Ints]] = {}
    for tip in tips:
        at_cells.setdefault(tuple(tip[:3].tolist()), []).append(tip)
    found, wrong = [], [tips[:0, 4:7]]
    for cell, mine in at_cells.items():
        spans = [np.searchsorted(borders[:, 0], [tip[3], tip[3] + 1]) for tip in mine]
        lines = np.concatenate([borders[first:last] for first, last in spans])
        ends = {int(line[2]): line for line in lines}
        keys: list[int] = []
        planes: list[int] = []
        # Against the way of the own mesh's lines, from end to beginning.
        node = int(lines[0, 2])
        while node in ends:
            line = ends.pop(node)
            keys.append(node)
            planes.append(int(line[3]))
            node = int(line[1])
            if node not in ends and node != lines[0, 2]:
                keys.append(node)
                planes.append(-1)
                node = int(twin_of(node, first_twice, twice))
        if ends or node != lines[0, 2] or len(keys) < 3:
            wrong += [tip[None, 4:7] for tip in mine]
        else:
            found.append(Cap(np.array(cell), keys, planes))
    return found, np.concatenate(wrong)


def _numbers_about(cells: Ints, nodes: Nodes) -> Ints:
    """The numbers of cells (n, 3) and those about them, as faces have them."""
    ways = np.stack(np.meshgrid(*[np.arange(-REACH, REACH + 1)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    x, y, z = ((cells[:, None, :] + ways).reshape(-1, 3) - nodes.low).T
    return distinct((x * nodes.across[1] + y) * nodes.across[2] + z)


@small
def first_of(borders: Any, face: Any) -> Any:
    """Where the lines of a face begin, or -1 where it has none."""
    low, high = 0, len(borders)
    while low < high:
        middle = (low + high) // 2
        if borders[middle, 0] < face:
            low = middle + 1
        else:
            high = middle
    return low if low < len(borders) and borders[low, 0] == face else -1


@small
def _push_point(
    point: Any, inside: Any, first: Any, tiles: Any, blocks_in: Any, corners: Any, values: Any, pushed: Any, cell: Any
) -> None:
    """The field at a lattice point put on a side, where it is on the other."""
    for way in range(8):
        x, y, z = point[0] - (way >> 2), point[1] - (way >> 1 & 1), point[2] - (way & 1)
        block = block_of(first, tiles, blocks_in, x, y, z)
        if block < 0:
            continue
        i, j, k = point[0] - corners[block, 0], point[1] - corners[block, 1], point[2] - corners[block, 2]
        value = values[block, i, j, k]
        if (value < 0) != inside:
            away = max(abs(value), LEAST * cell)
            values[block, i, j, k] = -away if inside else away
            pushed[block, i, j, k] = True


@small
def _corner_of(point: Any, b: Any, c: Any, corner: Any, found: Any) -> None:
    """A corner of a face into found (3,), around it from its lowest, `point`; b, c: the face's axes."""
    found[0], found[1], found[2] = point[0], point[1], point[2]
    found[b] += corner in (1, 2)
    found[c] += corner in (2, 3)


@small
def across_face(cell: Any, face: Any, other: Any, point: Any) -> Any:
    """The cell across one of a cell's faces into other (3,), the face's lowest corner into point (3,); its axis."""
    axis, upper = face // 2, face % 2
    for k in range(3):
        other[k] = point[k] = cell[k]
    other[axis] += 1 if upper else -1
    point[axis] += upper
    return axis


@compiled
def _push(
    some: Any,
    borders: Any,
    normals: Any,
    low: Any,
    across: Any,
    corner_keys: Any,
    first: Any,
    tiles: Any,
    inside: Any,
    own_step: Any,
    cells: Any,
    corners: Any,
    values: Any,
    pushed: Any,
    cell: Any,
    passed: Any,
    configs: Any,
    sizes: Any,
    edges: Any,
    faces: Any,
) -> None:
    point, start, end = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    other = np.empty(3, dtype=np.int64)
    sides, crossed = np.empty(4, dtype=np.int64), np.empty(4, dtype=np.int64)
    at = 0
    while at < len(some):
        last = end_of_run(some[:, 0], at)
        one_side = (some[at:last, 4] == some[at, 4]).all()
        axis = ends_of(some[at, 0], low, across, point)
        b, c = (axis + 1) % 3, (axis + 2) % 3
        for k in range(3):
            other[k] = point[k]
        other[axis] -= some[at, 4]
        if one_side and what_is(first, tiles, inside, own_step, cells, other[0], other[1], other[2]) == LATTICE:
            sides[:], crossed[:] = -1, 0
            # Corners 0 to 3 around the face: low, +b, +b+c, +c; edge n goes from corner n to the next.
            for n in range(at, last):
                for which in range(2):
                    key = some[n, 1 + which]
                    if key < 0 or key >= corner_keys:
                        continue
                    along = ends_of(key, low, across, start)
                    if along == b:
                        edge, lower, upper = (0, 0, 1) if start[c] == point[c] else (2, 3, 2)
                    else:
                        edge, lower, upper = (3, 0, 3) if start[b] == point[b] else (1, 1, 2)
                    crossed[edge] += 1
                    rises = normals[some[n, 3], along] > 0
                    sides[lower], sides[upper] = (1, 0) if rises else (0, 1)
            if crossed.max() <= 1:
                for _ in range(3):
                    for edge in range(4):
                        if crossed[edge] == 0:
                            one, two = sides[edge], sides[(edge + 1) % 4]
                            if one < 0 and two >= 0:
                                sides[edge] = two
                            elif two < 0 and one >= 0:
                                sides[(edge + 1) % 4] = one
                for corner in range(4):
                    if sides[corner] >= 0:
                        _corner_of(point, b, c, corner, end)
                        _push_point(end, sides[corner] == 1, first, tiles, inside, corners, values, pushed, cell)
        at = last
    # Faces that the field crosses and the own mesh does not.
    passes = sizes.sum(axis=1)
    mine, neighbour = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    for c in range(len(passed)):
        block, n = passed[c]
        mine[0], mine[1], mine[2] = (
            corners[block, 0] + n // (BLOCK * BLOCK),
            corners[block, 1] + n // BLOCK % BLOCK,
            corners[block, 2] + n % BLOCK,
        )
        config = configs[c]
        for e in range(passes[config]):
            face = faces[config, e]
            if what_is_beside(first, tiles, inside, own_step, cells, corners, block, n, face) < 0:
                continue
            axis = across_face(mine, face, neighbour, point)
            if first_of(borders, face_key(point, axis, low, across)) >= 0:
                continue
            b, c = (axis + 1) % 3, (axis + 2) % 3
            most, side, settled = -1.0, False, False
            for corner in range(4):
                _corner_of(point, b, c, corner, end)
                x, y, z = end[0] - corners[block, 0], end[1] - corners[block, 1], end[2] - corners[block, 2]
                value, was = values[block, x, y, z], pushed[block, x, y, z]
                if (was and not settled) or (was == settled and abs(value) > most):
                    most, side, settled = abs(value), value < 0, settled or was
            for corner in range(4):
                _corner_of(point, b, c, corner, end)
                _push_point(end, side, first, tiles, inside, corners, values, pushed, cell)
            break


@small
def twin_of(node: Any, first_twice: Any, twice: Any) -> Any:
    """The other node on an edge of the lattice that is crossed twice, or -1."""
    n = node - first_twice
    if n < 0:
        return -1
    before, after = n > 0 and twice[n - 1] == twice[n], n + 1 < len(twice) and twice[n + 1] == twice[n]
    if before and not after and (n < 2 or twice[n - 2] != twice[n]):
        return node - 1
    if after and not before and (n + 2 >= len(twice) or twice[n + 2] != twice[n]):
        return node + 1
    return -1


@small
def _line_from(borders: Any, at: Any, node: Any) -> Any:
    """Which line borders[at:] of one face begins at a node; -1 for none, -2 for several."""
    found, n = -1, at
    while n < len(borders) and borders[n, 0] == borders[at, 0]:
        if borders[n, 1] == node:
            found = -2 if found != -1 else n
        n += 1
    return found


@small
def chain_of(borders: Any, at: Any, start: Any, goal: Any, first_twice: Any, twice: Any, chain: Any) -> Any:
    """The lines borders[at:] of one face from node `start` to node `goal`, their numbers into `chain`; how many, or -1
    where they do not lead there. Where the mesh leaves the face over one of its edges, and comes back over the same, it
    goes on there.
    """
    node, count = start, 0
    while node != goal:
        found = _line_from(borders, at, node)
        if found == -1:
            found = _line_from(borders, at, twin_of(node, first_twice, twice))
        elif node >= 0 and count > 0:
            return -1  # it goes on over an edge of the lattice
        if found < 0 or count == len(chain):
            return -1
        chain[count] = found
        count += 1
        node = borders[found, 2]
    return count


@compiled
def _amiss(
    some: Any,
    borders: Any,
    low: Any,
    across: Any,
    corner_keys: Any,
    first_twice: Any,
    twice: Any,
    first: Any,
    tiles: Any,
    inside: Any,
    own_step: Any,
    cells: Any,
    corners: Any,
    values: Any,
    passed: Any,
    configs: Any,
    sizes: Any,
    edges: Any,
    faces: Any,
) -> Any:
    """(n, 3) cells that are to be given to the lattice; and (m, 7) tips, lines in a face of a cell in which the
    lattice sees nothing: that cell, the face, and the own mesh's cell.
    """
    found = [(0, 0, 0)]
    found.clear()
    tips = [(0, 0, 0, 0, 0, 0, 0)]
    tips.clear()
    point, mine, other = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    chain = np.empty(64, dtype=np.int64)
    at = 0
    while at < len(some):
        last = end_of_run(some[:, 0], at)
        axis = ends_of(some[at, 0], low, across, point)
        upper = some[at, 4]
        for k in range(3):
            mine[k] = other[k] = point[k]
        mine[axis] -= 1 - upper
        other[axis] -= upper
        if not (some[at:last, 4] == upper).all():
            found.append((mine[0], mine[1], mine[2]))
            found.append((other[0], other[1], other[2]))
            at = last
            continue
        right = what_is(first, tiles, inside, own_step, cells, other[0], other[1], other[2]) == LATTICE
        if right:
            block = block_of(first, tiles, inside, other[0], other[1], other[2])
            i, j, k = other[0] - corners[block, 0], other[1] - corners[block, 1], other[2] - corners[block, 2]
            config = inside_of(values, block, i, j, k)
            side = axis * 2 + upper
            right = sizes[config, 1] == 0  # of two lines in a cell, none may be filled from within
            used = 0
            begin = 0
            for line in range(sizes.shape[1]):
                size = sizes[config, line]
                for e in range(size):
                    if faces[config, begin + e] != side:
                        continue
                    enters = node_of(other, edges[config, begin + e], low, across)
                    leaves = node_of(other, edges[config, begin + (e + 1) % size], low, across)
                    count = chain_of(some, at, leaves, enters, first_twice, twice, chain)
                    if count < 0:
                        right = False
                    used += count
                begin += size
            if right and used < last - at:
                right = sizes[config, 0] == 0
                if right:
                    tips.append((other[0], other[1], other[2], some[at, 0], mine[0], mine[1], mine[2]))
        if not right:
            found.append((mine[0], mine[1], mine[2]))
        at = last
    passes = sizes.sum(axis=1)
    for c in range(len(passed)):
        block, n = passed[c]
        mine[0], mine[1], mine[2] = (
            corners[block, 0] + n // (BLOCK * BLOCK),
            corners[block, 1] + n // BLOCK % BLOCK,
            corners[block, 2] + n % BLOCK,
        )
        config = configs[c]
        for e in range(passes[config]):
            face = faces[config, e]
            if what_is_beside(first, tiles, inside, own_step, cells, corners, block, n, face) == LATTICE:
                continue
            axis = across_face(mine, face, other, point)
            if first_of(borders, face_key(point, axis, low, across)) < 0:
                found.append((other[0], other[1], other[2]))
    result = np.empty((len(found), 3), dtype=np.int64)
    for n in range(len(found)):
        result[n, 0], result[n, 1], result[n, 2] = found[n]
    all_tips = np.empty((len(tips), 7), dtype=np.int64)
    for n in range(len(tips)):
        for m, value in enumerate(tips[n]):
            all_tips[n, m] = value
    return result, all_tips


@small
def node_of(cell: Any, edge: Any, low: Any, across: Any) -> Any:
    """The key of an edge of a cell."""
    x, y, z = cell[0] + EDGE_STARTS[edge, 0], cell[1] + EDGE_STARTS[edge, 1], cell[2] + EDGE_STARTS[edge, 2]
    return edge_key((x, y, z), EDGE_AXES[edge], low, across)
