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

from noble_clay.core.field.block_map import block_of, what_is
from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.clip_ears import clipped
from noble_clay.core.field.cut_triangles import cells_about, cut_triangles
from noble_clay.core.field.lattice import BLOCK, ODD, TILE
from noble_clay.core.field.nodes import Nodes
from noble_clay.core.field.threads import in_slices
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.gather import distinct, row_codes, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

KEPT, DROPPED, CUT = 0, 1, 2

AT_A_TIME = 1_000
"""Triangles that one thread cuts in a row."""


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

        def sort(mine: slice) -> Any:
            return _sorted(self.points, self.triangles[mine], self.step[mine], *blocks.cell_map)

        self.what = np.concatenate(list(in_slices(sort, len(self.triangles), AT_A_TIME * 10)))
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
        def cut(mine: slice) -> Any:
            lattice = self.nodes.low, self.nodes.across, *self.blocks.cell_map
            return cut_triangles(self.points, self.triangles, self.step, some[mine], *lattice)

        found = in_slices(cut, len(some), AT_A_TIME)
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
        found, of, rest = clipped(pieces.keys, pieces.points, starts, pieces.triangle, normals)
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
        cells_about(points, triangles[t], low, high)
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
        cells_about(points, triangles[t], low, high)
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
