"""Several bodies made one: bridged to the largest, or all but the largest dropped."""

from __future__ import annotations

import numpy as np
from manifold3d import Manifold

from noble_clay.core.kernel.plain import mesh_of, union_of
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.unite import kernel_solid
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mass import signed_volumes
from noble_clay.core.mesh.mesh import Floats, Mesh, diagonal
from noble_clay.core.mesh.topology import Topology

BRIDGE_MM, BRIDGE_SHARE = 1.5, 0.02
"""The radius of a bridge: mm, at most this share of the mesh's size."""

SIDES = 24


def keep_largest(mesh: Mesh) -> tuple[Mesh, Done]:
    """Only the body of the largest volume, with the hollows in it."""
    number, shell = Topology(mesh).shells
    volumes = np.bincount(shell, weights=signed_volumes(mesh), minlength=number)
    if np.sum(volumes > 0) < 2:
        return mesh, Done("keep_largest", 0)
    largest = int(np.argmax(volumes))
    low, high = mesh.keep(shell == largest).bounds  # type: ignore[misc]
    inside = np.zeros(number, dtype=bool)
    for i in np.flatnonzero(volumes < 0):
        points = mesh.vertices[mesh.triangles[shell == i]].reshape(-1, 3)
        inside[i] = bool(np.all(points >= low) and np.all(points <= high))
    inside[largest] = True
    return mesh.keep(inside[shell]), Done("keep_largest", int(np.sum(~inside)))


def bridge(mesh: Mesh, radius: float | None = None) -> tuple[Mesh, Done]:
    """A round bridge from every smaller body to the largest, where they are nearest, united with both."""
    number, shell = Topology(mesh).shells
    volumes = np.bincount(shell, weights=signed_volumes(mesh), minlength=number)
    bodies = [int(i) for i in np.argsort(-volumes) if volumes[i] > 0]
    whole = kernel_solid(mesh)
    if len(bodies) < 2 or whole is None:
        return mesh, Done("bridge", 0)
    from scipy.spatial import cKDTree

    size = diagonal(mesh.vertices)
    thick = radius or min(BRIDGE_MM, BRIDGE_SHARE * size)
    main = mesh.vertices[distinct(mesh.triangles[shell == bodies[0]])]
    struts = []
    for body in bodies[1:]:
        own = mesh.vertices[distinct(mesh.triangles[shell == body])]
        away, at = cKDTree(main).query(own)
        nearest = int(np.argmin(away))
        struts.append(_strut(own[nearest], main[at[nearest]], thick))
    found = mesh_of(union_of([whole, *struts]))
    return found, Done("bridge", len(struts), {"radius_mm": thick})


def _strut(a: Floats, b: Floats, radius: float) -> Manifold:
    ball = Manifold.sphere(radius, SIDES)
    return Manifold.batch_hull([ball.translate(tuple(a)), ball.translate(tuple(b))])
