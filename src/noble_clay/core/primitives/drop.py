"""Drop: a circle and its two tangents from a point."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import SHARE
from noble_clay.core.primitives.base import Factors, Primitive, arc
from noble_clay.core.primitives.flat_form import Height, RoundFlatForm
from noble_clay.core.primitives.stretch_round import stretch_round


class Drop(RoundFlatForm):
    label: ClassVar[str] = "Drop"
    family: ClassVar[str] = "Flat"
    summary: ClassVar[str] = "round at one end, a point at the other: tears, leaves, petals"
    sample: ClassVar[dict[str, Any]] = {"width": 14, "length": 24, "height": 4}

    kind: Literal["drop"]
    width: Annotated[Length, Field(title="Width", description="of its round end")]
    length: Annotated[Length, Field(title="Length", description="along y, over all; no less than the width")]
    height: Height
    facets: Facets = 64

    @model_validator(mode="after")
    def _as_long_as_wide(self) -> Drop:
        if self.length < self.width:
            raise ValueError(f"length must be no less than the width, {self.width:g} mm")
        return self

    def rings(self) -> list[Floats]:
        radius = self.width / 2
        centre, tip = np.array([0.0, radius - self.length / 2]), np.array([[0.0, self.length / 2]])
        # A tangent from the tip meets the circle where its radius turns from the axis by this.
        turn = math.degrees(math.acos(min(1.0, radius / (self.length - radius))))
        if turn < math.degrees(math.sqrt(SHARE)):
            quarters = [arc(a, a + 90, self.facets)[:-1] for a in (-90, 0, 90, 180)]
            return [np.concatenate(quarters) * radius + centre]
        # From one tangent's point to the other, the corners on the axes among them.
        stops = [90 + turn - 360, -180, -90, 0, 90 - turn] if turn < 90 else [-180, -90, 0]
        parts = [arc(a, b, self.facets)[i > 0 :] for i, (a, b) in enumerate(zip(stops, stops[1:], strict=False))]
        return [np.concatenate([np.concatenate(parts) * radius + centre, tip])]

    def widest_radius(self) -> float:
        return self.width / 2

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("width", "length"), heights=("height",))
