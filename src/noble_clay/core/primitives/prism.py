"""Prism on a regular polygon."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import IsNumber, Length
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, circle, prism_bounds, prism_rows, stack
from noble_clay.core.primitives.stretch_round import stretch_round

Sides = Annotated[int, Field(ge=3, le=512, title="Sides"), IsNumber]


class Prism(Primitive):
    label: ClassVar[str] = "Prism"
    family: ClassVar[str] = "Straight"
    summary: ClassVar[str] = "a post with equal flat sides"
    sample: ClassVar[dict[str, Any]] = {"sides": 6, "radius": 10, "height": 20}

    kind: Literal["prism"]
    sides: Sides
    radius: Annotated[Length, Field(title="Radius", description="to a corner")]
    height: Annotated[Length, Field(title="Height")]

    def mesh(self) -> Mesh:
        return stack(prism_rows(front_polygon(self.sides) * self.radius, self.height))

    def form(self) -> Form:
        return forms.extruded(front_polygon(self.sides) * self.radius, self.height)

    def bounds(self) -> Floats:
        return prism_bounds(front_polygon(self.sides) * self.radius, self.height)

    def triangle_count(self) -> int:
        return 4 * self.sides

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius",), heights=("height",))


def front_polygon(sides: int) -> Floats:
    """(sides, 2) unit polygon, the middle of one side facing -y."""
    return circle(sides, start=-90 + 180 / sides)
