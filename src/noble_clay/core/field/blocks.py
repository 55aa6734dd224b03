"""Space divided by what a list's surface is there: blocks of a lattice that is fixed in space, halved where the surface
may be rounded.

The distance at a block's middle and half its diagonal bound every distance in the block, and the fold, which grows with
each of them, bounds the field. Parts that change nothing in a block are left out of its list, so that two neighbours
agree on the face that they share. A block holds nothing, or no surface but one step's own, or is looked at cell by
cell: then each cell is again a step's own, or of the lattice.
"""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.field.block_keys import block_keys
from noble_clay.core.field.fold import FAR, STEP, Fold, end_of_step, fold_many, placed_at, signs_of
from noble_clay.core.field.marching_cubes import inside_of
from noble_clay.core.field.memory import Kept, Memory
from noble_clay.core.field.nodes import Nodes, ends_of
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.gather import spans, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints

BLOCK = 4
"""Cells along the edge of the smallest block."""

TILE = 16
"""Smallest blocks along the edge of the largest."""

ODD = 0.4437
"""Where the lattice's first point is, in cells: few faces lie in its planes."""

NUDGE = 1e-7
"""How far from zero the field is kept at lattice points, in cells."""

MOST_BLOCKS = 120_000
"""Smallest blocks that are looked at for one list; beyond them the fineness is too much for the piece."""

NOTHING, LATTICE = -1, -2
"""What a cell is that is not a step's own."""

SLACK = 0.5
"""How far a part's own mesh may be off its true shape, in cells, for a block to be sure to hold none of it."""

AT_A_TIME = 250
"""Blocks that one thread looks at before it is told that the work goes on."""

ROUGHLY_AT_A_TIME = 2_000
"""Blocks that one thread takes to be nothing, one step's own, or to be looked at."""

BLOCKS_AT_A_TIME = 2_000
"""Blocks of which one thread looks up the cells that the surface passes."""

POINTS_AT_A_TIME = 2_000
"""Points at which one thread asks for the field."""

THREADS = 2

EIGHT = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)])


class Blocks:
    """The blocks of a list's space.

    cell: of the lattice, mm. first: (3,) the lattice point at which the largest blocks begin, whole cells. tiles: (a,
    b, c) of each largest block, which of `inside` it is. inside: (t, 16, 16, 16) of each smallest block, which of those
    looked at it is, or -1 for nothing, or -2 - n for the n-th that is one step's own. own_step, own_starts, own_active:
    of these, which step's, and their lists of forms. corners: (m, 3) of the blocks that are looked at, whole cells;
    starts, active: their lists. values: (m, 5, 5, 5) the field at their lattice points, mm: right to the side only, far
    from the surface. pushed: (m, 5, 5, 5) whether a value was put on the other side, to agree with a part's own mesh.
    cells: (m, 4, 4, 4) of each cell, of which step's own it is, or `LATTICE`.
    """

    def __init__(self, fold: Fold, cell: float, box: Floats, everywhere: bool = False, many: int | None = None) -> None:
        """box: (2, 3), mm. everywhere: all of the surface is found on the lattice. many: of twice the smallest side,
        where there may be fewer than can be held. Raises MeshError for too many.
        """
        self.fold, self.cell, self.everywhere = fold, cell, everywhere
        side = BLOCK * TILE
        low, high = (np.floor((corner / cell - ODD) / side).astype(np.int64) for corner in box)
        number = float(np.prod((high - low + 1).astype(float)))
        if number > MOST_BLOCKS:
            raise too_fine(cell)
        self.first = low * side
        shape = tuple(int(n) for n in high - low + 1)
        corners = np.stack(np.meshgrid(*(np.arange(n) for n in shape), indexing="ij"), axis=-1).reshape(-1, 3) * side
        self.tiles = np.full(shape, -1)
        owns: list[tuple[Ints, Ints, Ints]] = []
        lists, starts, active = np.zeros(len(corners), dtype=np.int64), np.array([0, len(fold.every)]), fold.every
        self.inside = np.full((0, TILE, TILE, TILE), -1, dtype=np.int32)
        while True:
            what, lengths, pool = self._look_roughly(corners, lists, starts, active, side)
            if len(self.inside) == 0:
                some = np.flatnonzero(what != NOTHING)
                self.tiles[tuple((corners[some] // side).T)] = np.arange(len(some))
                self.inside = np.full((len(some), TILE, TILE, TILE), -1, dtype=np.int32)
            ends = np.concatenate([[0], np.cumsum(lengths)])
            own = np.flatnonzero(what >= 0)
            before = sum(len(steps) for steps, _, _ in owns)
            self._fill(corners[own], side // BLOCK, -2 - before - np.arange(len(own)))
            owns.append((what[own], lengths[own], pool[spans(ends[own], lengths[own])]))
            kept = np.flatnonzero(what == LATTICE)
            if len(kept) > MOST_BLOCKS or (many is not None and side == 2 * BLOCK and len(kept) > many):
                raise too_fine(cell)
            corners, lengths = corners[kept], lengths[kept]
            active, starts = pool[spans(ends[kept], lengths)], np.concatenate([[0], np.cumsum(lengths)])
            if side == BLOCK:
                break
            side //= 2
            lists = np.repeat(np.arange(len(corners)), 8)
            corners = (corners[:, None, :] + EIGHT * side).reshape(-1, 3)
        self.own_step = np.concatenate([steps for steps, _, _ in owns])
        self.own_starts = np.concatenate([[0], np.cumsum(np.concatenate([lengths for _, lengths, _ in owns]))])
        self.own_active = np.concatenate([pool for _, _, pool in owns])
        order = np.lexsort(corners.T[::-1])
        lengths = np.diff(starts)[order]
        self.active, self.starts = (
            active[spans(starts[:-1][order], lengths)],
            np.concatenate([[0], np.cumsum(lengths)]),
        )
        corners = corners[order]
        self._fill(corners, 1, np.arange(len(corners)))
        self.corners = corners + self.first
        points = (len(corners), BLOCK + 1, BLOCK + 1, BLOCK + 1)
        self.values, self.owners = np.zeros(points), np.zeros(points, dtype=np.int32)
        self.pushed = np.zeros(points, dtype=np.bool_)
        self.cells = np.full((len(corners), BLOCK, BLOCK, BLOCK), LATTICE, dtype=np.int32)

    def _look_roughly(self, corners: Ints, lists: Ints, starts: Ints, active: Ints, side: int) -> tuple[Any, ...]:
        """What blocks `side` cells wide are; see `_what`."""

        def some(begin: int) -> Any:
            mine = slice(begin, begin + ROUGHLY_AT_A_TIME)
            at = corners[mine] + self.first, lists[mine], starts, active
            return _what(*self.fold.arrays, *at, float(side) * self.cell, self.cell, self.everywhere)

        found = in_threads(some, range(0, max(1, len(corners)), ROUGHLY_AT_A_TIME))
        return tuple(np.concatenate(each) for each in zip(*found, strict=True))

    def _fill(self, corners: Ints, wide: int, numbers: Ints) -> None:
        """Puts numbers into smallest blocks of `inside`, `wide` along each axis. corners: (n, 3) from the first."""
        if len(corners):
            places = corners // BLOCK
            _put(self.inside, self.tiles[tuple((places // TILE).T)], places % TILE, wide, numbers)

    @property
    def places(self) -> tuple[Any, Any, Any]:
        """What the compiled loops need to tell which block a cell is in, with `block_of`."""
        return self.first, self.tiles, self.inside

    @property
    def map(self) -> tuple[Any, Any, Any, Any, Any]:
        """What the compiled loops need to tell what a cell is, with `what_is`."""
        return self.first, self.tiles, self.inside, self.own_step, self.cells

    def look(self, memory: Memory, go_on: Callable[[float], None]) -> None:
        """Looks at the field at all lattice points of the blocks, and tells what their cells are. memory: of those that
        were looked at before. go_on: told which share is done, every now and then.
        """
        neighbours = self._neighbours()
        keys = self.keys
        known = memory.fill("blocks", keys, (self.values, self.owners))
        missing = np.flatnonzero(known < 0)
        turn = np.full(len(keys), -1)
        turn[missing] = np.arange(len(missing)) // AT_A_TIME
        begins = range(0, len(missing), AT_A_TIME)

        def some(begin: int) -> None:
            mine = missing[begin : begin + AT_A_TIME]
            lists = self.corners, self.starts, self.active
            _look(*self.fold.arrays, *lists, neighbours, self.cell, mine, turn, self.values, self.owners)

        for done, _ in enumerate(in_threads(some, begins)):
            go_on((done + 1) / len(begins))
        _agree(neighbours, known, self.values, self.owners)
        if len(missing):
            memory.keep("blocks", Kept.of(keys, self.values, self.owners))
        if not self.everywhere:
            _tell(self.owners, self.cells)

    @property
    def keys(self) -> Ints:
        """(m,) of each block that is looked at, by all that shapes it."""
        found: Ints = block_keys(self.corners, self.starts, self.active, self.fold.digests, hash((self.cell, BLOCK)))
        return found

    @property
    def nodes(self) -> Nodes:
        return Nodes(self.first, np.array(self.tiles.shape) * (BLOCK * TILE))

    def field_at(self, points: Floats, block: Ints) -> Floats:
        """(n, 6) as `fold_many` has it, at points (n, 3) in cells. block: (n,) in which each is."""
        order = np.argsort(block, kind="stable")
        found = np.empty((len(points), 6))
        lists = self.starts, self.active

        def some(begin: int) -> None:
            mine = order[begin : begin + POINTS_AT_A_TIME]
            places = (points[mine] + ODD) * self.cell
            found[mine] = _field_at(*self.fold.arrays, *lists, places, block[mine], self.cell)

        for _ in in_threads(some, range(0, len(order), POINTS_AT_A_TIME)):
            pass
        return found

    def about(self, cells: Ints) -> Ints:
        """(n,) the blocks that are looked at of cells (k, 3) and about them."""
        ways = np.concatenate([BEFORE, -BEFORE, np.zeros((1, 3), dtype=np.int64)])
        places = unique_rows(np.floor_divide(cells - self.first, BLOCK))
        every = unique_rows((places[:, None, :] + ways).reshape(-1, 3)) * BLOCK + self.first
        found = _around(*self.places, every, ways[-1:]).reshape(-1)
        return found[found >= 0]

    def own_about(self, edges: Ints) -> Ints:
        """(n, 3) the cells about edges of the lattice that are not the lattice's."""
        found, nodes, point = [], self.nodes, np.empty(3, dtype=np.int64)
        for key in edges.tolist():
            axis = ends_of(key, nodes.low, nodes.across, point)
            for way in ((0, 0), (0, 1), (1, 0), (1, 1)):
                cell = point.copy()
                cell[(axis + 1) % 3] -= way[0]
                cell[(axis + 2) % 3] -= way[1]
                if what_is(*self.map, *cell) != LATTICE:
                    found.append(cell)
        return np.array(found, dtype=np.int64).reshape(-1, 3)

    def open(self, cells: Ints) -> None:
        """Gives cells (n, 3) to the lattice; what of them was not looked at is now."""
        blocks = unique_rows(np.floor_divide(cells, BLOCK))
        number = np.array([block_of(*self.places, *(block * BLOCK)) for block in blocks])
        new = blocks[number < 0] * BLOCK
        if len(new):
            self._add(new, -2 - number[number < 0])
        _give(*self.places, self.cells, cells)

    def _add(self, corners: Ints, own: Ints) -> None:
        """Looks at blocks that were a step's own; own: (n,) which of these, or less than 0 for nothing."""
        every = self.fold.every
        lists = [
            self.own_active[self.own_starts[n] : self.own_starts[n + 1]] if n >= 0 else every for n in own.tolist()
        ]
        before, count = len(self.corners), len(corners)
        self.corners = np.concatenate([self.corners, corners])
        self.active = np.concatenate([self.active, *lists])
        self.starts = np.concatenate([self.starts, self.starts[-1] + np.cumsum([len(each) for each in lists])])
        points = (count, BLOCK + 1, BLOCK + 1, BLOCK + 1)
        self.values = np.concatenate([self.values, np.zeros(points)])
        self.owners = np.concatenate([self.owners, np.zeros(points, dtype=np.int32)])
        self.pushed = np.concatenate([self.pushed, np.zeros(points, dtype=np.bool_)])
        step = np.where(own >= 0, self.own_step[np.maximum(own, 0)], LATTICE) if len(self.own_step) else own
        new = np.broadcast_to(step[:, None, None, None], (count, BLOCK, BLOCK, BLOCK)).astype(np.int32)
        self.cells = np.concatenate([self.cells, new])
        places = (corners - self.first) // BLOCK
        tile = self.tiles[tuple((places // TILE).T)]
        missing = unique_rows((places // TILE)[tile < 0])
        if len(missing):
            self.tiles[tuple(missing.T)] = len(self.inside) + np.arange(len(missing))
            empty = np.full((len(missing), TILE, TILE, TILE), -1, dtype=np.int32)
            self.inside = np.concatenate([self.inside, empty], dtype=np.int32)
        self._fill(corners - self.first, 1, before + np.arange(count))
        neighbours = self._neighbours(both=True)
        lists_of = self.corners, self.starts, self.active
        end = before + count
        added = np.arange(before, end)
        turn = np.where(np.arange(end) < before, -2, 0)
        _look(*self.fold.arrays, *lists_of, neighbours, self.cell, added, turn, self.values, self.owners)
        _copy(neighbours, before, end, self.values, self.pushed)

    def _neighbours(self, both: bool = False) -> Ints:
        """(m, 13) which of the blocks are a block's neighbours before it in order, or -1; (m, 26): on both sides."""
        found: Ints = _around(*self.places, self.corners, np.concatenate([BEFORE, -BEFORE]) if both else BEFORE)
        return found


BEFORE = np.array([[x, y, z] for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) < (0, 0, 0)])
"""To the neighbours of a block that come before it in order."""


def in_threads(work: Callable[[int], Any], items: Any) -> Any:
    """The results of work on items, in order; two at a time. It must be compiled, to run beside another."""
    if len(items) < 2:
        return map(work, items)
    return _threads().map(work, items)


@cache
def _threads() -> ThreadPoolExecutor:
    """Begun once in a process: to begin two takes as long as many an item."""
    return ThreadPoolExecutor(THREADS)


os.register_at_fork(after_in_child=_threads.cache_clear)  # a child has none of its parent's threads


def too_fine(cell: float) -> MeshError:
    return MeshError(
        f"a fineness of {cell:.3g} mm takes over {MOST_BLOCKS * BLOCK**3 // 1_000_000} million cells here; "
        "take a coarser one"
    )


@compiled
def _put(inside: Any, tile: Any, at: Any, wide: Any, numbers: Any) -> None:
    for n in range(len(tile)):
        x, y, z = at[n]
        inside[tile[n], x : x + wide, y : y + wide, z : z + wide] = numbers[n]


@small
def block_of(first: Any, tiles: Any, inside: Any, x: Any, y: Any, z: Any) -> Any:
    """Which of the blocks that are looked at a cell is in, or -1 for nothing, or -2 - n for the n-th of one step."""
    x, y, z = (x - first[0]) >> 2, (y - first[1]) >> 2, (z - first[2]) >> 2
    tx, ty, tz = x >> 4, y >> 4, z >> 4
    if tx < 0 or ty < 0 or tz < 0 or tx >= tiles.shape[0] or ty >= tiles.shape[1] or tz >= tiles.shape[2]:
        return -1
    tile = tiles[tx, ty, tz]
    return -1 if tile < 0 else int(inside[tile, x & 15, y & 15, z & 15])


@small
def what_is(first: Any, tiles: Any, inside: Any, own_step: Any, cells: Any, x: Any, y: Any, z: Any) -> Any:
    """Of which step's own a cell is, or `NOTHING`, or `LATTICE`."""
    block = block_of(first, tiles, inside, x, y, z)
    if block >= 0:
        return int(cells[block, (x - first[0]) & 3, (y - first[1]) & 3, (z - first[2]) & 3])
    return -1 if block == -1 else int(own_step[-2 - block])


@small
def what_is_beside(
    first: Any, tiles: Any, inside: Any, own_step: Any, cells: Any, corners: Any, block: Any, n: Any, face: Any
) -> Any:
    """What the cell across a face of a block's n-th cell is, as `what_is` tells it."""
    i, j, k = n // (BLOCK * BLOCK), n // BLOCK % BLOCK, n % BLOCK
    way = 1 if face % 2 else -1
    if face < 2:
        i += way
    elif face < 4:
        j += way
    else:
        k += way
    if 0 <= i < BLOCK and 0 <= j < BLOCK and 0 <= k < BLOCK:
        return int(cells[block, i, j, k])
    x, y, z = corners[block, 0] + i, corners[block, 1] + j, corners[block, 2] + k
    return what_is(first, tiles, inside, own_step, cells, x, y, z)


@compiled
def _give(first: Any, tiles: Any, inside: Any, cells: Any, some: Any) -> None:
    for n in range(len(some)):
        x, y, z = some[n]
        block = block_of(first, tiles, inside, x, y, z)
        cells[block, (x - first[0]) & 3, (y - first[1]) & 3, (z - first[2]) & 3] = LATTICE


@compiled
def _around(first: Any, tiles: Any, inside: Any, corners: Any, ways: Any) -> Any:
    found = np.full((len(corners), len(ways)), -1)
    for b in range(len(corners)):
        for n in range(len(ways)):
            x, y, z = corners[b] + ways[n] * BLOCK
            found[b, n] = max(-1, block_of(first, tiles, inside, x, y, z))
    return found


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


@small
def end_of_run(numbers: Any, first: Any) -> Any:
    """Where a run of equal numbers ends."""
    last = first + 1
    while last < len(numbers) and numbers[last] == numbers[first]:
        last += 1
    return last


@compiled
def longest_list(block: Any, starts: Any) -> Any:
    """The most points that are in one block, and the most forms in one's list. block: (n,) in order."""
    longest, most = 1, 1
    first = 0
    while first < len(block):
        last = end_of_run(block, first)
        longest = max(longest, starts[block[first] + 1] - starts[block[first]])
        most = max(most, last - first)
        first = last
    return most, longest


@compiled
def _field_at(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    starts: Any,
    active: Any,
    points: Any,
    block: Any,
    cell: Any,
) -> Any:
    found = np.empty((len(points), 6))
    most, longest = longest_list(block, starts)
    each = np.empty((2, longest, most, 4))
    first = 0
    while first < len(points):
        last = end_of_run(block, first)
        fold_many(
            rows,
            steps,
            numbers,
            blocks,
            values,
            active,
            starts[block[first]],
            starts[block[first] + 1],
            points[first:last],
            cell,
            1e-3 * cell,
            each,
            found[first:last],
        )
        first = last
    return found


@small
def _copy_shared(way: Any, other: Any, b: Any, found: Any, into: Any) -> Any:
    """What block b shares with another one, in a way (3,) from it, taken from there; whether it was otherwise. into:
    (5, 5, 5) marks where.
    """
    differs = False
    for i in range(BLOCK if way[0] > 0 else 0, 1 if way[0] < 0 else BLOCK + 1):
        for j in range(BLOCK if way[1] > 0 else 0, 1 if way[1] < 0 else BLOCK + 1):
            for k in range(BLOCK if way[2] > 0 else 0, 1 if way[2] < 0 else BLOCK + 1):
                value = found[other, i - BLOCK * way[0], j - BLOCK * way[1], k - BLOCK * way[2]]
                differs = differs or found[b, i, j, k] != value
                found[b, i, j, k] = value
                into[i, j, k] = True
    return differs


@compiled
def _look(
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
    some: Any,
    turn: Any,
    found: Any,
    owners: Any,
) -> None:
    """Into found and owners (m, 5, 5, 5), for some blocks, in order: the field at their lattice points, and whose own
    surface it is there, `LATTICE` where it is rounded. What a block shares with one before it that is known, whose turn
    is -1, or that has its turn together with it, is taken from there.
    """
    side = BLOCK + 1
    longest = 1
    for b in some:
        longest = max(longest, starts[b + 1] - starts[b])
    points, told, each = np.empty((side**3, 3)), np.empty((side**3, 6)), np.empty((2, longest, side**3, 4))
    where = np.empty(side**3, dtype=np.int64)
    known = np.empty((side, side, side), dtype=np.bool_)
    for b in some:
        known[:] = False
        for n in range(len(BEFORE)):
            other = neighbours[b, n]
            if other >= 0 and (turn[other] == -1 or (turn[other] == turn[b] and other < b)):
                _copy_shared(BEFORE[n], other, b, found, known)
                _copy_shared(BEFORE[n], other, b, owners, known)
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
            i, j, k = where[n] // (side * side), where[n] // side % side, where[n] % side
            found[b, i, j, k] = value
            owners[b, i, j, k] = int(told[n, 5]) if told[n, 4] > 0 else LATTICE


@compiled
def _agree(neighbours: Any, known: Any, values: Any, owners: Any) -> None:
    """What blocks share with those before them that another thread looked at. known: (m,) of which surface before each
    is, or -1: two of one surface agree already, as long as neither was changed.
    """
    room = np.empty((BLOCK + 1, BLOCK + 1, BLOCK + 1), dtype=np.bool_)
    changed = np.zeros(len(values), dtype=np.bool_)
    for b in range(len(values)):
        for n in range(len(BEFORE)):
            other = neighbours[b, n]
            if other >= 0 and (known[b] < 0 or known[other] != known[b] or changed[other]):
                value_differs = _copy_shared(BEFORE[n], other, b, values, room)
                owner_differs = _copy_shared(BEFORE[n], other, b, owners, room)
                changed[b] = changed[b] or value_differs or owner_differs


@compiled
def _copy(neighbours: Any, begin: Any, end: Any, values: Any, pushed: Any) -> None:
    """What blocks that came later share with those that were there, or came before them."""
    known = np.empty((BLOCK + 1, BLOCK + 1, BLOCK + 1), dtype=np.bool_)
    for b in range(begin, end):
        for n in range(neighbours.shape[1]):
            other = neighbours[b, n]
            if 0 <= other < b:
                way = BEFORE[n] if n < len(BEFORE) else -BEFORE[n - len(BEFORE)]
                _copy_shared(way, other, b, values, known)
                _copy_shared(way, other, b, pushed, known)


def crossing(values: Any, cells: Any, some: Ints) -> tuple[Ints, Ints]:
    """(n, 2) the cells of the lattice in some blocks that the surface passes: block, and number within it; and (n,) the
    sets of their inside corners.
    """

    def of(begin: int) -> Any:
        return _crossing(values, cells, some[begin : begin + BLOCKS_AT_A_TIME])

    every = in_threads(of, range(0, max(1, len(some)), BLOCKS_AT_A_TIME))
    passed, inside = (np.concatenate(each) for each in zip(*every, strict=True))
    return passed, inside


@compiled
def _crossing(values: Any, cells: Any, some: Any) -> Any:
    room = 64
    found, config = np.empty((room, 2), dtype=np.int64), np.empty(room, dtype=np.int64)
    count = 0
    for block in some:
        under = 0
        for i in range(BLOCK + 1):
            for j in range(BLOCK + 1):
                for k in range(BLOCK + 1):
                    under += values[block, i, j, k] < 0
        if under == 0 or under == (BLOCK + 1) ** 3:
            continue
        if count + BLOCK**3 > room:
            room *= 2
            wider, longer = np.empty((room, 2), dtype=np.int64), np.empty(room, dtype=np.int64)
            wider[:count], longer[:count] = found[:count], config[:count]
            found, config = wider, longer
        for n in range(BLOCK**3):
            i, j, k = n // (BLOCK * BLOCK), n // BLOCK % BLOCK, n % BLOCK
            if cells[block, i, j, k] != LATTICE:
                continue
            inside = inside_of(values, block, i, j, k)
            if inside not in (0, 255):
                found[count, 0], found[count, 1], config[count] = block, n, inside
                count += 1
    return found[:count].copy(), config[:count].copy()


@compiled
def _tell(owners: Any, cells: Any) -> None:
    """Cells of which all corners are the same step's own are that step's own."""
    for b in range(len(cells)):
        for i in range(BLOCK):
            for j in range(BLOCK):
                for k in range(BLOCK):
                    owner = owners[b, i, j, k]
                    for corner in range(1, 8):
                        if owners[b, i + (corner >> 2), j + (corner >> 1 & 1), k + (corner & 1)] != owner:
                            owner = LATTICE
                            break
                    cells[b, i, j, k] = owner
