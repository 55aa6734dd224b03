"""Bend: the part's length laid along an arc."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import Axis, ShapeChange, axis_direction, end_of, sliced_solid, upright, with_vertices
from noble_clay.core.errors import MeshError
from noble_clay.core.field_kinds import DEGREES
from noble_clay.core.fields import Angle, IsNumber
from noble_clay.core.handles import Handle
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, triple


class Bend(ShapeChange):
    """The line through the middle of the box becomes an arc of `angle`, as long as it was; its low end stays.

    Slices stay as they are and at right angles to the arc, so by Pappus' theorem the volume of a part that is alike on
    both sides of the arc stays. towards: the direction, about the axis, in which the high end goes, 0 being the next
    axis (x for a bend along z).
    """

    label: ClassVar[str] = "Bend"
    summary: ClassVar[str] = "its length along an arc: tails, necks, brims"
    sample: ClassVar[dict[str, Any]] = {"angle": 60}
    may_cross: ClassVar[bool] = True

    kind: Literal["bend"]
    angle: Annotated[float, DEGREES, Field(ge=-359, le=359, title="Angle"), IsNumber]
    towards: Annotated[Angle, Field(title="Towards", description="0 is towards +x")] = 0.0
    axis: Axis = "z"
    slices: Annotated[int, Field(ge=1, le=256, title="Slices", description="along its length"), IsNumber] = 32

    def handles(self, box: Floats) -> tuple[Handle, ...]:
        turn = math.radians(self.towards)
        sideways = upright(self.axis).T @ np.array([math.cos(turn), math.sin(turn), 0.0])
        length = float(axis_direction(self.axis) @ (box[1] - box[0]))
        return (
            Handle(
                "angle",
                "How far the top is bent",
                triple(end_of(box, self.axis)),
                triple(sideways),
                self.angle,
                math.degrees(2 / length),  # the end of an arc of length l goes sideways by about l · angle / 2
                -350,
                350,
                "°",
            ),
        )

    def made(self, solid: Solid) -> Solid:
        if self.angle == 0:
            return solid
        along = "xyz".index(self.axis)
        mesh, part_of, (low, high) = sliced_solid(solid, along, self.slices)
        c, s = math.cos(math.radians(self.towards)), math.sin(math.radians(self.towards))
        turn = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]]) @ upright(self.axis)
        base = (low + high) / 2
        base[along] = low[along]
        x, y, z = turn @ (mesh.vertices - base).T
        radius = (high[along] - low[along]) / math.radians(self.angle)
        inner = x.max() if radius > 0 else -x.min()
        if inner >= abs(radius) * (1 - 1e-6):
            most = math.degrees((high[along] - low[along]) / inner)
            raise MeshError(
                f"angle must stay below {most:.4g}°: bent further, a part so thick runs into itself on the inside"
            )
        turned = z / radius
        out = radius - x  # from the middle of the arc
        points = np.column_stack([radius - out * np.cos(turned), y, out * np.sin(turned)])
        return with_vertices(solid, mesh, part_of, np.ascontiguousarray(base + points @ turn))

    def triangles_after(self, before: int) -> int:
        return before * (1 + self.slices // 4)
