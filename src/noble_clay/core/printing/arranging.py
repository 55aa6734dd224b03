"""Laying several things out on a bed so that none comes near another: on a grid of cells, the nearest free spot to the
bed's middle for each in turn, the largest first.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold
from numpy.typing import NDArray

from noble_clay.core.mesh.even_odd import enclosed
from noble_clay.core.mesh.mesh import Floats

CELLS = 256
"""Across the longer side of a bed."""


@dataclass(frozen=True)
class Spot:
    """Where a thing's origin comes to lie, mm from the bed's middle, and whether it is turned by a right angle."""

    x: float
    y: float
    turned: bool


def footprint(solid: Manifold) -> CrossSection:
    """What a solid covers, seen from above."""
    return solid.project()


def arranged(things: Sequence[CrossSection], width: float, depth: float, gap: float) -> list[Spot | None]:
    """A spot for each footprint, None for one that finds no room any more. width, depth: mm. gap: mm between any two.

    Cells count as taken wherever something reaches into them, so that the gap is kept, at the cost of up to two cells.
    """
    from scipy.signal import fftconvolve

    cell = max(width, depth) / CELLS
    columns, rows = int(width / cell + 1e-9), int(depth / cell + 1e-9)
    free = np.ones((columns, rows), dtype=bool)
    middle = np.array([(columns - 1) / 2, (rows - 1) / 2])
    found: list[Spot | None] = [None] * len(things)
    masks: dict[int, list[tuple[bool, Floats, NDArray[np.bool_], NDArray[np.bool_]]]] = {}
    full: set[int] = set()
    for n in sorted(range(len(things)), key=lambda n: -things[n].area()):
        thing = things[n]
        if id(thing) in full:
            continue
        if id(thing) not in masks:
            turned = thing.rotate(90)
            masks[id(thing)] = [(t, *_mask(s, cell, gap)) for t, s in ((False, thing), (True, turned))]
        best = None
        for turn, origin, bare, grown in masks[id(thing)]:
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
            off = np.linalg.norm(spots + np.array([a - 1, b - 1]) / 2 - middle, axis=1)
            at = int(np.argmin(off))
            if best is None or off[at] < best[0]:
                best = off[at], spots[at], turn, origin, bare
        if best is None:
            full.add(id(thing))
            continue
        _, (i, j), turn, origin, bare = best
        here = free[i : i + bare.shape[0], j : j + bare.shape[1]]
        here &= ~bare
        x, y = (np.array([i, j]) - middle - 0.5) * cell - origin
        found[n] = Spot(float(x), float(y), turn)
    return found


def _mask(thing: CrossSection, cell: float, gap: float) -> tuple[Floats, NDArray[np.bool_], NDArray[np.bool_]]:
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


def _reached(thing: CrossSection, low: Floats, count: tuple[int, int], cell: float, by: float) -> NDArray[np.bool_]:
    """Which cells may have something of the thing grown by so much: their middles are no further off."""
    import shapely

    grown = thing.offset(by + cell * math.sqrt(0.5), JoinType.Round, circular_segments=48)
    area = enclosed(grown.to_polygons())
    shapely.prepare(area)
    x, y = (low[k] + cell * (np.arange(count[k]) + 0.5) for k in (0, 1))
    inside: NDArray[np.bool_] = shapely.contains_xy(area, *np.meshgrid(x, y, indexing="ij"))
    return inside
