"""Cutting a mesh by a level plane: what is kept, and the line along which it was cut."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.tolerances import HAIR


def cut_level(mesh: Mesh, z: float, above: bool) -> tuple[Mesh, Ints]:
    """What lies above, or below, the height `z`, mm, open there; and (k,) the points of it around the cut, which must
    be one loop, as its triangles run along it. What only touches the plane goes.
    """
    height = (mesh.vertices[:, 2] - z) * (1 if above else -1)
    height[np.abs(height) < HAIR] = 0.0
    kept = height > 0
    corners = kept[mesh.triangles]
    count = corners.sum(axis=1)
    crossing = (count == 1) | (count == 2)
    # Turned so that the corner that stands alone on its side of the plane comes first.
    triangles = mesh.triangles[crossing]
    alone = np.argmax(corners[crossing] == (count[crossing] == 1)[:, None], axis=1)
    a, b, c = (np.take_along_axis(triangles, (alone[:, None] + k) % 3, axis=1)[:, 0] for k in range(3))
    size = len(mesh.vertices)
    # A point of the cut is known by the edge that it lies on; a corner on the plane by itself.
    ends = np.stack([np.stack([a, b], axis=1), np.stack([a, c], axis=1)])
    ends.sort(axis=-1)
    on = height[ends] == 0
    ends = np.where(on.any(axis=-1)[..., None], np.where(on[..., :1], ends[..., :1], ends[..., 1:]), ends)
    keys, at = np.unique(ends[..., 0] * size + ends[..., 1], return_inverse=True)
    at = at.reshape(2, -1) + size
    p, q = keys // size, keys % size
    span = height[q] - height[p]
    share = np.where(span == 0, 0.0, -height[p] / np.where(span == 0, 1.0, span))
    points = mesh.vertices[p] + share[:, None] * (mesh.vertices[q] - mesh.vertices[p])
    points[:, 2] = z
    one = count[crossing] == 1
    ab, ac = at
    found = [
        mesh.triangles[count == 3],
        np.stack([a, ab, ac], axis=1)[one],
        np.stack([ab, b, c], axis=1)[~one],
        np.stack([ab, c, ac], axis=1)[~one],
    ]
    edges = np.where(one[:, None], np.stack([ab, ac], axis=1), np.stack([ac, ab], axis=1))
    whole = np.concatenate(found)
    whole = whole[(whole[:, 0] != whole[:, 1]) & (whole[:, 1] != whole[:, 2]) & (whole[:, 2] != whole[:, 0])]
    return Mesh(np.concatenate([mesh.vertices, points]), whole), _loop(edges[edges[:, 0] != edges[:, 1]])


def _loop(edges: Ints) -> Ints:
    """(k,) points along edges (k, 2), from one to the next."""
    follower = dict(edges.tolist())
    start = at = int(edges[0, 0])
    found = [start]
    while (at := follower[at]) != start:
        found.append(at)
    return np.array(found)
