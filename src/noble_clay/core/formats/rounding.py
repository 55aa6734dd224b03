"""Meshes as files of float32 hold them."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh import Mesh
from noble_clay.core.solid.written import as_float32


def rounded(mesh: Mesh) -> Mesh:
    """The mesh as a float32 file holds it: points that become equal are merged, collapsed triangles dropped."""
    points = as_float32(mesh.vertices)
    unique, index = np.unique(points, axis=0, return_inverse=True)
    if len(unique) == len(points):
        return Mesh(points, mesh.triangles)
    triangles = index.reshape(-1)[mesh.triangles]
    a, b, c = triangles.T
    return Mesh(unique, triangles[(a != b) & (b != c) & (c != a)])
