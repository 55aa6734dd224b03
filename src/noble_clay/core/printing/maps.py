"""Maps over a skin: how far each bit of it leans out over the bed, and how thick the body is behind it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold

from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.measure.walls import Samples, thickness
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.printing.standing import contact_of

FINE_MM = 1.0
MOST_BITS = 150_000


@dataclass(frozen=True, eq=False)
class Maps:
    """mesh: a skin cut into bits that are flat and small. leans: (m,) degrees that each faces down from the upright, 0
    for what faces up or lies on the bed. thick: (m,) mm, infinite where there is no other side.
    """

    mesh: Mesh
    leans: Floats
    thick: Floats


def maps_of(solid: Manifold) -> Maps:
    """Of a solid that stands on z = 0."""
    # A bit of side s has about s² / 2.3 mm²: no more of them than can be drawn.
    fine = max(FINE_MM, (2.3 * solid.surface_area() / MOST_BITS) ** 0.5)
    mesh = mesh_of(solid.refine_to_length(fine)) if solid.num_tri() < MOST_BITS else mesh_of(solid)
    down = np.degrees(np.arcsin(np.clip(-normals(mesh)[:, 2], 0, 1)))
    down[(mesh.corners[:, :, 2] <= contact_of(mesh)).all(axis=1)] = 0.0
    every = Samples(mesh.corners.mean(axis=1), np.arange(len(mesh.triangles)), areas(mesh))
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    thick, _ = thickness(mesh, every, float(np.linalg.norm(high - low)) + 1)
    return Maps(mesh, down, thick)
