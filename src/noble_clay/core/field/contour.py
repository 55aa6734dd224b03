"""A list's surface in the cells that are the lattice's: closed lines around each cell, vertices where they pass its
edges, and triangles that fill them.

A line that runs beside a part's own mesh takes the mesh's points in their common face, and is filled from a point
within the cell, as one is that passes an edge of the surface: see `features`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.field.at_points import end_of_run, longest_list
from noble_clay.core.field.block_keys import edge_keys
from noble_clay.core.field.block_map import block_of, what_is_beside
from noble_clay.core.field.block_values import crossing
from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.features import Rings, following
from noble_clay.core.field.fold import fold_many
from noble_clay.core.field.lattice import BLOCK, LATTICE, ODD
from noble_clay.core.field.marching_cubes import table
from noble_clay.core.field.memory import Kept, Memory
from noble_clay.core.field.nodes import Nodes, ends_of, face_key
from noble_clay.core.field.seam import Cap, across_face, chain_of, first_of, node_of
from noble_clay.core.field.threads import in_told_slices
from noble_clay.core.loops import compiled
from noble_clay.core.mesh.gather import unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints

ROOT_STEPS = 1
"""Steps towards the surface along a lattice edge, before the last one by the field's slope."""

AT_A_TIME = 2_500
"""Vertices that one thread finds before it is told that the work goes on."""

INSET = 0.002
"""How near to the ends of its lattice edge a vertex may be, as a share of it."""


class Lines:
    """Closed lines around cells. keys: (n,) their nodes. planes: (n,) of the step from each to the next, which triangle
    of an own mesh it runs in, or -1. sizes: (k,) nodes of each. cells: (k, 3). blocks: (k,). which: (k, 2) the set of
    the cell's inside corners and the line's number in its table, -1 where it takes more points than its cell's edges.
    """

    def __init__(self, blocks: Blocks, borders: Ints, caps: list[Cap], first_twice: int, twice: Ints) -> None:
        every = table()
        passed = crossing(blocks.values, blocks.cells, np.arange(len(blocks.corners)))
        keyed = blocks.nodes.low, blocks.nodes.across, first_twice, twice
        tables = every.sizes, every.edges, every.faces
        found = _lines(borders, *keyed, *blocks.cell_map, blocks.corners, *passed, *tables)
        of = [block_of(*blocks.map.arrays, *cap.cell) for cap in caps]
        around = [
            (cap.keys, cap.planes, [len(cap.keys)], cap.cell[None], [block], [[0, -1]])
            for cap, block in zip(caps, of, strict=True)
        ]
        together = [np.concatenate(each) for each in zip(found, *around, strict=True)]
        self.keys, self.planes, self.sizes, self.cells, self.blocks, self.which = together

    def unmatched(self, first_twice: int, twice: Ints) -> Ints:
        """(k,) the edges of the lattice along which a line runs between two crossings of an own mesh, and not one other
        line runs back.
        """
        starts = self.starts
        one, other = self.keys, self.keys[following(starts)]
        along = np.flatnonzero((self.planes < 0) & (one >= first_twice) & (other >= first_twice))
        line = np.searchsorted(starts, along, side="right") - 1
        edges, index = np.unique(twice[one[along] - first_twice], return_inverse=True)
        ways = np.bincount(index, np.where(one < other, 1, -1)[along], len(edges))
        lines = unique_rows(np.column_stack([index.reshape(-1), line]))
        times = np.bincount(lines[:, 0], minlength=len(edges))
        found: Ints = edges[(ways != 0) | (times != 2)]
        return found

    @property
    def starts(self) -> Ints:
        return np.concatenate([[0], np.cumsum(self.sizes)])

    @property
    def alone(self) -> NDArray[np.bool_]:
        """(k,) whether each is the only one around its cell."""
        return table().sizes[self.which[:, 0], 1] == 0


def roots(
    blocks: Blocks, nodes: Nodes, keys: Ints, block: Ints, memory: Memory, go_on: Callable[[float], None]
) -> tuple[Floats, Floats, Ints]:
    """Where the field passes zero along edges of the lattice: (n, 3) in cells, (n, 3) its gradient there, and (n,)
    whose surface it is. block: (n,) in which each is. memory: of those that were found before. go_on: told which share
    is done, every now and then.
    """
    told = np.empty((len(keys), 7))
    free = _free(keys, block, nodes.low, nodes.across, blocks.corners, blocks.pushed)
    kept_as = edge_keys(keys, block, blocks.keys, nodes.low, nodes.across, blocks.corners)
    missing = np.ones(len(keys), dtype=bool)
    some_told = told[free]
    missing[free] = memory.fill("vertices", kept_as[free], (some_told,)) < 0
    told[free] = some_told
    rest = np.flatnonzero(missing)
    order = rest[np.argsort(block[rest], kind="stable")]

    def some(slices: slice) -> None:
        mine = order[slices]
        at = keys[mine], block[mine], free[mine], nodes.low, nodes.across
        told[mine] = _roots(*blocks.fold.arrays, *at, *blocks.placed_lists, blocks.values, blocks.cell)

    in_told_slices(some, len(order), AT_A_TIME, go_on)
    if missing[free].any():
        memory.keep("vertices", Kept.of(kept_as[free], told[free]))
    return told[:, :3].copy(), told[:, 3:6].copy(), told[:, 6].astype(np.int64)


@compiled
def _lines(
    borders: Any,
    low: Any,
    across: Any,
    first_twice: Any,
    twice: Any,
    first: Any,
    tiles: Any,
    inside: Any,
    own_step: Any,
    cells: Any,
    corners: Any,
    passed: Any,
    configs: Any,
    sizes: Any,
    edges: Any,
    faces: Any,
) -> Any:
    room_keys, room_lines = 2 * len(borders), 0
    passes, turns = sizes.sum(axis=1), (sizes > 0).sum(axis=1)
    for config in configs:
        room_keys += passes[config]
        room_lines += turns[config]
    keys, planes = np.empty(room_keys, dtype=np.int64), np.empty(room_keys, dtype=np.int64)
    lengths, which = np.empty(room_lines, dtype=np.int64), np.empty((room_lines, 2), dtype=np.int64)
    of_cells, of_blocks = np.empty((room_lines, 3), dtype=np.int64), np.empty(room_lines, dtype=np.int64)
    n_keys = n_lines = 0
    cell, other, point = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    chain = np.empty(64, dtype=np.int64)
    for c in range(len(passed)):
        block, n = passed[c]
        i, j, k = n // (BLOCK * BLOCK), n // BLOCK % BLOCK, n % BLOCK
        config = configs[c]
        cell[0], cell[1], cell[2] = corners[block, 0] + i, corners[block, 1] + j, corners[block, 2] + k
        begin = 0
        for line in range(sizes.shape[1]):
            size = sizes[config, line]
            if size == 0:
                break
            first_key = n_keys
            plain = True
            for e in range(size):
                key = node_of(cell, edges[config, begin + e], low, across)
                keys[n_keys], planes[n_keys] = key, -1
                n_keys += 1
                face = faces[config, begin + e]
                if what_is_beside(first, tiles, inside, own_step, cells, corners, block, n, face) == LATTICE:
                    continue
                axis = across_face(cell, face, other, point)
                at = first_of(borders, face_key(point, axis, low, across))
                if at < 0:
                    continue
                to = node_of(cell, edges[config, begin + (e + 1) % size], low, across)
                count = chain_of(borders, at, to, key, first_twice, twice, chain)
                plain = False
                # The own mesh's lines run the other way.
                for m in range(count - 1, -1, -1):
                    planes[n_keys - 1] = borders[chain[m], 3]
                    if m > 0:
                        keys[n_keys], planes[n_keys] = borders[chain[m], 1], -1
                        n_keys += 1
                        if borders[chain[m - 1], 2] != borders[chain[m], 1]:
                            keys[n_keys], planes[n_keys] = borders[chain[m - 1], 2], -1
                            n_keys += 1
            lengths[n_lines] = n_keys - first_key
            of_blocks[n_lines] = block
            of_cells[n_lines, 0], of_cells[n_lines, 1], of_cells[n_lines, 2] = cell[0], cell[1], cell[2]
            which[n_lines, 0], which[n_lines, 1] = config, line if plain else -1
            n_lines += 1
            begin += size
    return (
        keys[:n_keys].copy(),
        planes[:n_keys].copy(),
        lengths[:n_lines].copy(),
        of_cells[:n_lines].copy(),
        of_blocks[:n_lines].copy(),
        which[:n_lines].copy(),
    )


@compiled
def _free(keys: Any, block: Any, low: Any, across: Any, corners: Any, pushed: Any) -> Any:
    """(n,) whether the field is what it was found to be at both ends of edges of the lattice."""
    found = np.empty(len(keys), dtype=np.bool_)
    end = np.empty(3, dtype=np.int64)
    for n in range(len(keys)):
        axis = ends_of(keys[n], low, across, end)
        b = block[n]
        x, y, z = end[0] - corners[b, 0], end[1] - corners[b, 1], end[2] - corners[b, 2]
        found[n] = not pushed[b, x, y, z] and not pushed[b, x + (axis == 0), y + (axis == 1), z + (axis == 2)]
    return found


@compiled
def _roots(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    keys: Any,
    block: Any,
    free: Any,
    low: Any,
    across: Any,
    corners: Any,
    starts: Any,
    active: Any,
    at_points: Any,
    cell: Any,
) -> Any:
    """(n, 7): see `roots`. block: in ascending order. free: (n,) see `_free`."""
    found = np.empty((len(keys), 7))
    most, longest = longest_list(block, starts)
    each, told, points = np.empty((2, longest, most, 4)), np.empty((most, 6)), np.empty((most, 3))
    share, lower, upper = np.empty(most), np.empty(most), np.empty(most)
    one, other = np.empty(most), np.empty(most)
    axes = np.empty(most, dtype=np.int64)
    end = np.empty(3, dtype=np.int64)
    first = 0
    while first < len(keys):
        last = end_of_run(block, first)
        b = block[first]
        count = last - first
        for n in range(count):
            axes[n] = ends_of(keys[first + n], low, across, end)
            for axis in range(3):
                found[first + n, axis] = end[axis]
                end[axis] -= corners[b, axis]
            one[n] = at_points[b, end[0], end[1], end[2]]
            end[axes[n]] += 1
            other[n] = at_points[b, end[0], end[1], end[2]]
        lower[:], upper[:] = 0.0, 1.0
        for turn in range(ROOT_STEPS + 1):
            for n in range(count):
                if free[first + n] or turn == 0:
                    # Illinois: the end that stays counts half.
                    share[n] = lower[n] - one[n] * (upper[n] - lower[n]) / (other[n] - one[n])
                    share[n] = min(1 - INSET, max(INSET, share[n]))
                for axis in range(3):
                    points[n, axis] = (found[first + n, axis] + ODD + (share[n] if axis == axes[n] else 0.0)) * cell
            fold_many(
                rows,
                steps,
                numbers,
                blocks,
                values,
                active,
                starts[b],
                starts[b + 1],
                points[:count],
                cell,
                1e-3 * cell,
                each,
                told,
            )
            for n in range(count):
                if (told[n, 0] < 0) == (one[n] < 0):
                    lower[n], one[n], other[n] = share[n], told[n, 0], other[n] / 2
                else:
                    upper[n], other[n], one[n] = share[n], told[n, 0], one[n] / 2
        for n in range(count):
            slope = told[n, 1 + axes[n]]
            if free[first + n] and abs(slope) > 0.1:
                share[n] = min(upper[n], max(lower[n], share[n] - told[n, 0] / (slope * cell)))
                share[n] = min(1 - INSET, max(INSET, share[n]))
            found[first + n, axes[n]] += share[n]
            for axis in range(3):
                found[first + n, 3 + axis] = told[n, 1 + axis]
            found[first + n, 6] = told[n, 5]
        first = last
    return found


def filled(lines: Lines, rings: Rings, wanted: NDArray[np.bool_], first_middle: int) -> Ints:
    """(m, 3) the vertices of triangles that fill rings. wanted: (k,) those that are filled from points within their
    cells, whose vertices begin with `first_middle`.
    """
    every = table()
    found: Ints = _filled(
        rings.starts, lines.which, rings.vertices, wanted, first_middle, every.fills, every.lines, every.sizes
    )
    return found


@compiled
def _filled(
    starts: Any, which: Any, number: Any, wanted: Any, first_middle: Any, fills: Any, fill_lines: Any, sizes: Any
) -> Any:
    total = 0
    for line in range(len(which)):
        size = starts[line + 1] - starts[line]
        total += size if wanted[line] else size - 2
    found = np.empty((total, 3), dtype=np.int64)
    at, middle = 0, first_middle
    for line in range(len(which)):
        size, start = starts[line + 1] - starts[line], starts[line]
        if wanted[line]:
            for n in range(size):
                found[at, 0], found[at, 1], found[at, 2] = number[start + n], number[start + (n + 1) % size], middle
                at += 1
            middle += 1
            continue
        if size == 3:
            found[at] = number[start : start + 3]
            at += 1
            continue
        config, mine = which[line]
        before = 0
        for other in range(mine):
            before += sizes[config, other]
        for t in range(fills.shape[1]):
            if fill_lines[config, t] == mine:
                for c in range(3):
                    found[at, c] = number[start + fills[config, t, c] - before]
                at += 1
    return found
