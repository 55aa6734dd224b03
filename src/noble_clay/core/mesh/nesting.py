"""Which closed shells lie inside which, and so which of them are turned the wrong way."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import boxes_by, distinct
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.winding import Winding

MOST_POINTS = 5_000
"""Of a shell, that are asked whether they lie in another."""


def depths(mesh: Mesh, shell: Ints, closed: NDArray[np.bool_]) -> Ints:
    """(shells,) in how many closed shells each lies wholly. shell: (m,). closed: (shells,)."""
    number = len(closed)
    found = np.zeros(number, dtype=np.int64)
    if closed.sum() < 2:
        return found
    low, high = boxes_by(shell, number, mesh.vertices, mesh.triangles)
    order = np.argsort(shell, kind="stable")
    starts = np.searchsorted(shell[order], np.arange(number + 1))
    holders = np.flatnonzero(closed)
    for outer in holders:
        within = np.all((low > low[outer]) & (high < high[outer]), axis=1)
        inner = np.flatnonzero(within)
        if len(inner) == 0:
            continue
        points = [_some_points(mesh, order[starts[i] : starts[i + 1]]) for i in inner]
        around = Mesh(mesh.vertices, mesh.triangles[order[starts[outer] : starts[outer + 1]]])
        inside = np.abs(Winding(around).numbers(np.concatenate(points))) > 0.5
        ends = np.cumsum([len(p) for p in points])
        found[inner] += [bool(part.all()) for part in np.split(inside, ends[:-1])]
    return found


def _some_points(mesh: Mesh, faces: Ints) -> NDArray[np.float64]:
    used = distinct(mesh.triangles[faces])
    return mesh.vertices[used[:: max(1, len(used) // MOST_POINTS)]]


def inside_out(volumes: NDArray[np.float64], depth: Ints, closed: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(shells,) closed shells turned the wrong way: bodies inward, hollows, which lie in an odd number of shells,
    outward. volumes: signed, mm³.
    """
    found: NDArray[np.bool_] = closed & ((volumes < 0) == (depth % 2 == 0)) & (volumes != 0)
    return found
