"""Laying several things out on a bed so that none comes near another: on a grid of cells, the nearest free spot to the
bed's middle for each in turn, the largest first. Where not all of them find room so, row by row from a corner, if that
leaves fewer out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold
from numpy.typing import NDArray

from noble_clay.core.mesh.even_odd import enclosed
from noble_clay.core.mesh.mesh import Floats, Ints

Flags = NDArray[np.bool_]

CELLS = 256
"""Across the longer side of a bed."""


@dataclass(frozen=True)
class Spot:
    """Where a thing's origin comes to lie, mm from its bed's middle, and whether it is turned by a right angle. bed: on
    which, from 0.
    """

    x: float
    y: float
    turned: bool
    bed: int = 0


def footprint(solid: Manifold) -> CrossSection:
    """What a solid covers, seen from above."""
    return solid.project()


def arranged(
    things: Sequence[CrossSection], width: float, depth: float, gap: float, beds: int = 1
) -> list[Spot | None]:
    """A spot for each footprint, on the first of some `beds` alike that has room for it; None for one that finds none.

    width, depth: of a bed, mm. gap: mm between any two.
    """
    grid = _Grid.of(width, depth, gap)
    found: list[Spot | None] = [None] * len(things)
    for bed in range(beds):
        left = [n for n, spot in enumerate(found) if spot is None]
        there = _on_one([things[n] for n in left], grid, by_rows=False)
        if None in there:
            there = min(
                there, _on_one([things[n] for n in left], grid, by_rows=True), key=lambda some: some.count(None)
            )
        for n, spot in zip(left, there, strict=True):
            found[n] = spot and replace(spot, bed=bed)
        if all(found[n] is None for n in left):
            break
    return found


@dataclass(frozen=True)
class _Grid:
    """cell: mm. masks: of footprints that were laid out before, by identity, as they are and turned."""

    columns: int
    rows: int
    cell: float
    gap: float
    masks: dict[int, list[tuple[bool, Floats, Flags, Flags]]]

    @staticmethod
    def of(width: float, depth: float, gap: float) -> _Grid:
        cell = max(width, depth) / CELLS
        return _Grid(int(width / cell + 1e-9), int(depth / cell + 1e-9), cell, gap, {})

    def masks_of(self, thing: CrossSection) -> list[tuple[bool, Floats, Flags, Flags]]:
        if id(thing) not in self.masks:
            both = ((False, thing), (True, thing.rotate(90)))
            self.masks[id(thing)] = [(turned, *_mask(shape, self.cell, self.gap)) for turned, shape in both]
        return self.masks[id(thing)]


def _on_one(things: Sequence[CrossSection], grid: _Grid, by_rows: bool) -> list[Spot | None]:
    """The same on one bed. by_rows: from a corner, and all of it in the middle then; else each near the middle.

    Cells count as taken wherever something reaches into them, so that the gap is kept, at the cost of up to two cells.
    """
    from scipy.signal import fftconvolve

    columns, rows = grid.columns, grid.rows
    free = np.ones((columns, rows), dtype=bool)
    middle = np.array([(columns - 1) / 2, (rows - 1) / 2])
    found: list[tuple[Ints, Floats, bool] | None] = [None] * len(things)
    full: set[int] = set()
    for n in sorted(range(len(things)), key=lambda n: -things[n].area()):
        thing = things[n]
        if id(thing) in full:
            continue
        best = None
        for turn, origin, bare, grown in grid.masks_of(thing):
            a, b = bare.shape
            if a > columns or b > rows:
                continue
            # The bare footprint must lie on the bed; what is grown by the gap may stand out over its edge.
            edge = (grown.shape[0] - a) // 2
            taken = np.pad(~free, edge).astype(float)
            meets = fftconvolve(taken, grown[::-1, ::-1].astype(float), mode="valid") > 0.5
            spots = np.argwhere(~meets)
            if len(spots) == 0:
                continue
            if by_rows:
                off = (spots[:, 1] + b) * float(columns) + spots[:, 0]
            else:
                off = np.linalg.norm(spots + np.array([a - 1, b - 1]) / 2 - middle, axis=1)
            at = int(np.argmin(off))
            if best is None or off[at] < best[0]:
                best = off[at], spots[at], turn, origin, bare
        if best is None:
            full.add(id(thing))
            continue
        _, at_cell, turn, origin, bare = best
        i, j = at_cell
        here = free[i : i + bare.shape[0], j : j + bare.shape[1]]
        here &= ~bare
        found[n] = at_cell, origin, turn
    start = middle + 0.5
    if by_rows and not free.all():
        used = np.argwhere(~free)
        start = (used.min(axis=0) + used.max(axis=0) + 1) / 2
    return [each and _spot((each[0] - start) * grid.cell - each[1], each[2]) for each in found]


def _spot(at: Floats, turned: bool) -> Spot:
    return Spot(float(at[0]), float(at[1]), turned)


def _mask(thing: CrossSection, cell: float, gap: float) -> tuple[Floats, Flags, Flags]:
    """Where the lower corner of the cells lies from the thing's origin, mm; which cells it reaches into; and which that
    have room for nothing else, the same cells and an equal number more all around.
    """
    low_x, low_y, high_x, high_y = thing.bounds()
    low = np.floor(np.array([low_x, low_y]) / cell) * cell
    across, up = (max(1, math.ceil((h - o) / cell - 1e-9)) for o, h in zip(low, (high_x, high_y), strict=True))
    edge = math.ceil(gap / cell) + 1
    return (
        low,
        _reached(thing, low, (across, up), cell, 0.0),
        _reached(thing, low - edge * cell, (across + 2 * edge, up + 2 * edge), cell, gap),
    )


def _reached(thing: CrossSection, low: Floats, count: tuple[int, int], cell: float, by: float) -> Flags:
    """Which cells may have something of the thing grown by so much: their middles are no further off."""
    import shapely

    grown = thing.offset(by + cell * math.sqrt(0.5), JoinType.Round, circular_segments=48)
    area = enclosed(grown.to_polygons())
    shapely.prepare(area)
    x, y = (low[k] + cell * (np.arange(count[k]) + 0.5) for k in (0, 1))
    inside: Flags = shapely.contains_xy(area, *np.meshgrid(x, y, indexing="ij"))
    return inside
