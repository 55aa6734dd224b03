"""Paddle: a flat bar with round ends."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, arc
from noble_clay.core.primitives.flat_form import Height, RoundFlatForm
from noble_clay.core.primitives.stretch_round import stretch_round


class Paddle(RoundFlatForm):
    label: ClassVar[str] = "Paddle"
    family: ClassVar[str] = "Flat"
    summary: ClassVar[str] = "a bar with round ends: slots, tongues, straps"
    sample: ClassVar[dict[str, Any]] = {"length": 30, "width": 10, "height": 5}

    kind: Literal["paddle"]
    length: Annotated[Length, Field(title="Length", description="over all, along x; no less than the width")]
    width: Annotated[Length, Field(title="Width", description="along y; its ends are half circles of it")]
    height: Height
    facets: Facets = 64

    @model_validator(mode="after")
    def _as_long_as_wide(self) -> Paddle:
        if self.length < self.width:
            raise ValueError(f"length must be no less than the width, {self.width:g} mm")
        return self

    def rings(self) -> list[Floats]:
        radius, straight = self.width / 2, (self.length - self.width) / 2
        right = np.concatenate([arc(-90, 0, self.facets), arc(0, 90, self.facets)[1:]]) * radius
        ring = np.concatenate([right + [straight, 0.0], -right - [straight, 0.0]])
        return [ring if straight > 0 else np.concatenate([right[:-1], -right[:-1]])]

    def widest_radius(self) -> float:
        return self.width / 2

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("length", "width"), heights=("height",))
