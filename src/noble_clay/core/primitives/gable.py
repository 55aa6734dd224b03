"""Gable: a triangular prism, its ridge along x."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Size3
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, around
from noble_clay.core.primitives.wedge import side_of_bar, three_sided_bar


class Gable(Primitive):
    label: ClassVar[str] = "Gable"
    family: ClassVar[str] = "Straight"
    summary: ClassVar[str] = "a roof with its ridge in the middle"
    sample: ClassVar[dict[str, Any]] = {"size": [24, 18, 12]}

    kind: Literal["gable"]
    size: Annotated[Size3, Field(title="Size", description="wide, deep, high")]

    def mesh(self) -> Mesh:
        return three_sided_bar(self.size, ridge=0.0)

    def form(self) -> Form:
        return forms.extruded(side_of_bar(self.size, ridge=0.0), self.size[0], axis=0)

    def bounds(self) -> Floats:
        return around(self.size)

    def triangle_count(self) -> int:
        return 8

    def stretched(self, factors: Factors) -> Primitive:
        return self.updated(size=[s * f for s, f in zip(self.size, factors, strict=True)])
