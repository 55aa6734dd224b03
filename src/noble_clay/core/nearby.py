"""Finding points that lie close together without comparing all with all."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from noble_clay.core.mesh import Floats


def close_pairs(points: Floats, owner: NDArray[np.int64], distance: float) -> NDArray[np.int64]:
    """(k, 2) indices, the lower first, of points of different owners at most `distance` mm apart.

    points: (n, 3). owner: (n,). Sorted. Most points have no neighbour: those are sorted out by two coarse grids,
    shifted by half a cell; a pair that both grids split, in different axes, is found through the third.
    """
    if len(points) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    suspects = _crowded(points, owner, 16 * distance)
    if len(suspects) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    pairs = cKDTree(points[suspects]).query_pairs(distance, output_type="ndarray")
    found = np.sort(suspects[pairs], axis=1)
    found = found[owner[found[:, 0]] != owner[found[:, 1]]]
    return found[np.lexsort((found[:, 1], found[:, 0]))]


def _crowded(points: Floats, owner: NDArray[np.int64], cell: float) -> NDArray[np.int64]:
    """Indices of points whose coarse cell holds points of several owners."""
    found = np.zeros(len(points), dtype=bool)
    for shift in (0.0, 1 / 3, 2 / 3):
        cells = np.floor(points / cell + shift).astype(np.int64)
        key = (cells[:, 0] * 73_856_093) ^ (cells[:, 1] * 19_349_663) ^ (cells[:, 2] * 83_492_791)
        order = np.argsort(key, kind="stable")
        same = key[order][1:] == key[order][:-1]
        # All of a cell's points are suspects as soon as two owners meet in it.
        cell_number = np.concatenate([[0], np.cumsum(~same)])
        mixed = np.zeros(cell_number[-1] + 1, dtype=bool)
        differs = same & (owner[order][1:] != owner[order][:-1])
        mixed[cell_number[1:][differs]] = True
        found[order[mixed[cell_number]]] = True
    return np.flatnonzero(found)
