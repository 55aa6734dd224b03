"""Cone, pointed or cut off."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.fields import MIN_SIZE, Facets, Length, LengthOrZero
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved
from noble_clay.core.primitives.stretch_round import stretch_round


def check_point_or_size(value: float, what: str) -> None:
    """Raise ValueError for a radius that is neither 0 (a point) nor a printable size."""
    if 0 < value < MIN_SIZE:
        raise ValueError(f"{what} must be 0, for a point, or at least {MIN_SIZE:g} mm")


class Cone(Revolved):
    label: ClassVar[str] = "Cone"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a point, or cut off at the top: beaks, spikes, cups"
    sample: ClassVar[dict[str, Any]] = {"bottom_radius": 9, "height": 22}

    kind: Literal["cone"]
    bottom_radius: Annotated[LengthOrZero, Field(title="Bottom radius")]
    top_radius: Annotated[LengthOrZero, Field(title="Top radius", description="0 is a point")] = 0.0
    height: Annotated[Length, Field(title="Height")]
    facets: Facets = 64

    @model_validator(mode="after")
    def _one_end_is_wide(self) -> Cone:
        check_point_or_size(self.bottom_radius, "bottom_radius")
        check_point_or_size(self.top_radius, "top_radius")
        if self.bottom_radius == 0 and self.top_radius == 0:
            raise ValueError("bottom_radius and top_radius may not both be 0: one of them must be at least 0.001 mm")
        return self

    def profile(self) -> Floats:
        h = self.height / 2
        return np.array([[0.0, -h], [self.bottom_radius, -h], [self.top_radius, h], [0.0, h]])

    def widest_radius(self) -> float:
        return max(self.bottom_radius, self.top_radius)

    def profile_points(self) -> int:
        return 4

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("bottom_radius", "top_radius"), heights=("height",))
