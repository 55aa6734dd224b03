"""Gear: an involute spur gear."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field_kinds import DEGREES
from noble_clay.core.fields import IsNumber, Length, LengthOrZero
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import Factors, Primitive, arc, circle
from noble_clay.core.primitives.cone import check_point_or_size
from noble_clay.core.primitives.flat_form import FlatForm, Height
from noble_clay.core.primitives.stretch_round import stretch_round

FLANK_STEPS, ARC_FACETS = 24, 256
"""Straight sides of one flank, and of a full circle at tip and root."""

BORE_FACETS = 64
ADDENDUM, DEDENDUM = 1.0, 1.25
"""Modules from the pitch circle out to the tip and in to the root (ISO 53)."""


class Gear(FlatForm):
    """Tooth flanks are involutes of the base circle; below that they go straight inward to the root."""

    label: ClassVar[str] = "Gear"
    family: ClassVar[str] = "Flat"
    summary: ClassVar[str] = "a toothed wheel; two of one module turn together"
    sample: ClassVar[dict[str, Any]] = {"teeth": 16, "module": 2, "height": 6, "bore": 3}

    kind: Literal["gear"]
    teeth: Annotated[int, Field(ge=6, le=400, title="Teeth"), IsNumber]
    module: Annotated[Length, Field(title="Module", description="pitch diameter by the number of teeth")]
    height: Height
    pressure_angle: Annotated[
        float, DEGREES, Field(ge=5, le=40, title="Pressure angle", description="20° as a rule"), IsNumber
    ] = 20.0
    bore: Annotated[LengthOrZero, Field(title="Bore", description="radius of the hole; 0 is none")] = 0.0
    backlash: Annotated[LengthOrZero, Field(title="Backlash", description="taken off each tooth's thickness")] = 0.0

    @model_validator(mode="after")
    def _teeth_stand(self) -> Gear:
        thickness = math.pi * self.module / 2
        if self.backlash >= thickness:
            raise ValueError(f"backlash must be below the tooth's thickness, {thickness:g} mm")
        if self._half_angle(self._tip()) * self._tip() < HAIR:
            raise ValueError("pressure_angle must be less, or more teeth: these would be pointed below their tips")
        if math.pi / self.teeth - self._half_angle(max(self._root(), self._base())) < HAIR / self._root():
            raise ValueError("pressure_angle must be less, or more teeth: these would run into each other at the root")
        check_point_or_size(self.bore, "bore")
        if self.bore > self._root() - HAIR:
            raise ValueError(f"bore must be below the root radius, {self._root():g} mm")
        return self

    def _pitch(self) -> float:
        return self.module * self.teeth / 2

    def _tip(self) -> float:
        return self._pitch() + ADDENDUM * self.module

    def _root(self) -> float:
        return self._pitch() - DEDENDUM * self.module

    def _base(self) -> float:
        return self._pitch() * math.cos(math.radians(self.pressure_angle))

    def _half_angle(self, radius: float) -> float:
        """Half of a tooth at a radius on its flank, rad: at the pitch circle it is (π m / 2 - backlash) thick."""
        at_pitch = (math.pi * self.module / 2 - self.backlash) / self._pitch() / 2
        inward = math.acos(min(1.0, self._base() / radius))
        return at_pitch + involute(math.radians(self.pressure_angle)) - involute(inward)

    def rings(self) -> list[Floats]:
        low = max(self._root(), self._base())
        # Even steps of the angle that the involute has unrolled keep its chords about as true near the base circle.
        first, last = (math.sqrt(max(0.0, (r / self._base()) ** 2 - 1)) for r in (low, self._tip()))
        radii = self._base() * np.sqrt(1 + np.linspace(first, last, FLANK_STEPS + 1) ** 2)
        radii[0], radii[-1] = low, self._tip()
        half = np.array([self._half_angle(r) for r in radii])
        if self._root() < self._base():
            radii, half = np.append(self._root(), radii), np.append(half[0], half)
        step = 2 * math.pi / self.teeth
        tip = math.degrees(half[-1])
        crest = arc(-tip, tip, ARC_FACETS)[1:-1] * self._tip()
        if not len(crest):
            crest = np.array([[self._tip(), 0.0]])
        valley = arc(math.degrees(half[0]), math.degrees(step - half[0]), ARC_FACETS)[1:-1] * self._root()
        up = np.column_stack([radii * np.cos(half), -radii * np.sin(half)])
        tooth = np.concatenate([up, crest, (up * [1.0, -1.0])[::-1], valley])
        # Each turned tooth by tooth; points on the axes exact, as those of every circle.
        c, s = circle(self.teeth).T
        x, y = tooth.T
        ring = np.stack([c[:, None] * x - s[:, None] * y, s[:, None] * x + c[:, None] * y], axis=-1).reshape(-1, 2)
        return [ring] if self.bore == 0 else [ring, circle(BORE_FACETS) * self.bore]

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("module", "bore", "backlash"), heights=("height",))


def involute(angle: float) -> float:
    """inv α = tan α - α, rad."""
    return math.tan(angle) - angle
