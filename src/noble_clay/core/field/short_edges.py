"""Edges taken out of a list's surface that are too short to be printed, or written to a file with float32 numbers: they
come about where a mesh passes close by an edge of the lattice.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import compiled
from noble_clay.core.mesh.mesh import Floats, Ints

ROUNDS = 2
"""Times that edges are taken out which do not touch."""

MUST_STAY = 2
"""How firmly a vertex is held that stays."""

FLAT = 1e-7
"""How far a triangle that has to stay in its plane may leave it, in cells."""

TURNED = 0.2
"""The least cosine between the normals of a triangle before and after, unless it was as thin as the edge is short."""


def without_short_edges(
    points: Floats, triangles: Ints, held: Ints, flat: NDArray[np.bool_], least: float
) -> NDArray[np.bool_]:
    """(m,) which triangles are left when edges shorter than `least` are taken out; the corners of `triangles` are
    renamed in place. A vertex goes only to where one is that is held at least as firmly.

    held: (n,) how firmly each vertex is held: 0 not at all, `MUST_STAY` where it stays. flat: (m,) triangles that
    stay in their planes.
    """
    left = np.ones(len(triangles), dtype=bool)
    for _ in range(ROUNDS):
        some = _short(points, triangles, left, least)
        if len(some) == 0 or _collapse(points, triangles, left, held, flat, some, least) == 0:
            break
    return left


@compiled
def _short(points: Any, triangles: Any, left: Any, least: Any) -> Any:
    """The triangles with an edge that is too short."""
    found = np.empty(len(triangles), dtype=np.int64)
    count = 0
    for t in range(len(triangles)):
        if not left[t]:
            continue
        for k in range(3):
            u, v = triangles[t, k], triangles[t, (k + 1) % 3]
            length = 0.0
            for a in range(3):
                length += (points[u, a] - points[v, a]) ** 2
            if length < least * least:
                found[count] = t
                count += 1
                break
    return found[:count].copy()


@compiled
def _collapse(points: Any, triangles: Any, left: Any, held: Any, flat: Any, some: Any, least: Any) -> Any:
    """Takes out short edges of some triangles, none beside another; how many."""
    near = np.zeros(len(points), dtype=np.bool_)
    for t in some:
        for k in range(3):
            near[triangles[t, k]] = True
    # The triangles about each vertex that is near.
    starts = np.zeros(len(points) + 1, dtype=np.int64)
    for t in range(len(triangles)):
        if left[t]:
            for k in range(3):
                if near[triangles[t, k]]:
                    starts[triangles[t, k] + 1] += 1
    for v in range(len(points)):
        starts[v + 1] += starts[v]
    about, filled = np.empty(starts[-1], dtype=np.int64), starts[:-1].copy()
    for t in range(len(triangles)):
        if left[t]:
            for k in range(3):
                v = triangles[t, k]
                if near[v]:
                    about[filled[v]] = t
                    filled[v] += 1
    locked = np.zeros(len(points), dtype=np.bool_)
    count = 0
    for t in some:
        if left[t]:
            count += _drop_crumb(triangles, left, starts, about, t)
        for k in range(3):
            if not left[t]:
                break
            u, v = triangles[t, k], triangles[t, (k + 1) % 3]
            if held[u] > held[v]:
                u, v = v, u
            length = 0.0
            for a in range(3):
                length += (points[u, a] - points[v, a]) ** 2
            if length >= least * least or locked[u] or locked[v] or held[u] >= MUST_STAY:
                continue
            if not _may_go(points, triangles, held, flat, about[starts[u] : starts[u + 1]], starts, about, u, v, least):
                continue
            for other in about[starts[u] : starts[u + 1]]:
                for c in range(3):
                    locked[triangles[other, c]] = True
            for other in about[starts[v] : starts[v + 1]]:
                for c in range(3):
                    locked[triangles[other, c]] = True
            for other in about[starts[u] : starts[u + 1]]:
                if triangles[other, 0] == v or triangles[other, 1] == v or triangles[other, 2] == v:
                    left[other] = False
                else:
                    for c in range(3):
                        if triangles[other, c] == u:
                            triangles[other, c] = v
            count += 1
    return count


CRUMB = 16
"""The most triangles of a body that is dropped where it has a short edge."""


@compiled
def _drop_crumb(triangles: Any, left: Any, starts: Any, about: Any, t: Any) -> Any:
    """Drops the body that a triangle is of, where that is a crumb; how many were."""
    body = np.empty(CRUMB, dtype=np.int64)
    body[0] = t
    count, done = 1, 0
    while done < count:
        for c in range(3):
            v = triangles[body[done], c]
            if starts[v + 1] == starts[v]:
                return 0  # not all of its corners are at short edges
            for other in about[starts[v] : starts[v + 1]]:
                known = False
                for n in range(count):
                    known = known or body[n] == other
                if not known:
                    if count == CRUMB or not left[other]:
                        return 0
                    body[count] = other
                    count += 1
        done += 1
    left[body[:count]] = False
    return 1


@compiled
def _may_go(
    points: Any, triangles: Any, held: Any, flat: Any, mine: Any, starts: Any, about: Any, u: Any, v: Any, least: Any
) -> Any:
    """Whether vertex u may go to v: the surface stays one, no triangle turns over, and flat ones stay flat."""
    if len(mine) == 3 and starts[v + 1] - starts[v] == 3:
        return False  # a crumb of four triangles
    common = 0
    for t in mine:
        for c in range(3):
            w = triangles[t, c]
            if w in (u, v):
                continue
            # Each neighbour of u is met in two of its triangles.
            for other in about[starts[v] : starts[v + 1]]:
                if triangles[other, 0] == w or triangles[other, 1] == w or triangles[other, 2] == w:
                    common += 1
    # The two that face the edge: each in two triangles about u, and two about v.
    if common != 8:
        return False
    old, new = np.empty((3, 3)), np.empty((3, 3))
    for t in mine:
        gone = False
        for c in range(3):
            w = triangles[t, c]
            gone = gone or w == v
            old[c] = points[w]
            new[c] = points[v] if w == u else points[w]
        if gone:
            continue
        n, m = np.cross(old[1] - old[0], old[2] - old[0]), np.cross(new[1] - new[0], new[2] - new[0])
        area, after = np.sqrt((n * n).sum()), np.sqrt((m * m).sum())
        if flat[t]:
            off = 0.0
            for a in range(3):
                off += n[a] * (points[v, a] - old[0, a])
            if abs(off) > FLAT * area:
                return False
        longest = max(((old[0] - old[1]) ** 2).sum(), ((old[1] - old[2]) ** 2).sum(), ((old[2] - old[0]) ** 2).sum())
        thin = area < 2 * least * np.sqrt(longest)
        if not thin and (n * m).sum() < TURNED * area * after:
            return False
    return True
