"""The field at the lattice points of blocks that are looked at, and what it tells of their cells."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from noble_clay.core.field.fold import fold_many
from noble_clay.core.field.lattice import BEFORE, BLOCK, LATTICE, ODD
from noble_clay.core.field.marching_cubes import inside_of
from noble_clay.core.field.threads import in_slices
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.mesh import Ints

NUDGE = 1e-7
"""How far from zero the field is kept at lattice points, in cells."""

BLOCKS_AT_A_TIME = 2_000
"""Blocks of which one thread looks up the cells that the surface passes."""


@compiled
def look(
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
def agree(neighbours: Any, known: Any, values: Any, owners: Any) -> None:
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
def copy(neighbours: Any, begin: Any, end: Any, values: Any, pushed: Any) -> None:
    """What blocks that came later share with those that were there, or came before them."""
    known = np.empty((BLOCK + 1, BLOCK + 1, BLOCK + 1), dtype=np.bool_)
    for b in range(begin, end):
        for n in range(neighbours.shape[1]):
            other = neighbours[b, n]
            if 0 <= other < b:
                way = BEFORE[n] if n < len(BEFORE) else -BEFORE[n - len(BEFORE)]
                _copy_shared(way, other, b, values, known)
                _copy_shared(way, other, b, pushed, known)


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
def tell(owners: Any, cells: Any) -> None:
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


def crossing(values: Any, cells: Any, some: Ints) -> tuple[Ints, Ints]:
    """(n, 2) the cells of the lattice in some blocks that the surface passes: block, and number within it; and (n,) the
    sets of their inside corners.
    """

    every = in_slices(lambda mine: _crossing(values, cells, some[mine]), len(some), BLOCKS_AT_A_TIME)
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
