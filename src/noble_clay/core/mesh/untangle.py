"""Small tangles of a skin that was made elsewhere: where a few triangles cross, their corners are drawn towards their
neighbours until none does.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mesh import Floats, Mesh

MOST_PAIRS = 300
"""More than that is no small tangle."""

ROUNDS = 12
WIDER_EVERY = 3
"""Rounds after which the corners next to those are drawn too."""

STRIDE = 0.5


def untangled(mesh: Mesh, slack: float | None = None, fresh: NDArray[np.bool_] | None = None) -> tuple[Mesh, bool]:
    """A closed mesh with the same triangles, and whether none of them cross; the mesh itself, where nothing crosses or
    what does is not drawn apart. Only corners in and beside a tangle move, and by less than their neighbours are away.
    slack, fresh: as `crossing_pairs` has them.
    """
    from noble_clay.core.mesh.crossings import crossing_pairs

    least = slack_of(mesh) if slack is None else slack
    pairs = crossing_pairs(mesh, least, fresh)
    if not 0 < len(pairs) <= MOST_PAIRS:
        return mesh, len(pairs) == 0
    ends = np.concatenate([mesh.triangles[:, [0, 1]], mesh.triangles[:, [1, 2]], mesh.triangles[:, [2, 0]]])
    order = np.argsort(ends[:, 0], kind="stable")
    starts = np.searchsorted(ends[order, 0], np.arange(len(mesh.vertices) + 1))
    ring = ends[order, 1]
    vertices = mesh.vertices.copy()
    moved = np.zeros(0, dtype=np.int64)
    for number in range(ROUNDS):
        tangled = distinct(mesh.triangles[pairs])
        moved = np.union1d(moved, tangled)
        if number % WIDER_EVERY == WIDER_EVERY - 1:
            moved = distinct(np.concatenate([moved, *(ring[starts[v] : starts[v + 1]] for v in moved)]))
        middles = np.array([vertices[ring[starts[v] : starts[v + 1]]].mean(axis=0) for v in moved])
        vertices[moved] += STRIDE * (middles - vertices[moved])
        now = Mesh(vertices, mesh.triangles)
        touched: NDArray[np.bool_] = np.any(np.isin(mesh.triangles, moved), axis=1)
        near = _near(now, touched)
        pairs = np.flatnonzero(near)[crossing_pairs(now.keep(near), least, touched[near])]
        # Which of two triangles in nearly one plane is looked at first depends on what else there is: all counts.
        if len(pairs) == 0:
            pairs = crossing_pairs(now, least, None if fresh is None else fresh | touched)
        if len(pairs) == 0:
            return now, True
    return mesh, False


def _near(mesh: Mesh, some: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(m,) whether each triangle comes into the box around some (m,) of them."""
    low: Floats = mesh.corners[some].min(axis=(0, 1))
    high: Floats = mesh.corners[some].max(axis=(0, 1))
    found: NDArray[np.bool_] = (mesh.corners.min(axis=1) <= high).all(axis=1) & (mesh.corners.max(axis=1) >= low).all(
        axis=1
    )
    return found
