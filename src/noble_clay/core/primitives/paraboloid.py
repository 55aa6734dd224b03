"""Paraboloid: a round nose on a flat base."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved, quarter_rows
from noble_clay.core.primitives.stretch_round import stretch_round


class Paraboloid(Revolved):
    label: ClassVar[str] = "Paraboloid"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a blunt nose on a flat base: thimbles, snouts, hats"
    sample: ClassVar[dict[str, Any]] = {"radius": 10, "height": 22}

    kind: Literal["paraboloid"]
    radius: Annotated[Length, Field(title="Radius")]
    height: Annotated[Length, Field(title="Height")]
    facets: Facets = 64

    def profile(self) -> Floats:
        out = np.linspace(1, 0, quarter_rows(self.facets) + 1)
        curve = np.column_stack([self.radius * out, self.height * (0.5 - out**2)])
        return np.concatenate([[[0.0, -self.height / 2]], curve])

    def widest_radius(self) -> float:
        return self.radius

    def profile_points(self) -> int:
        return quarter_rows(self.facets) + 2

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius",), heights=("height",))
