"""Pyramid on a regular polygon, pointed or cut off."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Length, LengthOrZero
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, prism_bounds, prism_rows, stack
from noble_clay.core.primitives.cone import check_point_or_size
from noble_clay.core.primitives.prism import Sides, front_polygon
from noble_clay.core.primitives.stretch_round import stretch_round


class Pyramid(Primitive):
    label: ClassVar[str] = "Pyramid"
    family: ClassVar[str] = "Straight"
    summary: ClassVar[str] = "flat sides to a point, or cut off at the top"
    sample: ClassVar[dict[str, Any]] = {"sides": 4, "radius": 13, "height": 20}

    kind: Literal["pyramid"]
    sides: Sides
    radius: Annotated[Length, Field(title="Radius", description="to a corner of the base")]
    height: Annotated[Length, Field(title="Height")]
    top_radius: Annotated[LengthOrZero, Field(title="Top radius", description="0 is a point")] = 0.0

    @model_validator(mode="after")
    def _top_is_point_or_size(self) -> Pyramid:
        check_point_or_size(self.top_radius, "top_radius")
        return self

    def mesh(self) -> Mesh:
        return stack(prism_rows(front_polygon(self.sides), self.height, top=self.top_radius, bottom=self.radius))

    def form(self) -> Form:
        return forms.convex(self.mesh().corners)

    def bounds(self) -> Floats:
        return prism_bounds(front_polygon(self.sides) * max(self.radius, self.top_radius), self.height)

    def triangle_count(self) -> int:
        return 4 * self.sides

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius", "top_radius"), heights=("height",))
