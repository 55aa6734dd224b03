"""Stretch: one region longer or shorter, the rest moved along."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.changes.base import Axis, ShapeChange, axis_direction, end_of, with_vertices
from noble_clay.core.fields import Coordinate
from noble_clay.core.handles import Handle
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, triple
from noble_clay.core.mesh.sliced import sliced


class Stretch(ShapeChange):
    """What lies between `low` and `high`, mm along the axis in the part's own frame, becomes longer by `by`."""

    label: ClassVar[str] = "Stretch"
    summary: ClassVar[str] = "a region longer or shorter, the ends as they are"
    sample: ClassVar[dict[str, Any]] = {"low": -2, "high": 2, "by": 6}

    kind: Literal["stretch"]
    low: Annotated[Coordinate, Field(title="From")]
    high: Annotated[Coordinate, Field(title="To")]
    by: Annotated[Coordinate, Field(title="Longer by")]
    axis: Axis = "z"

    @model_validator(mode="after")
    def _in_order(self) -> Stretch:
        if self.high - self.low < 0.001:
            raise ValueError("high must be at least 0.001 mm above low")
        if self.by <= -(self.high - self.low) + 0.001:
            raise ValueError(f"by must be above -{self.high - self.low:g}, or nothing of the region would be left")
        return self

    def handles(self, box: Floats) -> tuple[Handle, ...]:
        at, along = end_of(box, self.axis, self.high + self.by), axis_direction(self.axis)
        label = "How much longer the region is"
        return (Handle("by", label, triple(at), triple(along), self.by, least=self.low - self.high + 0.01),)

    def made(self, solid: Solid) -> Solid:
        along = "xyz".index(self.axis)
        mesh, part_of, _ = solid.mesh_with_parts()
        mesh, origin = sliced(mesh, along, np.array([self.low, self.high]))
        part_of = part_of[origin]
        points = mesh.vertices.copy()
        share = np.clip((points[:, along] - self.low) / (self.high - self.low), 0, 1)
        points[:, along] += share * self.by
        return with_vertices(solid, mesh, part_of, points)

    def triangles_after(self, before: int) -> int:
        return before * 3
