"""Places on a surface, with the normals there: scattered evenly, or in rings about an axis."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.changes.base import upright
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, double_normals

CANDIDATES = 16
"""Points tried for each that is kept."""


@dataclass(frozen=True, eq=False)
class Spots:
    """points, normals: (n, 3) each, the normals outward and of length 1."""

    points: Floats
    normals: Floats


def scattered(solid: Solid, axis: str, count: int, seed: int, span: tuple[float, float]) -> Spots:
    """`count` points as far from each other as they come: of many drawn by area, always the one farthest from those
    taken so far. The same seed gives the same points. span: shares of the height along `axis` between which they lie.
    """
    mesh = solid.mesh_only()
    across = double_normals(mesh).T
    length = np.linalg.norm(across, axis=1)
    low, high = solid.bounds[:, "xyz".index(axis)]
    random = np.random.default_rng(seed)
    triangle = random.choice(len(length), size=max(200, CANDIDATES * count), p=length / length.sum())
    u, v = random.random((2, len(triangle)))
    fold = u + v > 1
    u[fold], v[fold] = 1 - u[fold], 1 - v[fold]
    a, b, c = mesh.corners[triangle].transpose(1, 0, 2)
    points = a + u[:, None] * (b - a) + v[:, None] * (c - a)
    share = (points[:, "xyz".index(axis)] - low) / (high - low)
    within = (share >= span[0]) & (share <= span[1])
    points, triangle = points[within], triangle[within]
    if len(points) == 0:
        return Spots(points, points)
    taken = [0]
    nearest = np.linalg.norm(points - points[0], axis=1)
    while len(taken) < min(count, len(points)):
        taken.append(int(np.argmax(nearest)))
        nearest = np.minimum(nearest, np.linalg.norm(points - points[taken[-1]], axis=1))
    return Spots(points[taken], (across / length[:, None])[triangle[taken]])


def in_rings(solid: Solid, axis: str, rings: int, each: int, span: tuple[float, float]) -> Spots:
    """Points where rays from outside towards the axis, through the middle of the box, first meet the surface."""
    turn = upright(axis)
    low, high = solid.bounds
    middle = (low + high) / 2
    along = "xyz".index(axis)
    reach = float(np.linalg.norm(high - low))
    shares = span[0] + (np.arange(rings) + 0.5) / rings * (span[1] - span[0])
    points, normals = [], []
    for ring, share in enumerate(shares):
        centre = middle.copy()
        centre[along] = low[along] + share * (high[along] - low[along])
        for k in range(each):
            angle = (k + 0.5 * (ring % 2)) * 2 * np.pi / each
            out = np.array([np.cos(angle), np.sin(angle), 0.0]) @ turn
            hits = solid.manifold.ray_cast(tuple(centre + out * reach), tuple(centre))
            if hits:
                points.append(hits[0].position)
                normals.append(hits[0].normal)
    return Spots(np.array(points).reshape(-1, 3), np.array(normals).reshape(-1, 3))
