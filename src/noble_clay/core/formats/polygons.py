"""Faces of any number of corners as triangles."""

from __future__ import annotations

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import check_count
from noble_clay.core.mesh.mesh import Floats, Ints


def as_triangles(points: Floats, corners: Ints, sizes: Ints) -> tuple[Ints, Ints]:
    """Triangles (t, 3) over points (n, 3), and the face (t,) that each is of.

    corners: indices of all faces after each other; sizes: (f,) how many are each one's. Convex faces become fans, and
    others what fits in them. Faces of fewer than three corners are left out. Raises MeshError for indices out of range.
    """
    from noble_clay.core.mend.patch import flat_patch

    check_count(int(np.maximum(sizes - 2, 0).sum()))
    if len(corners) and (corners.min() < 0 or corners.max() >= len(points)):
        bad = int(
            np.searchsorted(np.cumsum(sizes), np.flatnonzero((corners < 0) | (corners >= len(points)))[0], "right")
        )
        raise MeshError(f"face {bad + 1:,} names a point that is not there: there are {len(points):,}")
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    found, owner = [], []
    for size in np.unique(sizes[sizes >= 3]):
        which = np.flatnonzero(sizes == size)
        faces = corners[starts[which][:, None] + np.arange(size)]
        fans = np.stack(
            [np.column_stack([faces[:, 0], faces[:, k], faces[:, k + 1]]) for k in range(1, size - 1)], axis=1
        )
        if size > 3:
            for row in np.flatnonzero(_dented(points, faces)):
                fitting = flat_patch(points[faces[row]])
                if fitting is not None:
                    fans[row] = faces[row][fitting]
        found.append(fans.reshape(-1, 3))
        owner.append(np.repeat(which, size - 2))
    if not found:
        return np.zeros((0, 3), dtype=np.int64), np.zeros(0, dtype=np.int64)
    order = np.argsort(np.concatenate(owner), kind="stable")
    return np.concatenate(found)[order], np.concatenate(owner)[order]


def _dented(points: Floats, faces: Ints) -> Ints:
    """(f,) whether some corner of a face turns against the whole of it."""
    here = points[faces]
    before, after = here - np.roll(here, 1, axis=1), np.roll(here, -1, axis=1) - here
    turns = np.cross(before, after)
    found: Ints = (np.einsum("fki,fi->fk", turns, turns.sum(axis=1)) < 0).any(axis=1)
    return found
