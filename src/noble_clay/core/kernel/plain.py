"""Between triangle arrays and the kernel's manifolds, where no part needs to be known."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import Manifold, Mesh64, OpType

from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.tolerances import HAIR


def manifold_of(mesh: Mesh) -> Manifold:
    """Of a closed, consistently turned mesh."""
    return Manifold(Mesh64(vert_properties=mesh.vertices, tri_verts=mesh.triangles.astype(np.uint64)))


def mesh_of(manifold: Manifold) -> Mesh:
    return mesh_read(manifold.to_mesh64())


def mesh_read(made: Mesh64) -> Mesh:
    """The points and triangles of what the kernel gave."""
    return Mesh(np.ascontiguousarray(np.array(made.vert_properties)[:, :3]), np.array(made.tri_verts, dtype=np.int64))


def tidied(manifold: Manifold) -> Manifold:
    """Without what is left of meeting faces that lie in one plane: corners on straight edges, triangles of no area."""
    return manifold.as_original().simplify(HAIR)


def union_of(pieces: Sequence[Manifold]) -> Manifold:
    return Manifold.batch_boolean(list(pieces), OpType.Add)
