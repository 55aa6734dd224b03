"""Egg: two half ellipsoids of different height on one widest circle."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, IsNumber, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved, quarter_arc, quarter_rows
from noble_clay.core.primitives.stretch_round import stretch_round


class Egg(Revolved):
    label: ClassVar[str] = "Egg"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "fat at one end: bodies, heads, buds"
    sample: ClassVar[dict[str, Any]] = {"width": 20, "height": 27}

    kind: Literal["egg"]
    width: Annotated[Length, Field(title="Width")]
    height: Annotated[Length, Field(title="Height")]
    bias: Annotated[
        float,
        Field(ge=-0.8, le=0.8, title="Fat end", description="above 0: below; under 0: above"),
        IsNumber,
    ] = 0.25
    facets: Facets = 64

    @property
    def widest(self) -> float:
        """Height of the widest circle over the middle, mm."""
        return -self.bias * self.height / 2

    def profile(self) -> Floats:
        rows, half = quarter_rows(self.facets), self.height / 2
        low = quarter_arc(rows, -90, 0) * [self.width / 2, half + self.widest]
        high = quarter_arc(rows, 0, 90) * [self.width / 2, half - self.widest]
        return np.concatenate([low, high[1:]]) + [0, self.widest]

    def form(self) -> Form:
        half = self.height / 2
        return forms.egg(self.width / 2, half + self.widest, half - self.widest, self.widest, 2 * self.chord_error())

    def widest_radius(self) -> float:
        return self.width / 2

    def profile_points(self) -> int:
        return 2 * quarter_rows(self.facets) + 1

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("width",), heights=("height",))
