"""What of a surface can be seen from outside, and how much of that another surface still has."""

from __future__ import annotations

from dataclasses import dataclass

import igl
import numpy as np

from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Mesh, diagonal

POINTS, RAYS = 600, 32
NEAR = 0.005
"""Of the mesh's diagonal: what lies no farther off is there still."""

LIFTED = 1e-5
"""Of the mesh's diagonal: how far off the surface a ray begins."""


@dataclass(frozen=True)
class Seen:
    """points: (k, 3) of a surface, evenly strewn, that can be seen from outside. near: mm."""

    points: Floats
    near: float

    @staticmethod
    def of(mesh: Mesh) -> Seen:
        """Points are seen where, on one of the surface's sides, rays of many directions meet nothing."""
        draw = np.random.default_rng(1)
        own = areas(mesh)
        faces = draw.choice(len(own), POINTS, p=own / own.sum())
        u, v = np.sort(draw.random((2, POINTS)), axis=0)
        weights = np.stack([u, v - u, 1 - v], axis=1)
        points = np.einsum("ij,ijk->ik", weights, mesh.corners[faces])
        out, size = normals(mesh)[faces], diagonal(mesh.vertices)
        hidden = np.ones(POINTS)
        for side in (out, -out):
            begun = np.ascontiguousarray(points + LIFTED * size * side)
            shut = igl.ambient_occlusion(mesh.vertices, mesh.triangles, begun, np.ascontiguousarray(side), RAYS)
            hidden = np.minimum(hidden, shut.ravel())
        return Seen(points[hidden < 1 - 1.5 / RAYS], NEAR * size)

    def kept_by(self, mesh: Mesh) -> float:
        """The share of it that another surface has."""
        if len(self.points) == 0:
            return 1.0
        if len(mesh.triangles) == 0:
            return 0.0
        squared = igl.point_mesh_squared_distance(self.points, mesh.vertices, mesh.triangles)[0]
        return float(np.mean(np.sqrt(squared) < self.near))
