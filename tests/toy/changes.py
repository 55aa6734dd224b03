"""A shape change: moved along an axis, by one of two fields."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.changes.base import Axis, ShapeChange, axis_direction
from noble_clay.core.field_kinds import Either, FormKind, Kind
from noble_clay.core.fields import IsNumber, Length
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.primitives.registry import AnyPrimitive


class Nudge(ShapeChange):
    label: ClassVar[str] = "Nudge"
    summary: ClassVar[str] = "moved a little along an axis"
    sample: ClassVar[dict[str, Any]] = {"by": 2}
    either: ClassVar[Either | None] = Either({"by": 2.0, "times": 3}, {"by": "by a length", "times": "by millimetres"})

    kind: Literal["nudge"]
    by: Annotated[Length | None, Field(title="Nudged by")] = None
    times: Annotated[Annotated[int, Field(ge=1, le=9), IsNumber] | None, Field(title="Nudges")] = None
    like: Annotated[AnyPrimitive | None, Kind(FormKind()), Field(title="Like")] = None
    axis: Axis = "x"

    @model_validator(mode="after")
    def _one_of_two(self) -> Nudge:
        if (self.by is None) == (self.times is None):
            raise ValueError("by or times must be given, and not both")
        return self

    def made(self, solid: Solid) -> Solid:
        step = self.by if self.by is not None else float(self.times or 0)
        return solid.placed(np.column_stack([np.eye(3), axis_direction(self.axis) * step]))


CHANGES: list[type[ShapeChange]] = [Nudge]
