"""Round: all edges softened by a radius."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from manifold3d import Manifold
from pydantic import Field

from noble_clay.core.changes.base import Fineness, ShapeChange
from noble_clay.core.changes.rebuilt import finest, rebuilt, rebuilt_from_lattice
from noble_clay.core.errors import MeshError
from noble_clay.core.fields import IsNumber, Length
from noble_clay.core.kernel.convex import half_spaces, inset, is_convex
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.primitives.sphere import Sphere

MOST_CORNERS = 400_000
"""Points of a hull; a convex solid of more faces is rounded by its distance field like any other."""


class Round(ShapeChange):
    """Where a ball of `radius` can roll inside a convex solid: exact. Any other solid is rounded by its distance field,
    edges that stand out and then those that lie in, on a lattice of `fineness` mm.
    """

    label: ClassVar[str] = "Round"
    summary: ClassVar[str] = "all edges softened by a radius"
    sample: ClassVar[dict[str, Any]] = {"radius": 1.5}
    keeps_box: ClassVar[bool] = True

    kind: Literal["round"]
    radius: Annotated[Length, Field(title="Radius")]
    facets: Annotated[int, Field(ge=8, le=128, title="Sides", description="of a full circle"), IsNumber] = 24
    fineness: Fineness = None

    def made(self, solid: Solid) -> Solid:
        from noble_clay.core.field.offset import offset_surface

        if is_convex(solid.manifold):
            found = self._convex(solid.mesh_only())
            if found is not None:
                return rebuilt(found, solid, flat=True)
        mesh = solid.mesh_only()
        cell = self.cell(solid)
        inner = offset_surface(mesh, -self.radius, cell)
        outer = offset_surface(inner, 2 * self.radius, cell, self_intersecting=True)
        found = offset_surface(outer, -self.radius, cell, self_intersecting=True)
        if len(inner.triangles) == 0 or len(found.triangles) == 0:
            raise self._too_large()
        return rebuilt_from_lattice(found, solid, cell)

    def cell(self, solid: Solid) -> float:
        return self.fineness or finest(solid, self.radius / 4)

    def _convex(self, mesh: Mesh) -> Mesh | None:
        """A ball rolled along the solid that lies the radius inside; None when that has too many corners."""
        inner = inset(mesh, self.radius)
        if inner is None:
            raise self._too_large()
        corners = np.array(inner.to_mesh64().vert_properties)[:, :3]
        ball = Sphere(kind="sphere", radius=self.radius, facets=self.facets).mesh().vertices
        normals, _ = half_spaces(mesh)
        ways = np.concatenate([ball, normals * self.radius])  # with its normals, every face is back where it was
        if len(corners) * len(ways) > MOST_CORNERS:
            return None
        raw = Manifold.hull_points((corners[:, None, :] + ways).reshape(-1, 3)).to_mesh64()
        return Mesh(np.array(raw.vert_properties)[:, :3], np.array(raw.tri_verts).astype(np.int64))

    def _too_large(self) -> MeshError:
        return MeshError(f"radius {self.radius:g} mm is too large: nothing of the part is that thick")
