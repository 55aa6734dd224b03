"""Meshes as files of float32 hold them."""

from __future__ import annotations

from noble_clay.core.mesh.gather import equal_corners
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.written import as_float32


def rounded(mesh: Mesh) -> Mesh:
    """The mesh as a float32 file holds it: points that become equal are merged, collapsed triangles dropped."""
    points = as_float32(mesh.vertices)
    index, firsts = equal_corners(points)
    if len(firsts) == len(points):
        return Mesh(points, mesh.triangles)
    triangles = index[mesh.triangles]
    a, b, c = triangles.T
    return Mesh(points[firsts], triangles[(a != b) & (b != c) & (c != a)])
