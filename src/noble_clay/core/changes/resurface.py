"""Resurface: the skin rebuilt of even triangles, its sharp edges where they were."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.changes.rebuilt import rebuilt
from noble_clay.core.errors import MeshError
from noble_clay.core.fields import Length
from noble_clay.core.kernel.solid import Solid


class Resurface(ShapeChange):
    """Triangles about `resolution` mm long everywhere; walls thinner than that may be lost."""

    label: ClassVar[str] = "Resurface"
    summary: ClassVar[str] = "even triangles at a resolution, sharp edges kept"
    sample: ClassVar[dict[str, Any]] = {"resolution": 1}

    kind: Literal["resurface"]
    resolution: Annotated[Length, Field(title="Resolution", description="about how long a triangle's side is")]

    def made(self, solid: Solid) -> Solid:
        from noble_clay.core.field.even import even_surface
        from noble_clay.core.mesh.untangle import untangled

        mesh = even_surface(solid.mesh_only(), self.resolution)
        if len(mesh.triangles) == 0:
            raise MeshError(f"resolution {self.resolution:g} mm is too coarse: nothing of the part would be left")
        return rebuilt(untangled(mesh)[0], solid)
