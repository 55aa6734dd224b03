"""Space halved where a list's surface may be rounded, down to blocks that are looked at cell by cell.

The distance at a block's middle and half its diagonal bound every distance in the block, and the fold, which grows with
each of them, bounds the field. Parts that change nothing in a block are left out of its list, so that two neighbours
agree on the face that they share.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.field.block_map import BlockMap
from noble_clay.core.field.fold import FAR, STEP, Fold, end_of_step, placed_at, signs_of
from noble_clay.core.field.lattice import BLOCK, LATTICE, NOTHING, ODD, TILE
from noble_clay.core.field.threads import in_slices
from noble_clay.core.loops import compiled
from noble_clay.core.mesh.gather import spans
from noble_clay.core.mesh.mesh import Floats, Ints

MOST_BLOCKS = 120_000
"""Smallest blocks that are looked at for one list; beyond them the fineness is too much for the piece."""

SLACK = 0.5
"""How far a part's own mesh may be off its true shape, in cells, for a block to be sure to hold none of it."""

AT_A_TIME = 2_000
"""Blocks that one thread takes to be nothing, one step's own, or to be looked at."""

EIGHT = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)])


@dataclass(frozen=True, eq=False)
class Lists:
    """Lists of forms: starts (n + 1,) of each in active (k,)."""

    starts: Ints
    active: Ints

    @classmethod
    def of(cls, lengths: Ints, active: Ints) -> Lists:
        return cls(np.concatenate([[0], np.cumsum(lengths)]), active)

    @classmethod
    def of_one(cls, active: Ints) -> Lists:
        return cls(np.array([0, len(active)]), active)

    def of_some(self, some: Ints) -> Lists:
        lengths = np.diff(self.starts)[some]
        return Lists.of(lengths, self.active[spans(self.starts[:-1][some], lengths)])

    def __add__(self, other: Lists) -> Lists:
        starts = np.concatenate([self.starts, self.starts[-1] + other.starts[1:]])
        return Lists(starts, np.concatenate([self.active, other.active]))


@dataclass(frozen=True, eq=False)
class Halved:
    """map: where blocks are. corners: (m, 3) the first cells of those that are to be looked at, in order, and their
    lists. own_step, own: of those that are one step's own, which step's, and their lists.
    """

    map: BlockMap
    corners: Ints
    lists: Lists
    own_step: Ints
    own: Lists


def halved(fold: Fold, cell: float, box: Floats, everywhere: bool, many: int | None) -> Halved:
    """box: (2, 3), mm. everywhere: no block is a step's own. many: of twice the smallest side, where there may be fewer
    than can be held. Raises MeshError for too many.
    """
    side = BLOCK * TILE
    low, high = (np.floor((corner / cell - ODD) / side).astype(np.int64) for corner in box)
    if float(np.prod((high - low + 1).astype(float))) > MOST_BLOCKS:
        raise too_fine(cell)
    shape = tuple(int(n) for n in high - low + 1)
    corners = np.stack(np.meshgrid(*(np.arange(n) for n in shape), indexing="ij"), axis=-1).reshape(-1, 3) * side
    found = BlockMap(low * side, shape)
    lists, which = Lists.of_one(fold.every), np.zeros(len(corners), dtype=np.int64)
    own_step, own = np.zeros(0, dtype=np.int64), Lists(np.zeros(1, dtype=np.int64), np.zeros(0, dtype=np.int64))
    while True:
        what, each = _looked_at_roughly(fold, corners + found.first, which, lists, side, cell, everywhere)
        if side == BLOCK * TILE:
            found.make_room(corners[what != NOTHING])
        one = np.flatnonzero(what >= 0)
        found.fill(corners[one], side // BLOCK, -2 - len(own_step) - np.arange(len(one)))
        own_step, own = np.concatenate([own_step, what[one]]), own + each.of_some(one)
        kept = np.flatnonzero(what == LATTICE)
        if len(kept) > MOST_BLOCKS or (many is not None and side == 2 * BLOCK and len(kept) > many):
            raise too_fine(cell)
        corners = corners[kept]
        if side == BLOCK:
            break
        lists, which = each.of_some(kept), np.repeat(np.arange(len(kept)), 8)
        side //= 2
        corners = (corners[:, None, :] + EIGHT * side).reshape(-1, 3)
    order = np.lexsort(corners.T[::-1])
    corners, lists = corners[order], each.of_some(kept[order])
    found.fill(corners, 1, np.arange(len(corners)))
    return Halved(found, corners + found.first, lists, own_step, own)


def _looked_at_roughly(
    fold: Fold, corners: Ints, which: Ints, lists: Lists, side: int, cell: float, everywhere: bool
) -> tuple[Ints, Lists]:
    """What blocks `side` cells wide are, as `_what` tells it, and their lists. which: (n,) of `lists` each had."""

    def some(mine: slice) -> Any:
        at = corners[mine], which[mine], lists.starts, lists.active
        return _what(*fold.arrays, *at, float(side) * cell, cell, everywhere)

    found = in_slices(some, len(corners), AT_A_TIME)
    what, lengths, active = (np.concatenate(each) for each in zip(*found, strict=True))
    return what, Lists.of(lengths, active)


def too_fine(cell: float) -> MeshError:
    return MeshError(
        f"a fineness of {cell:.3g} mm takes over {MOST_BLOCKS * BLOCK**3 // 1_000_000} million cells here; "
        "take a coarser one"
    )


@compiled
def _what(
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
    everywhere: Any,
) -> Any:
    """(n,) what each block is: `NOTHING`, one step's own, or to be looked at, as `LATTICE`; with the lengths of their
    lists of forms, anew, and these.
    """
    half, slack = side * math.sqrt(3.0) / 2, SLACK * cell
    every, longest = 0, 1
    for b in range(len(corners)):
        length = starts[lists[b] + 1] - starts[lists[b]]
        every, longest = every + length, max(longest, length)
    pool, distance = np.empty(every, dtype=np.int64), np.empty(longest)
    what, lengths = np.empty(len(corners), dtype=np.int64), np.zeros(len(corners), dtype=np.int64)
    filled = 0
    for b in range(len(corners)):
        x, y, z = (
            (corners[b, 0] + ODD) * cell + side / 2,
            (corners[b, 1] + ODD) * cell + side / 2,
            (corners[b, 2] + ODD) * cell + side / 2,
        )
        first, last = starts[lists[b]], starts[lists[b] + 1]
        begun = filled
        f_low, f_high, margin, owner = FAR, FAR, FAR, -1
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
                margin, owner = a_low - wide, step
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
        if f_low > slack or f_high < -slack:
            what[b] = NOTHING
            filled = begun
        else:
            what[b] = owner if margin > 0 and owner >= 0 and not everywhere else LATTICE
            lengths[b] = filled - begun
    return what, lengths, pool[:filled].copy()
