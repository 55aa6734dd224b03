"""Half edges paired with those that run the other way, by sorting: for meshes of which few are looked at.

Half edge k of triangle t starts at its corner k. The compiled pairing of whole meshes, also of broken ones, is
`pairing.edges_of`.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Ints


def edge_codes(starts: Ints, ends: Ints, vertices: int) -> Ints:
    """One number for every edge between two of so many vertices, whichever way it runs."""
    found: Ints = np.minimum(starts, ends) * vertices + np.maximum(starts, ends)
    return found


def opposite(starts: Ints, ends: Ints, vertices: int) -> Ints:
    """(n,) for half edges from `starts` to `ends`, each (n,), which of them runs the other way; -1 for none. Of several
    it is one. vertices: how many there are.
    """
    here, there = starts * vertices + ends, ends * vertices + starts
    order = np.argsort(here)
    at = np.minimum(np.searchsorted(here[order], there), len(order) - 1)
    found: Ints = np.where(here[order[at]] == there, order[at], -1)
    return found


def across(triangles: Ints, vertices: int) -> Ints:
    """(m, 3) the triangle on the other side of the edge from corner k to the next; -1 where there is none."""
    found = opposite(triangles.ravel(), np.roll(triangles, -1, axis=1).ravel(), vertices)
    return np.where(found < 0, -1, found // 3).reshape(-1, 3)


def unpaired(triangles: Ints, vertices: int) -> NDArray[np.bool_]:
    """(m,) triangles with an edge that does not run exactly once each way."""
    start, end = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    codes = start * vertices + end
    _, index, times = np.unique(codes, return_inverse=True, return_counts=True)
    wrong = (times[index.reshape(-1)] != 1) | (opposite(start, end, vertices) < 0)
    found: NDArray[np.bool_] = wrong.reshape(-1, 3).any(axis=1)
    return found


def rim(triangles: Ints, vertices: int) -> Ints:
    """(k, 2) edges that run more often one way than the other, as they do, and as often as that. Without any, how often
    the surface goes around a point is a whole number everywhere.
    """
    start, end = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    codes, index = np.unique(edge_codes(start, end, vertices), return_inverse=True)
    more = np.bincount(index.reshape(-1), weights=np.sign(end - start)).astype(np.int64)
    low, high = np.divmod(codes, vertices)
    ways = np.where((more > 0)[:, None], np.column_stack([low, high]), np.column_stack([high, low]))
    return np.repeat(ways, np.abs(more), axis=0)
