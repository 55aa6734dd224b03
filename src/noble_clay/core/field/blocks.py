"""Where a list's field is looked at: blocks of a lattice that is fixed in space, halved where its surface may be.

The distance at a block's middle and half its diagonal bound every distance in the block, and the fold, which grows with
each of them, bounds the field. Parts that change nothing in a block are left out of its list, so that two neighbours
agree to the last bit on the face that they share.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.field.compiled import compiled
from noble_clay.core.field.fold import FAR, STEP, Fold, end_of_step, fold_many, placed_at, signs_of
from noble_clay.core.mesh.mesh import Floats, Ints

BLOCK = 4
"""Cells along the edge of the smallest block."""

COARSEST = 64
"""Cells along the edge of the largest."""

ODD = 0.4437
"""Where the lattice's first point is, in cells: few faces lie in its planes."""

NUDGE = 1e-7
"""How far from zero the field is kept at lattice points, in cells."""

MOST_BLOCKS = 120_000
"""Smallest blocks that are looked at for one list; beyond them the fineness is too much for the piece."""


@dataclass(frozen=True, eq=False)
class Blocks:
    """corners: (n, 3) whole cells from the origin. starts: (n + 1,) where each block's list of forms is in `active`."""

    cell: float
    corners: Ints
    starts: Ints
    active: Ints


def blocks_of(fold: Fold, cell: float, box: Floats, given: Floats, everywhere: bool = False) -> Blocks:
    """The smallest blocks in a box (2, 3) in which the surface may be rounded; everywhere: in which it may be.

    given: (k, 4) balls, middle and radius in mm, in which all of the surface counts as rounded.
    Raises MeshError for too many.
    """
    low, high = box
    first = np.floor((low / cell - ODD) / COARSEST).astype(np.int64)
    last = np.floor((high / cell - ODD) / COARSEST).astype(np.int64)
    number = float(np.prod((last - first + 1).astype(float)))
    if number > MOST_BLOCKS:
        raise too_fine(cell)
    axes = [np.arange(a, b + 1) for a, b in zip(first, last, strict=True)]
    corners = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3) * COARSEST
    lists = np.zeros(len(corners), dtype=np.int64)
    starts, active = np.array([0, len(fold.every)]), fold.every
    size = COARSEST
    while True:
        kept, starts, active = _kept(
            *fold.arrays, corners, lists, starts, active, float(size) * cell, cell, given, everywhere
        )
        corners = corners[kept]
        if len(corners) > MOST_BLOCKS:
            raise too_fine(cell)
        if size == BLOCK:
            return Blocks(cell, corners, starts, active)
        size //= 2
        lists = np.repeat(np.arange(len(corners)), 8)
        corners = (corners[:, None, :] + EIGHT * size).reshape(-1, 3)


def too_fine(cell: float) -> MeshError:
    return MeshError(
        f"a fineness of {cell:.3g} mm takes over {MOST_BLOCKS * BLOCK**3 // 1_000_000} million cells here; "
        "take a coarser one"
    )


EIGHT = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)])


@compiled
def _kept(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    corners: Any,
    lists: Any,
    starts: Any,
    active: Any,
    side: Any,
    cell: Any,
    given: Any,
    everywhere: Any,
) -> Any:
    """Which blocks are kept, and their lists of forms anew."""
    half = side * math.sqrt(3.0) / 2
    every, longest = 0, 1
    for b in range(len(corners)):
        length = starts[lists[b] + 1] - starts[lists[b]]
        every, longest = every + length, max(longest, length)
    pool, distance = np.empty(every, dtype=np.int64), np.empty(longest)
    kept = np.empty(len(corners), dtype=np.int64)
    ends = np.empty(len(corners) + 1, dtype=np.int64)
    ends[0] = 0
    number = filled = 0
    for b in range(len(corners)):
        x, y, z = (
            (corners[b, 0] + ODD) * cell + side / 2,
            (corners[b, 1] + ODD) * cell + side / 2,
            (corners[b, 2] + ODD) * cell + side / 2,
        )
        first, last = starts[lists[b]], starts[lists[b] + 1]
        begun = filled
        f_low, f_high, margin = FAR, FAR, FAR
        at = first
        while at < last:
            step = int(rows[active[at], STEP])
            end = end_of_step(rows, active, at, last)
            d_low, d_high = FAR, FAR
            for k in range(at, end):
                d = placed_at(rows, numbers, blocks, values, active[k], x, y, z)[0]
                distance[k - first] = d
                d_low, d_high = min(d_low, d - half), min(d_high, d + half)
            sa, sb = signs_of(steps[step, 0])
            a_low, a_high = (f_low, f_high) if sa > 0 else (-f_high, -f_low)
            b_low, b_high = (d_low, d_high) if sb > 0 else (-d_high, -d_low)
            r, wide = steps[step, 1], steps[step, 2]
            if b_low >= max(wide, a_high):
                at = end
                continue  # it changes nothing here
            for k in range(at, end):
                # Of copies, those that are nearest to nothing here.
                if distance[k - first] - half <= d_high and (sb < 0 or distance[k - first] - half < max(wide, a_high)):
                    pool[filled] = active[k]
                    filled += 1
            if b_high < a_low:
                margin = a_low - wide
            elif a_high < b_low:
                margin = min(margin, b_low - wide)
            else:
                margin = min(min(margin, b_low - wide), a_low - wide)
            low = min(a_low, b_low)
            if a_low < r and b_low < r:
                low = r - math.sqrt((r - a_low) ** 2 + (r - b_low) ** 2)
            high = min(a_high, b_high)
            f_low, f_high = (low, high) if sa > 0 else (-high, -low)
            at = end
        for g in range(len(given)):
            away = math.sqrt((x - given[g, 0]) ** 2 + (y - given[g, 1]) ** 2 + (z - given[g, 2]) ** 2)
            margin = min(margin, away - half - given[g, 3])
        if f_low > 0 or f_high < 0 or (margin > 0 and not everywhere):
            filled = begun
            continue
        kept[number] = b
        number += 1
        ends[number] = filled
    return kept[:number].copy(), ends[: number + 1].copy(), pool[:filled].copy()


BEFORE = np.array([[x, y, z] for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) < (0, 0, 0)])
"""To the neighbours of a block that come before it in order."""


def in_order(blocks: Blocks) -> tuple[Blocks, Ints]:
    """The blocks by their corners, and (n, 13) which of them are their neighbours `BEFORE`, -1 for none."""
    number = blocks.corners // BLOCK
    low = number.min(axis=0) - 1
    across = number.max(axis=0) - low + 2

    def code(corners: Ints) -> Ints:
        x, y, z = (corners - low).T
        found: Ints = (x * across[1] + y) * across[2] + z
        return found

    own = code(number)
    order = np.argsort(own)
    own = own[order]
    wanted = code((number[order][:, None, :] + BEFORE).reshape(-1, 3))
    at = np.minimum(np.searchsorted(own, wanted), len(own) - 1)
    neighbours = np.where(own[at] == wanted, at, -1).reshape(-1, len(BEFORE))
    lengths = np.diff(blocks.starts)[order]
    starts = np.concatenate([[0], np.cumsum(lengths)])
    active = blocks.active[np.repeat(blocks.starts[:-1][order] - starts[:-1], lengths) + np.arange(starts[-1])]
    return Blocks(blocks.cell, blocks.corners[order], starts, active), neighbours


@compiled
def lattice_values(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    corners: Any,
    starts: Any,
    active: Any,
    neighbours: Any,
    cell: Any,
    begin: Any,
    end: Any,
    found: Any,
) -> None:
    """Into found (n, 5, 5, 5), for the blocks from `begin` to `end`: the field at their lattice points; right to the
    side only, far from the surface. What a block shares with one before it is taken from there, so that both are of one
    mind.
    """
    side = BLOCK + 1
    longest = 1
    for b in range(len(corners)):
        longest = max(longest, starts[b + 1] - starts[b])
    points, told, each = np.empty((side**3, 3)), np.empty((side**3, 6)), np.empty((2, longest, side**3, 4))
    where = np.empty(side**3, dtype=np.int64)
    known = np.empty((side, side, side), dtype=np.bool_)
    for b in range(begin, end):
        known[:] = False
        for n in range(len(BEFORE)):
            other = neighbours[b, n]
            if other < 0:
                continue
            low, high = np.zeros(3, dtype=np.int64), np.full(3, side, dtype=np.int64)
            for axis in range(3):
                if BEFORE[n, axis] < 0:
                    high[axis] = 1
                elif BEFORE[n, axis] > 0:
                    low[axis] = BLOCK
            for i in range(low[0], high[0]):
                for j in range(low[1], high[1]):
                    for k in range(low[2], high[2]):
                        found[b, i, j, k] = found[
                            other, i - BLOCK * BEFORE[n, 0], j - BLOCK * BEFORE[n, 1], k - BLOCK * BEFORE[n, 2]
                        ]
                        known[i, j, k] = True
        count = 0
        for at in range(side**3):
            i, j, k = at // (side * side), at // side % side, at % side
            if not known[i, j, k]:
                points[count, 0] = (corners[b, 0] + i + ODD) * cell
                points[count, 1] = (corners[b, 1] + j + ODD) * cell
                points[count, 2] = (corners[b, 2] + k + ODD) * cell
                where[count] = at
                count += 1
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
            0.02 * cell,
            each,
            told,
        )
        for n in range(count):
            # No vertex of the surface falls onto a lattice point.
            value = told[n, 0]
            if abs(value) < NUDGE * cell:
                value = math.copysign(NUDGE * cell, value)
            found[b, where[n] // (side * side), where[n] // side % side, where[n] % side] = value
