"""A field sampled on a lattice only near the surface that is looked for, and that surface as a closed mesh."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.loops import compiled
from noble_clay.core.mesh.mesh import Floats, Mesh

Ints = NDArray[np.int64]

MOST_SAMPLES = 4_000_000
"""Lattice points at which a field is sampled at most; beyond it the lattice is too fine for the piece."""

BLOCK = 4
"""Cells along the edge of the smallest block that is kept or left as a whole."""

CORNERS = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]])
"""Of a cell, in the order of libigl's marching cubes."""

_EVEN = np.flatnonzero((np.indices((BLOCK + 1,) * 3) % 2 == 0).all(axis=0).ravel())
"""Of the points of a block, those at an even place along each axis."""

Within = tuple[Callable[[Floats], Floats], float, float]
"""A distance and the span of its values that is of interest, mm."""


class TooFine(MeshError):
    """A lattice would have more than `MOST_SAMPLES` points."""


@dataclass(frozen=True, eq=False)
class Band:
    """Blocks of a lattice. points: (n, 3) mm; cells: (b, 125) which point each lattice point of each block is."""

    points: Floats
    blocks: Ints

    @staticmethod
    def where(withins: list[Within], low: Floats, high: Floats, cell: float) -> Band:
        """The blocks, in the box from `low` to `high`, in which every distance may take a value of its span.

        Raises TooFine when there would be more than `MOST_SAMPLES` points.
        """
        sizes = np.ceil((high - low) / cell).astype(np.int64)
        step = BLOCK
        while step < sizes.max() and step < 64 * BLOCK:
            step *= 2
        counts = np.maximum(-(-sizes // step), 1)
        _check(int(np.prod(counts.astype(float))) * BLOCK)
        corners = np.stack(np.meshgrid(*(np.arange(c) * step for c in counts), indexing="ij"), axis=-1).reshape(-1, 3)
        while True:
            half = step * cell * np.sqrt(3) / 2
            for distance, least, most in withins:
                if len(corners) == 0:
                    break
                values = distance(low + (corners + step / 2) * cell)
                corners = corners[(values > least - half) & (values < most + half)]
            _check(len(corners) * (BLOCK + 1) ** 3 // 2)  # smaller blocks are never fewer
            if step == BLOCK or len(corners) == 0:
                break
            step //= 2
            corners = (corners[:, None, :] + np.array(list(product((0, step), repeat=3)))).reshape(-1, 3)
        side = np.arange(BLOCK + 1)
        offsets = np.stack(np.meshgrid(side, side, side, indexing="ij"), axis=-1).reshape(-1, 3)
        every = corners[:, None, :] + offsets
        across = sizes + 8 * BLOCK * 64
        codes = (every[..., 0] * across[1] + every[..., 1]) * across[2] + every[..., 2]
        known, index = np.unique(codes, return_inverse=True)
        x, yz = np.divmod(known, across[1] * across[2])
        y, z = np.divmod(yz, across[2])
        points = low + np.column_stack([x, y, z]) * cell
        return Band(points, index.reshape(len(corners), len(offsets)).astype(np.int64))

    @property
    def neighbours(self) -> Ints:
        """(k, 2) points that are one cell apart, along each axis; those of several blocks several times."""
        side = BLOCK + 1
        grid = self.blocks.reshape(-1, side, side, side)
        ways = [(grid[:, :-1], grid[:, 1:]), (grid[:, :, :-1], grid[:, :, 1:]), (grid[..., :-1], grid[..., 1:])]
        return np.concatenate([np.column_stack([a.reshape(-1), b.reshape(-1)]) for a, b in ways])

    def sampled(self, distance: Callable[[Floats], Floats], by: float, cell: float) -> Floats:
        """(n,) at the points a distance less `by`, mm: exact at the corners of every cell that its zero passes, and of
        the right sign at all others. As no distance changes by more than one goes, most of those follow from every
        other point along each axis.
        """
        coarse = np.unique(self.blocks[:, _EVEN])
        values = np.full(len(self.points), np.nan)
        values[coarse] = distance(self.points[coarse]) - by
        _follow(self.blocks, values, cell)
        rest = np.flatnonzero(np.isnan(values))
        values[rest] = distance(self.points[rest]) - by
        return values

    def surface(self, values: Floats) -> Mesh:
        """Where `values` (n,) at the points pass zero, negative inside: closed where they are positive at the edge of
        the band. Marching cubes (Lorensen & Cline 1987), as libigl does it.
        """
        import igl

        values = np.where(values == 0, 1e-12, values)  # no vertex falls on a lattice point
        inside = values[self.blocks] < 0
        some = inside.any(axis=1) & ~inside.all(axis=1)
        side = BLOCK + 1
        grid = self.blocks[some].reshape(-1, side, side, side)
        cells = np.stack(
            [grid[:, x : x + BLOCK, y : y + BLOCK, z : z + BLOCK].reshape(-1) for x, y, z in CORNERS], axis=-1
        )
        below = (values[cells] < 0).sum(axis=1)
        cells = cells[(below > 0) & (below < 8)]
        if len(cells) == 0:
            return Mesh.empty()
        used, compact = np.unique(cells, return_inverse=True)
        vertices, triangles, _ = igl.marching_cubes(
            np.ascontiguousarray(values[used]),
            np.ascontiguousarray(self.points[used]),
            np.ascontiguousarray(compact.reshape(-1, 8).astype(np.int64)),
            0.0,
        )
        return Mesh(vertices, triangles.astype(np.int64)).compact()


def _check(samples: int) -> None:
    if samples > MOST_SAMPLES:
        raise TooFine(f"this fineness takes over {MOST_SAMPLES // 1_000_000} million samples; take a coarser one")


@compiled
def _follow(blocks: Any, values: Any, cell: Any) -> None:
    """Give a value to every point that has none, where those at even places beside it leave no doubt that no cell
    around it holds the surface.
    """
    side, enough = BLOCK + 1, np.sqrt(3.0) * cell
    known = np.empty(len(values), dtype=np.bool_)
    for i in range(len(values)):
        known[i] = not np.isnan(values[i])
    for b in range(len(blocks)):
        for x in range(side):
            for y in range(side):
                for z in range(side):
                    point = blocks[b, (x * side + y) * side + z]
                    if known[point]:
                        continue
                    away = np.sqrt(x % 2 + y % 2 + z % 2) * cell
                    least, most = -np.inf, np.inf
                    for i in range(x - x % 2, x + x % 2 + 1, 2):
                        for j in range(y - y % 2, y + y % 2 + 1, 2):
                            for k in range(z - z % 2, z + z % 2 + 1, 2):
                                value = values[blocks[b, (i * side + j) * side + k]]
                                least, most = max(least, value - away), min(most, value + away)
                    if least > enough:
                        values[point] = least
                    elif most < -enough:
                        values[point] = most
