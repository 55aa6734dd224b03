"""Flatten: a side cut off by a plane."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import ShapeChange, Side, end_of, kept_beyond, side_direction
from noble_clay.core.errors import MeshError
from noble_clay.core.fields import Length
from noble_clay.core.handles import Handle
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats, triple


class Flatten(ShapeChange):
    """What lies less than `depth` from the outermost point of a side is cut off."""

    label: ClassVar[str] = "Flatten"
    summary: ClassVar[str] = "a side cut off flat: a foot to stand on"
    sample: ClassVar[dict[str, Any]] = {"depth": 1.5}

    kind: Literal["flatten"]
    depth: Annotated[Length, Field(title="Depth", description="from its outermost point inward")]
    side: Annotated[Side, Field(title="Side")] = "z-"

    def handles(self, box: Floats) -> tuple[Handle, ...]:
        out = side_direction(self.side)
        end = end_of(box, self.side[0], box[1 if self.side[1] == "+" else 0]["xyz".index(self.side[0])])
        most = self.depth + 0.95 * float(np.abs(out) @ (box[1] - box[0]))  # something has to be left
        label = "The flattened side"
        return (Handle("depth", label, triple(end), triple(-out), self.depth, least=0.01, most=most),)

    def made(self, solid: Solid) -> Solid:
        out = side_direction(self.side)
        low, high = solid.bounds
        across = float(np.abs(out) @ (high - low))
        if self.depth >= across:
            raise MeshError(f"depth must stay below {across:.4g} mm, or nothing would be left")
        edge = max(float(out @ low), float(out @ high)) - self.depth
        return kept_beyond(solid, -out, -edge)
