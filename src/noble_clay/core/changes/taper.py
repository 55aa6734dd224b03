"""Taper: narrower or wider towards one end."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import Axis, ShapeChange, end_of, sliced_solid, upright, with_vertices
from noble_clay.core.fields import IsNumber
from noble_clay.core.handles import Handle
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, triple

SLICES = 24


class Taper(ShapeChange):
    """Cross-sections scaled about the middle of the box: by 1 at the low end, by `top` at the high one."""

    label: ClassVar[str] = "Taper"
    summary: ClassVar[str] = "narrower or wider towards the top"
    sample: ClassVar[dict[str, Any]] = {"top": 0.6}
    may_cross: ClassVar[bool] = True

    kind: Literal["taper"]
    top: Annotated[
        float, Field(ge=0.01, le=100, title="Top", description="how wide the top is, of what it was"), IsNumber
    ]
    axis: Axis = "z"

    def handles(self, box: Floats) -> tuple[Handle, ...]:
        out = upright(self.axis)[0]
        # The box is that of the tapered part: its widest end is the low one, or the top where that is wider.
        wide = float(np.abs(out) @ (box[1] - box[0])) / 2 / max(1.0, self.top)
        at = end_of(box, self.axis) + wide * self.top * out
        label = "How wide the top is"
        return (Handle("top", label, triple(at), triple(out), self.top, 1 / wide, 0.01, 100, "of its width"),)

    def made(self, solid: Solid) -> Solid:
        along = "xyz".index(self.axis)
        mesh, part_of, (low, high) = sliced_solid(solid, along, SLICES)
        share = (mesh.vertices[:, along] - low[along]) / (high[along] - low[along])
        factor = 1 + share * (self.top - 1)
        middle = (low + high) / 2
        points = middle + (mesh.vertices - middle) * factor[:, None]
        points[:, along] = mesh.vertices[:, along]
        return with_vertices(solid, mesh, part_of, np.ascontiguousarray(points))

    def triangles_after(self, before: int) -> int:
        return before * 4
