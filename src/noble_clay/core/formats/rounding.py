"""Print formats hold float32: a mesh made ready so that rounding its points does not break it."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.inspect import inspect_mesh
from noble_clay.core.mesh import Mesh
from noble_clay.core.solid.solid import Solid


def rounded(mesh: Mesh) -> Mesh:
    """The mesh as a float32 file holds it: points that become equal are merged, collapsed triangles dropped."""
    points = mesh.vertices.astype(np.float32).astype(np.float64)
    unique, index = np.unique(points, axis=0, return_inverse=True)
    if len(unique) == len(points):
        return Mesh(points, mesh.triangles)
    triangles = index.reshape(-1)[mesh.triangles]
    a, b, c = triangles.T
    return Mesh(unique, triangles[(a != b) & (b != c) & (c != a)])


def ready_for_float32(solid: Solid) -> Solid:
    """The solid, or, where rounding its points would break it, the solid with its tiniest edges collapsed first."""
    mesh = solid.mesh_only()
    if len(mesh.triangles) == 0:
        return solid
    after = rounded(mesh)
    if len(after.triangles) == len(mesh.triangles) or inspect_mesh(after).manifold:
        return solid
    step = float(np.spacing(np.float32(np.abs(mesh.vertices).max())))
    return Solid(solid.manifold.simplify(4 * step), solid.labels, solid.planes)
