"""Finding points that lie close together without comparing all with all."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import SHARE

DIRECTION = np.array([0.5411961, 0.3265917, 0.7748771])
"""A unit vector that a maker's faces and symmetries are unlikely to have."""

MOST_STEPS = 24
"""Neighbours along a direction that are compared one by one."""


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
    found = np.sort(suspects[near_pairs(points[suspects], points[suspects] @ DIRECTION, distance)], axis=1)
    found = found[owner[found[:, 0]] != owner[found[:, 1]]]
    return found[np.lexsort((found[:, 1], found[:, 0]))]


def near_pairs(points: Floats, along: Floats, distance: float) -> NDArray[np.int64]:
    """(k, 2) indices of points (n, d) at most `distance` apart. along: (n,) where each lies along a unit vector.

    Each is compared with the next, then with the one after that, and so on along the vector; where that goes on for
    long, by a tree.
    """
    order = np.argsort(along, kind="stable")
    points, along = points[order], along[order]
    found = [np.zeros((0, 2), dtype=np.int64)]
    first = np.arange(len(points))
    for step in range(1, len(points)):
        if step > MOST_STEPS:
            from scipy.spatial import cKDTree

            return order[cKDTree(points).query_pairs(distance, output_type="ndarray")]
        first = first[first + step < len(points)]
        first = first[along[first + step] - along[first] <= distance * (1 + SHARE)]
        if len(first) == 0:
            break
        near = np.linalg.norm(points[first + step] - points[first], axis=1) <= distance
        found.append(np.column_stack([first[near], first[near] + step]))
    return order[np.concatenate(found)]


def _crowded(along: Floats, owner: NDArray[np.int64], distance: float) -> NDArray[np.int64]:
    """Indices of those in a run of small steps, sorted `along`, that holds several owners."""
    order = np.argsort(along)
    step_is_small = np.diff(along[order]) <= distance * (1 + SHARE)
    run = np.concatenate([[0], np.cumsum(~step_is_small)])
    changes_owner = step_is_small & (np.diff(owner[order]) != 0)
    mixed = np.zeros(run[-1] + 1, dtype=bool)
    mixed[run[1:][changes_owner]] = True
    return order[mixed[run]]
