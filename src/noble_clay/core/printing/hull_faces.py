"""The flat faces of a body's convex hull: on these it can lie."""

from __future__ import annotations

import numpy as np
from manifold3d import Manifold

from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats

FLAT_MM = 1e-3
"""Corners that are hardly any are left out."""

SAME = 1 - 1e-6
"""Cosine: triangles that face so much alike are one face."""


def hull_faces(solid: Manifold) -> Floats:
    """(n, 3) outward unit normals, that of the largest face first."""
    hull = mesh_of(solid.hull().as_original().simplify(FLAT_MM))
    facing, area = normals(hull), areas(hull)
    faces: list[tuple[float, Floats]] = []
    left = area > 0
    for i in np.argsort(-area):
        if not left[i]:
            continue
        same = left & (facing @ facing[i] > SAME)
        left &= ~same
        faces.append((float(area[same].sum()), facing[i]))
    faces.sort(key=lambda f: -f[0])
    return np.array([normal for _, normal in faces]).reshape(-1, 3)
