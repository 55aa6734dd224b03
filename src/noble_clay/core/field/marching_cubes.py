"""The closed surface where sampled blocks of a lattice pass zero: marching cubes (Lorensen & Cline 1987), its table
made here. Ambiguous faces part the insides, in both cells that share one, and no triangle has a diagonal in a cell's
face: so every edge is shared by two triangles, by construction.
"""

from __future__ import annotations

from functools import cache
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.field.blocks import BLOCK
from noble_clay.core.field.compiled import compiled
from noble_clay.core.mesh.mesh import Ints

CORNERS = [(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)]
EDGES = [(a, b) for a in range(8) for b in range(a + 1, 8) if bin(a ^ b).count("1") == 1]
"""Pairs of corners; a is the lower end."""

MOST = 5
"""Triangles of one cell, at most."""


@cache
def table() -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """(256,) how many triangles the cell has of which these corners are inside, and (256, MOST, 3) the edges they span,
    counter-clockwise from outside.
    """
    counts, triangles = np.zeros(256, dtype=np.int64), np.zeros((256, MOST, 3), dtype=np.int64)
    for inside in range(256):
        found = [t for loop in _loops(inside) for t in _filled(loop)]
        counts[inside] = len(found)
        triangles[inside, : len(found)] = np.array(found).reshape(-1, 3)
    return counts, triangles


def _faces() -> list[list[int]]:
    """The corners of each face of a cell, counter-clockwise from outside."""
    found = []
    for axis in range(3):
        second, third = (axis + 1) % 3, (axis + 2) % 3
        for side in (0, 1):
            square = []
            for u, v in [(0, 0), (1, 0), (1, 1), (0, 1)]:
                corner = [0, 0, 0]
                corner[axis], corner[second], corner[third] = side, u, v
                square.append(CORNERS.index(tuple(corner)))  # type: ignore[arg-type]
            found.append(square if side else square[::-1])
    return found


FACES = _faces()
NUMBER = {frozenset(edge): i for i, edge in enumerate(EDGES)}
ON_FACES = [{NUMBER[frozenset(p)] for p in pairwise([*face, face[0]])} for face in FACES]


def _loops(inside: int) -> list[list[int]]:
    """The closed lines of cut edges in which the surface meets the cell's faces, the inside on their right."""
    after: dict[int, int] = {}
    for face in FACES:
        isin = [bool(inside >> corner & 1) for corner in face]
        # Each run of inside corners around the face is cut off by a line of its own.
        for i in range(4):
            if isin[i] and not isin[i - 1]:
                j = i
                while isin[(j + 1) % 4]:
                    j += 1
                enters = NUMBER[frozenset((face[i - 1], face[i]))]
                leaves = NUMBER[frozenset((face[j % 4], face[(j + 1) % 4]))]
                after[enters] = leaves
    loops = []
    while after:
        first = at = next(iter(after))
        loop = []
        while at in after:
            loop.append(at)
            at = after.pop(at)
        assert at == first
        loops.append(loop)
    return loops


def _filled(loop: list[int]) -> list[tuple[int, int, int]]:
    """Triangles that fill a loop, none of their diagonals within a face."""
    if len(loop) == 3:
        return [(loop[0], loop[1], loop[2])]
    for i in range(len(loop)):
        a, b, c = loop[i - 1], loop[i], loop[(i + 1) % len(loop)]
        if any(a in face and c in face for face in ON_FACES):
            continue
        rest = _filled([e for e in loop if e != b])
        if rest:
            return [(a, b, c), *rest]
    return []


@compiled
def marched(values: Any, corners: Any, low: Any, across: Any, counts: Any, triangles: Any) -> Any:
    """(m, 3) the lattice edges that the surface's triangles span, and (m,) of which block each is.

    values: (n, 5, 5, 5) of blocks with their corners (n, 3). An edge is numbered by its lower end, counted from `low`
    in a box of `across` lattice points, times three, and its axis.
    """
    total = 0
    for b in range(len(values)):
        for cell in range(BLOCK**3):
            i, j, k = cell // (BLOCK * BLOCK), cell // BLOCK % BLOCK, cell % BLOCK
            total += counts[_inside(values, b, i, j, k)]
    found, owner = np.empty((total, 3), dtype=np.int64), np.empty(total, dtype=np.int64)
    at = 0
    for b in range(len(values)):
        for cell in range(BLOCK**3):
            i, j, k = cell // (BLOCK * BLOCK), cell // BLOCK % BLOCK, cell % BLOCK
            inside = _inside(values, b, i, j, k)
            for t in range(counts[inside]):
                for c in range(3):
                    one, other = EDGE_ENDS[triangles[inside, t, c]]
                    x = corners[b, 0] + i + (one >> 2) - low[0]
                    y = corners[b, 1] + j + (one >> 1 & 1) - low[1]
                    z = corners[b, 2] + k + (one & 1) - low[2]
                    axis = 0 if other - one == 4 else (1 if other - one == 2 else 2)
                    found[at, c] = ((x * across[1] + y) * across[2] + z) * 3 + axis
                owner[at] = b
                at += 1
    return found, owner


EDGE_ENDS = np.array(EDGES)


@compiled
def _inside(values: Any, b: Any, i: Any, j: Any, k: Any) -> Any:
    found = 0
    for corner in range(8):
        if values[b, i + (corner >> 2), j + (corner >> 1 & 1), k + (corner & 1)] < 0:
            found |= 1 << corner
    return found


def lattice_edges(keys: Ints, low: Ints, across: Ints) -> tuple[Ints, Ints]:
    """(n, 3) the lower ends of numbered edges, whole cells, and (n,) their axes."""
    point, axis = np.divmod(keys, 3)
    xy, z = np.divmod(point, across[2])
    x, y = np.divmod(xy, across[1])
    return np.column_stack([x, y, z]) + low, axis
