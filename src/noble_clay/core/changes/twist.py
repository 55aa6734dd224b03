"""Twist: cross-sections turned more and more along an axis."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import Axis, ShapeChange, end_of, sliced_solid, upright, with_vertices
from noble_clay.core.field_kinds import DEGREES
from noble_clay.core.fields import IsNumber
from noble_clay.core.handles import Handle
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, triple

ACROSS = 4
"""Slices across the axis: a face that is twisted is no longer flat."""


class Twist(ShapeChange):
    """The low end turned by nothing, the high one by `angle`, about the line through the middle of the box.

    Every slice turns as a whole, so by Cavalieri's principle the volume stays.
    """

    label: ClassVar[str] = "Twist"
    summary: ClassVar[str] = "turned more and more towards the top: horns, candles, ropes"
    sample: ClassVar[dict[str, Any]] = {"angle": 90}
    may_cross: ClassVar[bool] = True

    kind: Literal["twist"]
    angle: Annotated[float, DEGREES, Field(ge=-7200, le=7200, title="Angle"), IsNumber]
    axis: Axis = "z"
    slices: Annotated[int, Field(ge=1, le=256, title="Slices", description="along its length"), IsNumber] = 32

    def handles(self, box: Floats) -> tuple[Handle, ...]:
        out, sideways, _ = upright(self.axis)
        reach = float(np.abs(out) @ (box[1] - box[0])) / 2
        at = end_of(box, self.axis) + reach * out
        label = "How far the top is turned"
        per = float(np.degrees(1 / reach))
        return (Handle("angle", label, triple(at), triple(sideways), self.angle, per, -7200, 7200, "°"),)

    def made(self, solid: Solid) -> Solid:
        along = "xyz".index(self.axis)
        mesh, part_of, (low, high) = sliced_solid(solid, along, self.slices, ACROSS)
        turn = upright(self.axis)
        middle = (low + high) / 2
        x, y, z = turn @ (mesh.vertices - middle).T
        share = (mesh.vertices[:, along] - low[along]) / (high[along] - low[along])
        angle = np.radians(self.angle * share)
        cosine, sine = np.cos(angle), np.sin(angle)
        points = middle + np.column_stack([x * cosine - y * sine, x * sine + y * cosine, z]) @ turn
        return with_vertices(solid, mesh, part_of, np.ascontiguousarray(points))

    def triangles_after(self, before: int) -> int:
        return before * (2 + self.slices // 2)
