"""Capsule: a cylinder with a half ball at each end."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved, quarter_arc, quarter_rows


class Capsule(Revolved):
    label: ClassVar[str] = "Capsule"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a rod with round ends: arms, legs, fingers"
    sample: ClassVar[dict[str, Any]] = {"radius": 5, "length": 26}

    kind: Literal["capsule"]
    radius: Annotated[Length, Field(title="Radius")]
    length: Annotated[Length, Field(title="Length", description="over all, at least twice the radius")]
    facets: Facets = 64

    @model_validator(mode="after")
    def _long_enough(self) -> Capsule:
        if self.length < 2 * self.radius:
            raise ValueError(f"length must be at least twice the radius, {2 * self.radius:g} mm")
        return self

    def profile(self) -> Floats:
        rows, straight = quarter_rows(self.facets), self.length / 2 - self.radius
        low = quarter_arc(rows, -90, 0) * self.radius - [0, straight]
        high = quarter_arc(rows, 0, 90) * self.radius + [0, straight]
        return np.concatenate([low, high])

    def form(self) -> Form:
        return forms.capsule(self.radius, self.length / 2 - self.radius, 2 * self.chord_error())

    def widest_radius(self) -> float:
        return self.radius

    def profile_points(self) -> int:
        return 2 * quarter_rows(self.facets) + 2

    def stretched(self, factors: Factors) -> Primitive | None:
        fx, fy, fz = factors
        if fx != fy or self.length * fz < 2 * self.radius * fx:
            return None
        return self.updated(radius=self.radius * fx, length=self.length * fz)
