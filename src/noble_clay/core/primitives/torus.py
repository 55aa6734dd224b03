"""Torus: a ring with a round tube."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import Factors, Primitive, Revolved, circle, roundness_error


class Torus(Revolved):
    label: ClassVar[str] = "Torus"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a ring: rims, handles, lips"
    sample: ClassVar[dict[str, Any]] = {"ring_radius": 12, "tube_radius": 4}
    closed_profile: ClassVar[bool] = True

    kind: Literal["torus"]
    ring_radius: Annotated[Length, Field(title="Ring radius", description="to the middle of the tube")]
    tube_radius: Annotated[Length, Field(title="Tube radius", description="below the ring radius")]
    facets: Facets = 64
    tube_facets: Annotated[Facets, Field(title="Tube sides", description="straight sides around the tube")] = 32

    @model_validator(mode="after")
    def _ring_has_a_hole(self) -> Torus:
        if self.ring_radius - self.tube_radius < HAIR:
            raise ValueError(f"tube_radius must be below the ring_radius, {self.ring_radius:g} mm")
        return self

    def profile(self) -> Floats:
        return np.array([self.ring_radius, 0.0]) + circle(self.tube_facets) * self.tube_radius

    def form(self) -> Form:
        error = self.chord_error() + roundness_error(self.tube_radius, self.tube_facets)
        return forms.torus(self.ring_radius, self.tube_radius, error)

    def widest_radius(self) -> float:
        return self.ring_radius + self.tube_radius

    def profile_points(self) -> int:
        return self.tube_facets

    def stretched(self, factors: Factors) -> Primitive | None:
        if len(set(factors)) > 1:
            return None
        return self.updated(ring_radius=self.ring_radius * factors[0], tube_radius=self.tube_radius * factors[0])
