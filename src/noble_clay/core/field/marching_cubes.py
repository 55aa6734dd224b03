"""The closed surface where sampled blocks of a lattice pass zero: marching cubes (Lorensen & Cline 1987), its table
made here. Ambiguous faces part the insides, in both cells that share one, and no triangle has a diagonal in a cell's
face: so every edge is shared by two triangles, by construction.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import small

CORNERS = [(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)]
EDGES = [(a, b) for a in range(8) for b in range(a + 1, 8) if bin(a ^ b).count("1") == 1]
"""Pairs of corners; a is the lower end."""

MOST_LOOPS, MOST_EDGES, MOST_TRIANGLES = 4, 12, 5
"""Closed lines in which the surface meets one cell's faces, edges that they pass, and triangles that fill them."""


@dataclass(frozen=True, eq=False)
class Table:
    """For each of the 256 sets of inside corners: sizes (256, 4) of its closed lines, 0 behind the last; edges
    (256, 12) that they pass, one line behind the other, the inside on their right; faces (256, 12) in which each goes
    on to the next; fills (256, 5, 3) which of these a triangle spans, counter-clockwise from outside, and lines
    (256, 5) of which line it is, -1 behind the last.
    """

    sizes: NDArray[np.int64]
    edges: NDArray[np.int64]
    faces: NDArray[np.int64]
    fills: NDArray[np.int64]
    lines: NDArray[np.int64]

    @property
    def arrays(self) -> tuple[NDArray[np.int64], ...]:
        return self.sizes, self.edges, self.faces, self.fills, self.lines


@cache
def table() -> Table:
    sizes, edges = np.zeros((256, MOST_LOOPS), dtype=np.int64), np.zeros((256, MOST_EDGES), dtype=np.int64)
    faces, lines = np.zeros_like(edges), np.full((256, MOST_TRIANGLES), -1)
    fills = np.zeros((256, MOST_TRIANGLES, 3), dtype=np.int64)
    for inside in range(256):
        at = filled = 0
        for number, loop in enumerate(_loops(inside)):
            sizes[inside, number] = len(loop)
            edges[inside, at : at + len(loop)] = loop
            for n, pair in enumerate(pairwise([*loop, loop[0]])):
                faces[inside, at + n] = next(f for f, on in enumerate(ON_FACES) if on.issuperset(pair))
            for triangle in _filled(loop):
                fills[inside, filled] = [at + loop.index(e) for e in triangle]
                lines[inside, filled] = number
                filled += 1
            at += len(loop)
    return Table(sizes, edges, faces, fills, lines)


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


EDGE_ENDS = np.array(EDGES)
EDGE_STARTS = np.array([CORNERS[a] for a, _ in EDGES])
EDGE_AXES = np.array([{4: 0, 2: 1, 1: 2}[a ^ b] for a, b in EDGES])


@small
def inside_of(values: Any, b: Any, i: Any, j: Any, k: Any) -> Any:
    """The set of inside corners of a cell of a block, as a number."""
    found = 0
    for corner in range(8):
        if values[b, i + (corner >> 2), j + (corner >> 1 & 1), k + (corner & 1)] < 0:
            found |= 1 << corner
    return found
