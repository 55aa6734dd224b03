"""Finding points that lie close together without comparing all with all."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from noble_clay.core.mesh import Floats

DIRECTION = np.array([0.5411961, 0.3265917, 0.7748771])
"""A unit vector that a maker's faces and symmetries are unlikely to have."""


def close_pairs(points: Floats, owner: NDArray[np.int64], distance: float) -> NDArray[np.int64]:
    """(k, 2) indices, the lower first, of points of different owners at most `distance` mm apart.

    points: (n, 3). owner: (n,). Sorted. Points that are close are close along any direction too: one sort along one
    direction sets nearly all points aside, and only the rest go into a tree.
    """
    if len(points) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    suspects = _crowded(points @ DIRECTION, owner, distance)
    if len(suspects) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    pairs = cKDTree(points[suspects]).query_pairs(distance, output_type="ndarray")
    found = np.sort(suspects[pairs], axis=1)
    found = found[owner[found[:, 0]] != owner[found[:, 1]]]
    return found[np.lexsort((found[:, 1], found[:, 0]))]


def _crowded(along: Floats, owner: NDArray[np.int64], distance: float) -> NDArray[np.int64]:
    """Indices of those in a run of small steps, sorted `along`, that holds several owners."""
    order = np.argsort(along)
    step_is_small = np.diff(along[order]) <= distance * (1 + 1e-9)
    run = np.concatenate([[0], np.cumsum(~step_is_small)])
    changes_owner = step_is_small & (np.diff(owner[order]) != 0)
    mixed = np.zeros(run[-1] + 1, dtype=bool)
    mixed[run[1:][changes_owner]] = True
    return order[mixed[run]]
