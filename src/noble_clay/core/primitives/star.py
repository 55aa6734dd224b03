"""Star: a flat star with a height."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import IsNumber, Length
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, circle, prism_bounds, prism_rows, stack
from noble_clay.core.primitives.stretch_round import stretch_round


class Star(Primitive):
    label: ClassVar[str] = "Star"
    family: ClassVar[str] = "Flat"
    summary: ClassVar[str] = "points around a middle, with a height"
    sample: ClassVar[dict[str, Any]] = {"points": 5, "radius": 14, "inner_radius": 6, "height": 6}

    kind: Literal["star"]
    points: Annotated[int, Field(ge=2, le=256, title="Points"), IsNumber]
    radius: Annotated[Length, Field(title="Radius", description="to a point")]
    inner_radius: Annotated[Length, Field(title="Inner radius", description="below the radius")]
    height: Annotated[Length, Field(title="Height")]

    @model_validator(mode="after")
    def _points_stand_out(self) -> Star:
        if self.inner_radius >= self.radius:
            raise ValueError(f"inner_radius must be below the radius, {self.radius:g} mm")
        return self

    def mesh(self) -> Mesh:
        return stack(prism_rows(self._outline(), self.height))

    def _outline(self) -> Floats:
        """(2 · points, 2): its corners, in and out by turns."""
        outline = circle(2 * self.points, start=90).copy()
        outline[::2] *= self.radius
        outline[1::2] *= self.inner_radius
        return outline

    def form(self) -> Form:
        return forms.extruded(self._outline(), self.height)

    def bounds(self) -> Floats:
        return prism_bounds(self._outline(), self.height)

    def triangle_count(self) -> int:
        return 8 * self.points

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius", "inner_radius"), heights=("height",))
