"""Whether a mesh is a closed manifold: whether the triangles around each of its vertices are one fan that closes."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange

from noble_clay.core.mesh.mesh import Mesh

FEW = 24
"""Triangles around a vertex that are looked through one by one; more are sorted first."""


def is_manifold(mesh: Mesh) -> bool:
    """Whether a mesh is closed and turned consistently, with two triangles at every edge and one fan at every vertex,
    by its indices alone; every vertex in use.
    """
    triangles = np.ascontiguousarray(mesh.triangles)
    return bool(np.all(_one_fan(triangles, *_around(triangles, len(mesh.vertices)))))


@njit(cache=True)  # type: ignore[untyped-decorator]
def _around(triangles: Any, number: Any) -> Any:
    """starts: (n + 1,) where the corners at each vertex begin in the other: corners as 3 · triangle + which."""
    starts = np.zeros(number + 1, dtype=np.int64)
    for t in range(len(triangles)):
        for k in range(3):
            starts[triangles[t, k] + 1] += 1
    for v in range(number):
        starts[v + 1] += starts[v]
    at = starts[:-1].copy()
    corners = np.empty(3 * len(triangles), dtype=np.int64)
    for t in range(len(triangles)):
        for k in range(3):
            v = triangles[t, k]
            corners[at[v]] = 3 * t + k
            at[v] += 1
    return starts, corners


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _one_fan(triangles: Any, starts: Any, corners: Any) -> Any:
    """(n,) whether one goes around each vertex, from a triangle to the one beyond its edge, through all of its
    triangles and no other.
    """
    found = np.zeros(len(starts) - 1, dtype=np.bool_)
    for v in prange(len(starts) - 1):
        number = starts[v + 1] - starts[v]
        if number < 3:
            continue
        froms, tos = np.empty(number, dtype=np.int64), np.empty(number, dtype=np.int64)
        for n in range(number):
            t, k = corners[starts[v] + n] // 3, corners[starts[v] + n] % 3
            froms[n], tos[n] = triangles[t, (k + 1) % 3], triangles[t, (k + 2) % 3]
        if number > FEW:
            order = np.argsort(froms)
            froms, tos = froms[order], tos[order]
        at, steps = 0, 0
        while steps < number:
            steps += 1
            at = _which(froms, tos[at], number > FEW)
            if at <= 0:
                break
        found[v] = at == 0 and steps == number
    return found


@njit(cache=True)  # type: ignore[untyped-decorator]
def _which(values: Any, wanted: Any, in_order: Any) -> Any:
    """Where a value is, or -1 where it is not there, or more than once."""
    if in_order:
        at = np.searchsorted(values, wanted)
        there = at < len(values) and values[at] == wanted
        return at if there and not (at + 1 < len(values) and values[at + 1] == wanted) else -1
    found = -1
    for n in range(len(values)):
        if values[n] == wanted:
            if found >= 0:
                return -1
            found = n
    return found
