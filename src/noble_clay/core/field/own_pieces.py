"""What is left of the parts' own meshes where cells of the lattice are taken from them: each triangle cut along the
cells' faces.

Where an edge of a mesh passes from cell to cell is found once for both of its triangles, by a walk from one end to the
other in which only the order of steps is a matter of rounding. So the pieces of two triangles meet in the same points,
and so do a piece and the surface on the lattice, which has a vertex where a triangle crosses an edge of a cell.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import manifold3d
import numpy as np
from numpy.typing import NDArray

from noble_clay.core.field.blocks import BLOCK, ODD, TILE, Blocks, block_of, in_threads, what_is
from noble_clay.core.field.compiled import compiled
from noble_clay.core.field.nodes import Nodes, edge_key, face_key, mesh_edge_key
from noble_clay.core.mesh.gather import distinct, row_codes, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.small import small

KEPT, DROPPED, CUT = 0, 1, 2

AT_A_TIME = 1_000
"""Triangles that one thread cuts in a row."""

THIN = 1e-9
"""Twice the area of an ear to its longest side squared below which it is none."""

MOST_CLIPPED = 48
"""Corners of a piece that are clipped one by one; the kernel fills larger ones, and those with holes."""


@dataclass(frozen=True, eq=False)
class Pieces:
    """Pieces of triangles. keys: (n,) nodes around them, counter-clockwise. points: (n, 3) where they are, in cells.
    sizes, triangle: (k,) how many of them each piece has, and of which triangle it is. borders: (b, 5) of each line
    between what is kept and what is not: the face of a cell in which it runs, its first and last node with what is kept
    on its left, its triangle, and whether the kept cell is the upper of the two.
    """

    keys: Ints
    points: Floats
    sizes: Ints
    triangle: Ints
    borders: Ints

    def of(self, wanted: NDArray[np.bool_]) -> Pieces:
        """Those of wanted triangles, (t,)."""
        some = wanted[self.triangle]
        of_nodes = np.repeat(some, self.sizes)
        borders = self.borders[wanted[self.borders[:, 3]]]
        return Pieces(self.keys[of_nodes], self.points[of_nodes], self.sizes[some], self.triangle[some], borders)

    @staticmethod
    def together(every: list[Pieces]) -> Pieces:
        return Pieces(
            np.concatenate([p.keys for p in every]),
            np.concatenate([p.points for p in every]),
            np.concatenate([p.sizes for p in every]),
            np.concatenate([p.triangle for p in every]),
            np.concatenate([p.borders for p in every]),
        )


class OwnPieces:
    """The own meshes of all steps, in lattice units, and what is left of them.

    points: (v, 3), triangles: (t, 3) outward of the whole, step: (t,). what: (t,) `KEPT`, `DROPPED` or `CUT`. failed:
    (k, 3) cells about triangles whose pieces could not be told.
    """

    def __init__(self, meshes: list[Mesh], turned: list[bool], blocks: Blocks, nodes: Nodes) -> None:
        """turned: of each step, whether its surface is turned inside out."""
        self.blocks, self.nodes = blocks, nodes
        starts = np.cumsum([0, *(len(m.vertices) for m in meshes)])
        self.points = np.concatenate([m.vertices for m in meshes]) / blocks.cell - ODD
        both = zip(meshes, turned, starts, strict=False)
        self.triangles = np.concatenate([(m.triangles[:, ::-1] if t else m.triangles) + s for m, t, s in both])
        self.step = np.repeat(np.arange(len(meshes)), [len(m.triangles) for m in meshes])
        self._first = np.cumsum([0, *(len(m.triangles) for m in meshes)])

        def sort(begin: int) -> Any:
            end = begin + AT_A_TIME * 10
            return _sorted(self.points, self.triangles[begin:end], self.step[begin:end], *blocks.map)

        self.what = np.concatenate(list(in_threads(sort, range(0, len(self.triangles), AT_A_TIME * 10))))
        self.failed = np.zeros((0, 3), dtype=np.int64)
        self.pieces = self._cut(np.flatnonzero(self.what == CUT))

    def cut_again(self, cells: Ints) -> None:
        """Cells (n, 3) were given to the lattice."""
        touched = _touched(self.points, self.triangles, self.what, cells)
        self.what[touched] = CUT
        again = np.zeros(len(self.triangles), dtype=bool)
        again[touched] = True
        self.pieces = Pieces.together([self.pieces.of(~again), self._cut(np.flatnonzero(again))])

    def _cut(self, some: Ints) -> Pieces:
        nodes = self.nodes

        def cut(begin: int) -> Any:
            mine = some[begin : begin + AT_A_TIME]
            return _cut(self.points, self.triangles, self.step, mine, nodes.low, nodes.across, *self.blocks.map)

        found = list(in_threads(cut, range(0, len(some), AT_A_TIME))) or [cut(0)]
        keys, points, sizes, triangle, borders, bad = (np.concatenate(each) for each in zip(*found, strict=True))
        self.failed = np.zeros((0, 3), dtype=np.int64)
        if len(bad):
            corners = np.floor(self.points[self.triangles[bad]]).astype(np.int64)
            self.failed = unique_rows(np.concatenate([_box(c.min(axis=0), c.max(axis=0)) for c in corners]))
        return Pieces(keys, points, sizes, triangle, borders)

    @property
    def first_twice(self) -> int:
        """The first key of nodes on edges of the lattice that are crossed more than once."""
        return self.nodes.corner + len(self.points)

    def told_apart(self) -> tuple[Pieces, Ints]:
        """The pieces, nodes on an edge of the lattice that is crossed more than once named one by one, behind the
        corners; and (n,) on which edge each of these is.
        """
        pieces = self.pieces
        nodes = [pieces.keys, pieces.borders[:, 1], pieces.borders[:, 2]]
        triangles = [np.repeat(pieces.triangle, pieces.sizes), pieces.borders[:, 3], pieces.borders[:, 3]]
        on_edges = [(keys >= 0) & (keys < self.nodes.corner) for keys in nodes[:2]]
        pairs = unique_rows(np.column_stack([nodes[1], triangles[1]])[on_edges[1]])
        edges, times = np.unique(pairs[:, 0], return_counts=True)
        twice = pairs[np.isin(pairs[:, 0], edges[times > 1])]
        if len(twice) == 0:
            return pieces, twice[:, 0].copy()
        known, apart = distinct(twice[:, 0]), []
        for keys, of in zip(nodes, triangles, strict=True):
            some = np.flatnonzero(np.isin(keys, known))
            wanted = np.column_stack([keys[some], of[some]])
            # A pair that is not among them is of a piece that touches an edge with no line at it: it cannot be.
            _, index = np.unique(row_codes(np.concatenate([twice, wanted])), return_inverse=True)
            renamed = keys.copy()
            renamed[some] = self.first_twice + index.reshape(-1)[len(twice) :]
            apart.append(renamed)
        borders = pieces.borders.copy()
        borders[:, 1], borders[:, 2] = apart[1:]
        return Pieces(apart[0], pieces.points, pieces.sizes, pieces.triangle, borders), twice[:, 0].copy()

    def filled(self, pieces: Pieces, normals: Floats) -> tuple[Ints, Ints, Ints]:
        """(m, 3) the triangles of what is left, as keys of nodes; (m,) of which step each is, and (m,) of which
        triangle of its mesh a piece. normals: (t, 3) of all triangles.
        """
        whole = np.flatnonzero(self.what == KEPT)
        starts = np.concatenate([[0], np.cumsum(pieces.sizes)])
        found, of, rest = _clipped(pieces.keys, pieces.points, starts, pieces.triangle, normals)
        triangles, source = [self.nodes.corner + self.triangles[whole], found], [whole, of]
        for t in distinct(pieces.triangle[rest]).tolist():
            some = rest[pieces.triangle[rest] == t]
            axis = int(np.argmax(np.abs(normals[t])))
            flat = [(axis + 1) % 3, (axis + 2) % 3] if normals[t, axis] > 0 else [(axis + 2) % 3, (axis + 1) % 3]
            spans = [slice(starts[n], starts[n + 1]) for n in some.tolist()]
            indices = manifold3d.triangulate([np.ascontiguousarray(pieces.points[s][:, flat]) for s in spans])
            triangles.append(np.concatenate([pieces.keys[s] for s in spans])[indices])
            source.append(np.full(len(indices), t))
        of_all = np.concatenate(source)
        step = self.step[of_all]
        return np.concatenate(triangles), step, of_all - self._first[step]


def _box(low: Ints, high: Ints) -> Ints:
    axes = [np.arange(a, b + 1) for a, b in zip(low, high, strict=True)]
    return np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)


@compiled
def _sorted(
    points: Any, triangles: Any, step: Any, first: Any, tiles: Any, inside: Any, own_step: Any, cells: Any
) -> Any:
    """(t,) what becomes of each triangle, by the cells about it."""
    what = np.empty(len(triangles), dtype=np.int64)
    low, high = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    for t in range(len(triangles)):
        _cells_about(points, triangles[t], low, high)
        few = max(high[0] - low[0], high[1] - low[1], high[2] - low[2]) < 2 * BLOCK
        for axis in range(3):
            low[axis] = max(low[axis], first[axis] - BLOCK)
            high[axis] = min(high[axis], first[axis] + BLOCK * (1 + TILE * tiles.shape[axis]))
        # Block by block, then cell by cell where that does not tell and the triangle is small.
        mine = others = False
        for x in range(low[0] & -BLOCK, high[0] + 1, BLOCK):
            for y in range(low[1] & -BLOCK, high[1] + 1, BLOCK):
                for z in range(low[2] & -BLOCK, high[2] + 1, BLOCK):
                    whole = _whole(first, tiles, inside, own_step, x, y, z)
                    mine, others = mine or whole in (step[t], -3), others or whole != step[t]
                if mine and others:
                    break
            if mine and others:
                break
        if mine and others and few:
            mine = others = False
            for x in range(low[0], high[0] + 1):
                for y in range(low[1], high[1] + 1):
                    for z in range(low[2], high[2] + 1):
                        if what_is(first, tiles, inside, own_step, cells, x, y, z) == step[t]:
                            mine = True
                        else:
                            others = True
                    if mine and others:
                        break
                if mine and others:
                    break
        what[t] = CUT if mine and others else (KEPT if mine else DROPPED)
    return what


@small
def _whole(first: Any, tiles: Any, inside: Any, own_step: Any, x: Any, y: Any, z: Any) -> Any:
    """Of which step's own a whole block is, or -1 for nothing, or -3 where its cells differ."""
    block = block_of(first, tiles, inside, x, y, z)
    if block >= 0:
        return -3
    return -1 if block == -1 else int(own_step[-2 - block])


@small
def _cells_about(points: Any, triangle: Any, low: Any, high: Any) -> None:
    for axis in range(3):
        a, b, c = points[triangle[0], axis], points[triangle[1], axis], points[triangle[2], axis]
        low[axis], high[axis] = int(np.floor(min(a, b, c))), int(np.floor(max(a, b, c)))


@compiled
def _touched(points: Any, triangles: Any, what: Any, some: Any) -> Any:
    """Triangles that are not dropped and about which any of some cells (n, 3) is."""
    low, high = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    least, most = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    for axis in range(3):
        least[axis], most[axis] = some[:, axis].min(), some[:, axis].max()
    found = np.empty(len(triangles), dtype=np.int64)
    number = 0
    for t in range(len(triangles)):
        if what[t] == DROPPED:
            continue
        _cells_about(points, triangles[t], low, high)
        apart = False
        for axis in range(3):
            apart = apart or low[axis] > most[axis] or high[axis] < least[axis]
        if apart:
            continue
        for n in range(len(some)):
            x, y, z = some[n]
            if low[0] <= x <= high[0] and low[1] <= y <= high[1] and low[2] <= z <= high[2]:
                found[number] = t
                number += 1
                break
    return found[:number].copy()


@compiled
def _grown(array: Any, least: Any) -> Any:
    """An array with room for `least` rows."""
    if len(array) >= least:
        return array
    wider = np.empty((max(least, 2 * len(array)), *array.shape[1:]), dtype=array.dtype)
    wider[: len(array)] = array
    return wider


@compiled
def _cut(
    points: Any,
    triangles: Any,
    step: Any,
    some: Any,
    low: Any,
    across: Any,
    first: Any,
    tiles: Any,
    inside: Any,
    own_step: Any,
    cells: Any,
) -> Any:
    """The pieces of some triangles; see `Pieces`; and those that failed."""
    keys, places = np.empty(4096, dtype=np.int64), np.empty((4096, 3))
    sizes, of = np.empty(1024, dtype=np.int64), np.empty(1024, dtype=np.int64)
    borders = np.empty((1024, 5), dtype=np.int64)
    bad = np.empty(len(some), dtype=np.int64)
    n_keys = n_pieces = n_borders = n_bad = 0
    # Lines of one triangle: nodes from and to, and the cells in which they begin and end; where they begin.
    lines, begins = np.empty((256, 4), dtype=np.int64), np.empty((256, 3))
    # Where the triangle's border passes each plane of the lattice, upward and downward: node, the cell's second and
    # third index, and the place.
    passing, passed = np.empty((64, 6), dtype=np.int64), np.empty((64, 6))
    # Steps along an edge: axis, plane, way; and the place.
    way, at = np.empty((64, 3), dtype=np.int64), np.empty((64, 3))
    base, extent = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    one, other = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64)
    node, begins_y = np.empty(3), np.empty(3)
    left, onto, shares = np.empty(3, dtype=np.int64), np.empty(3, dtype=np.int64), np.empty(3)
    corner_keys = across[0] * across[1] * across[2] * 3
    # Beyond these there is nothing.
    least, most = first - 2, first + 2
    for axis in range(3):
        most[axis] += tiles.shape[axis] * TILE * BLOCK
    for s in range(len(some)):
        t = some[s]
        mine = step[t]
        _cells_about(points, triangles[t], base, extent)
        for axis in range(3):
            extent[axis] -= base[axis]
        planes = extent[0] + extent[1] + extent[2]
        if planes > len(way):
            passing, passed = _grown(passing, planes), _grown(passed, planes)
            way, at = _grown(way, planes), _grown(at, planes)
        passing[:planes, 0], passing[:planes, 3] = 0, 0
        offset = 0
        n_lines = 0
        # Around the triangle's border.
        for e in range(3):
            i, j = triangles[t, e], triangles[t, (e + 1) % 3]
            lo, hi = min(i, j), max(i, j)
            count = _walk(points, lo, hi, way, at, left, onto, shares)
            forward = i == lo
            for axis in range(3):
                one[axis] = int(np.floor(points[i, axis]))
            in_own = what_is(first, tiles, inside, own_step, cells, one[0], one[1], one[2]) == mine
            begin = corner_keys + i
            begin_cell = _cell_code(one, low, across)
            _put(node, points[i])
            for c in range(count + 1):
                if c < count:
                    n = c if forward else count - 1 - c
                    axis, plane, up = way[n, 0], way[n, 1], way[n, 2]
                    rises = (up == 1) == forward
                    _put(other, one)
                    other[axis] += 1 if rises else -1
                    now_own = what_is(first, tiles, inside, own_step, cells, other[0], other[1], other[2]) == mine
                    key = mesh_edge_key(lo, hi, len(points), axis, plane - low[axis], across)
                    offset = plane - base[axis] - 1
                    for before in range(axis):
                        offset += extent[before]
                    where = 0 if rises else 3
                    passing[offset, where] = key
                    passing[offset, where + 1] = one[(axis + 1) % 3]
                    passing[offset, where + 2] = one[(axis + 2) % 3]
                    for k in range(3):
                        passed[offset, where + k] = at[n, k]
                    if in_own == now_own:
                        _put(one, other)
                        continue
                else:
                    key, now_own = corner_keys + j, False
                if in_own:
                    if n_lines == len(lines):
                        lines, begins = _grown(lines, n_lines + 1), _grown(begins, n_lines + 1)
                    lines[n_lines, 0], lines[n_lines, 1] = begin, key
                    lines[n_lines, 2], lines[n_lines, 3] = begin_cell, _cell_code(one, low, across)
                    for k in range(3):
                        begins[n_lines, k] = node[k]
                    n_lines += 1
                if c < count:
                    _put(one, other)
                    if now_own:
                        begin, begin_cell = key, _cell_code(one, low, across)
                        _put(node, at[n])
                    in_own = now_own
        # Across it, along each plane of the lattice.
        first_border = n_borders
        offset = 0
        for axis in range(3):
            b, c = (axis + 1) % 3, (axis + 2) % 3
            for k in range(extent[axis]):
                plane = base[axis] + 1 + k
                row = offset + k
                if passing[row, 0] == 0 or passing[row, 3] == 0:
                    continue
                if plane < least[axis] or plane > most[axis]:
                    continue
                p_key, q_key = passing[row, 0], passing[row, 3]
                ib, ic, jb, jc = passing[row, 1], passing[row, 2], passing[row, 4], passing[row, 5]
                over_b, over_c = passed[row, 3 + b] - passed[row, b], passed[row, 3 + c] - passed[row, c]
                # Of a line that comes from far outside the list's space, only what is in it.
                share = max(
                    _share_until(passed[row, b], over_b, least[b], most[b]),
                    _share_until(passed[row, c], over_c, least[c], most[c]),
                )
                if share >= 1:
                    continue
                if share > 0:
                    place_b, place_c = passed[row, b] + share * over_b, passed[row, c] + share * over_c
                    ib = min(max(ib, jb), max(min(ib, jb), int(np.floor(place_b))))
                    ic = min(max(ic, jc), max(min(ic, jc), int(np.floor(place_c))))
                room = abs(jb - ib) + abs(jc - ic) + 1
                if room > 2 * (most - least).max():
                    jb = min(most[b], max(least[b], jb))
                    jc = min(most[c], max(least[c], jc))
                    room = abs(jb - ib) + abs(jc - ic) + 1
                if n_lines + room > len(lines):
                    lines, begins = _grown(lines, n_lines + room), _grown(begins, n_lines + room)
                if n_borders + room > len(borders):
                    borders = _grown(borders, n_borders + room)
                x_key = p_key
                _put(node, passed[row])
                for _ in range(room):
                    # The next line of the lattice that is crossed within the plane.
                    one[axis], one[b], one[c] = plane, ib, ic
                    s_b = s_c = np.inf
                    if jb != ib:
                        s_b = ((ib + 1 if jb > ib else ib) - passed[row, b]) / over_b if over_b != 0 else 0.0
                    if jc != ic:
                        s_c = ((ic + 1 if jc > ic else ic) - passed[row, c]) / over_c if over_c != 0 else 0.0
                    over = 0.0
                    if jb == ib and jc == ic:
                        y_key = q_key
                    elif s_b <= s_c:
                        other[axis], other[b], other[c] = plane, (ib + 1 if jb > ib else ib), ic
                        y_key = edge_key(other, c, low, across)
                        ib += 1 if jb > ib else -1
                        over = s_b
                    else:
                        other[axis], other[b], other[c] = plane, ib, (ic + 1 if jc > ic else ic)
                        y_key = edge_key(other, b, low, across)
                        ic += 1 if jc > ic else -1
                        over = s_c
                    upper = what_is(first, tiles, inside, own_step, cells, one[0], one[1], one[2]) == mine
                    face = face_key(one, axis, low, across)
                    one[axis] -= 1
                    lower = what_is(first, tiles, inside, own_step, cells, one[0], one[1], one[2]) == mine
                    over = min(1.0, max(0.0, over))
                    for a in range(3):
                        begins_y[a] = passed[row, 3 + a]
                        if y_key != q_key:
                            begins_y[a] = passed[row, a] + (passed[row, 3 + a] - passed[row, a]) * over
                            # On the edge of the lattice it was said to be on.
                            if a == axis or (a == b and s_b <= s_c) or (a == c and s_b > s_c):
                                begins_y[a] = other[a]
                            else:
                                begins_y[a] = min(other[a] + 1.0, max(float(other[a]), begins_y[a]))
                    if upper != lower:
                        if upper:
                            one[axis] += 1
                        code = _cell_code(one, low, across)
                        lines[n_lines, 0], lines[n_lines, 1] = (y_key, x_key) if upper else (x_key, y_key)
                        lines[n_lines, 2], lines[n_lines, 3] = code, code
                        for a in range(3):
                            begins[n_lines, a] = begins_y[a] if upper else node[a]
                        borders[n_borders, 0] = face
                        borders[n_borders, 1], borders[n_borders, 2] = lines[n_lines, 0], lines[n_lines, 1]
                        borders[n_borders, 3], borders[n_borders, 4] = t, 1 if upper else 0
                        n_lines += 1
                        n_borders += 1
                    x_key = y_key
                    _put(node, begins_y)
            offset += extent[axis]
        if n_lines == 0:
            continue
        if n_keys + n_lines > len(keys):
            keys, places = _grown(keys, n_keys + n_lines), _grown(places, n_keys + n_lines)
        if n_pieces + n_lines > len(sizes):
            sizes, of = _grown(sizes, n_pieces + n_lines), _grown(of, n_pieces + n_lines)
        number = _around(lines, begins, n_lines, keys, places, n_keys, sizes, n_pieces)
        if number < 0:
            bad[n_bad] = t
            n_bad += 1
            n_borders = first_border
            continue
        of[n_pieces : n_pieces + number] = t
        n_pieces += number
        n_keys += n_lines
    return (
        keys[:n_keys].copy(),
        places[:n_keys].copy(),
        sizes[:n_pieces].copy(),
        of[:n_pieces].copy(),
        borders[:n_borders].copy(),
        bad[:n_bad].copy(),
    )


@small
def _share_until(start: Any, over: Any, least: Any, most: Any) -> Any:
    """Which share of a way lies before it comes between two places; above 1 where it never does."""
    if (over >= 0 and start > most) or (over <= 0 and start < least):
        return 2.0
    if start < least:
        return (least - start) / over
    return (most - start) / over if start > most else 0.0


@small
def _put(into: Any, place: Any) -> None:
    """Three numbers into an array, with which to fill a slice would make another first."""
    for k in range(3):
        into[k] = place[k]


@small
def _cell_code(cell: Any, low: Any, across: Any) -> Any:
    return ((cell[0] - low[0]) * across[1] + cell[1] - low[1]) * across[2] + cell[2] - low[2]


@small
def _walk(points: Any, lo: Any, hi: Any, way: Any, at: Any, n: Any, next_plane: Any, share: Any) -> Any:
    """The steps from cell to cell along an edge, in order, with their places; how many. n, next_plane, share: (3,) room
    to work in.
    """
    for axis in range(3):
        start, end = int(np.floor(points[lo, axis])), int(np.floor(points[hi, axis]))
        n[axis] = end - start
        next_plane[axis] = start + 1 if end > start else start
        share[axis] = np.inf
        if n[axis] != 0:
            share[axis] = (next_plane[axis] - points[lo, axis]) / (points[hi, axis] - points[lo, axis])
    count = 0
    while n[0] != 0 or n[1] != 0 or n[2] != 0:
        axis = 0
        for other in range(1, 3):
            if share[other] < share[axis]:
                axis = other
        up = 1 if n[axis] > 0 else 0
        way[count, 0], way[count, 1], way[count, 2] = axis, next_plane[axis], up
        for other in range(3):
            at[count, other] = points[lo, other] + (points[hi, other] - points[lo, other]) * share[axis]
        at[count, axis] = next_plane[axis]
        count += 1
        n[axis] -= 1 if up else -1
        next_plane[axis] += 1 if up else -1
        share[axis] = np.inf
        if n[axis] != 0:
            share[axis] = (next_plane[axis] - points[lo, axis]) / (points[hi, axis] - points[lo, axis])
    return count


MANY_LINES = 32
"""Lines of one triangle among which the next is not looked for one by one."""


@compiled
def _around(lines: Any, begins: Any, count: Any, keys: Any, places: Any, at: Any, sizes: Any, piece: Any) -> Any:
    """Lines joined to closed ones, from keys[at] and sizes[piece] on; how many, or -1 where they do not close. Where
    four lines meet, one goes on in the cell in which it came.
    """
    if count <= MANY_LINES:
        return _joined(lines, begins, count, NO_ORDER, keys, places, at, sizes, piece)
    return _joined(lines, begins, count, np.argsort(lines[:count, 0]), keys, places, at, sizes, piece)


NO_ORDER = np.zeros(0, dtype=np.int64)

USED = 1 << 62
"""Added to where a line ends, once it is a part of a closed one."""


@small
def _joined(
    lines: Any, begins: Any, count: Any, order: Any, keys: Any, places: Any, at: Any, sizes: Any, piece: Any
) -> Any:
    """As `_around`. order: (count,) of the lines by where they begin, or none. Marks the lines' fourth column."""
    number, filled = 0, at
    for start in range(count):
        if lines[start, 3] > USED // 2:
            continue
        line, size = start, 0
        while True:
            cell = lines[line, 3]
            lines[line, 3] += USED
            keys[filled] = lines[line, 0]
            for k in range(3):
                places[filled, k] = begins[line, k]
            filled, size = filled + 1, size + 1
            to, found, first = lines[line, 1], -1, 0
            if len(order):
                last = count
                while first < last:
                    middle = (first + last) // 2
                    if lines[order[middle], 0] < to:
                        first = middle + 1
                    else:
                        last = middle
            for n in range(first, count):
                onward = order[n] if len(order) else n
                if lines[onward, 0] != to:
                    if len(order):
                        break
                    continue
                if lines[onward, 3] > USED // 2 and onward != start:
                    continue
                if found < 0 or lines[onward, 2] == cell:
                    found = onward
            if found < 0:
                return -1
            if found == start:
                break
            line = found
        if size < 3:
            return -1
        sizes[piece + number] = size
        number += 1
    return number


@compiled
def _clipped(keys: Any, points: Any, starts: Any, triangle: Any, normals: Any) -> Any:
    """Pieces filled by clipping their ears, the best first: (m, 3) triangles, (m,) of which triangle they are, and the
    pieces that are left: large ones, and all of triangles that have pieces with holes.
    """
    pieces = len(starts) - 1
    left = np.zeros(pieces, dtype=np.bool_)
    flat = np.empty((MOST_CLIPPED, 2))
    n = 0
    while n < pieces:
        end = n
        whole = True
        while end < pieces and triangle[end] == triangle[n]:
            size = starts[end + 1] - starts[end]
            if size > MOST_CLIPPED:
                whole = False
            else:
                _flat(points, starts[end], size, normals[triangle[n]], flat)
                area = 0.0
                for k in range(size):
                    i, j = flat[k], flat[(k + 1) % size]
                    area += i[0] * j[1] - i[1] * j[0]
                if area < 0:
                    whole = False
            end += 1
        left[n:end] = not whole
        n = end
    total = 0
    for n in range(pieces):
        if not left[n]:
            total += starts[n + 1] - starts[n] - 2
    found, of = np.empty((total, 3), dtype=np.int64), np.empty(total, dtype=np.int64)
    ring = np.empty(MOST_CLIPPED, dtype=np.int64)
    at = 0
    for n in range(pieces):
        if left[n]:
            continue
        size = starts[n + 1] - starts[n]
        if size > 3:
            _flat(points, starts[n], size, normals[triangle[n]], flat)
        for k in range(size):
            ring[k] = k
        while size > 3:
            best, which = -np.inf, 0
            for k in range(size):
                quality = _ear(flat, ring, size, k)
                if quality > best:
                    best, which = quality, k
            for k, corner in enumerate((which - 1, which, which + 1)):
                found[at, k] = keys[starts[n] + ring[corner % size]]
            of[at] = triangle[n]
            at += 1
            for k in range(which, size - 1):
                ring[k] = ring[k + 1]
            size -= 1
        for k in range(3):
            found[at, k] = keys[starts[n] + ring[k]]
        of[at] = triangle[n]
        at += 1
    return found, of, np.flatnonzero(left)


@small
def _flat(points: Any, start: Any, size: Any, normal: Any, flat: Any) -> None:
    axis = 0
    for other in (1, 2):
        if abs(normal[other]) > abs(normal[axis]):
            axis = other
    b, c = (axis + 1) % 3, (axis + 2) % 3
    if normal[axis] < 0:
        b, c = c, b
    for k in range(size):
        flat[k, 0], flat[k, 1] = points[start + k, b], points[start + k, c]


@small
def _ear(flat: Any, ring: Any, size: Any, k: Any) -> Any:
    """How well shaped the ear at a corner is: its area to its longest side squared; negative where it is none."""
    i, j, h = ring[(k - 1) % size], ring[k], ring[(k + 1) % size]
    ax, ay, bx, by, cx, cy = flat[i, 0], flat[i, 1], flat[j, 0], flat[j, 1], flat[h, 0], flat[h, 1]
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    longest = max((bx - ax) ** 2 + (by - ay) ** 2, (cx - bx) ** 2 + (cy - by) ** 2, (ax - cx) ** 2 + (ay - cy) ** 2)
    quality = area / longest if longest > 0 else 0.0
    if quality <= THIN:
        return quality - 1.0 if quality < -THIN else quality
    for other in range(size):
        p = ring[other]
        if p in (i, j, h):
            continue
        x, y = flat[p, 0], flat[p, 1]
        if (
            (bx - ax) * (y - ay) - (by - ay) * (x - ax) >= 0
            and (cx - bx) * (y - by) - (cy - by) * (x - bx) >= 0
            and (ax - cx) * (y - cy) - (ay - cy) * (x - cx) >= -THIN * longest
            and not (x == ax and y == ay)
            and not (x == bx and y == by)
            and not (x == cx and y == cy)
        ):
            return quality - 2.0
    return quality
