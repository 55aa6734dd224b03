"""Flatten: a side cut off by a plane."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import ShapeChange, Side, kept_beyond, side_direction
from noble_clay.core.errors import MeshError
from noble_clay.core.fields import Length
from noble_clay.core.solid.solid import Solid


class Flatten(ShapeChange):
    """What lies less than `depth` from the outermost point of a side is cut off."""

    label: ClassVar[str] = "Flatten"
    summary: ClassVar[str] = "a side cut off flat: a foot to stand on"
    sample: ClassVar[dict[str, Any]] = {"depth": 1.5}

    kind: Literal["flatten"]
    depth: Annotated[Length, Field(title="Depth", description="from its outermost point inward")]
    side: Annotated[Side, Field(title="Side")] = "z-"

    def made(self, solid: Solid) -> Solid:
        out = side_direction(self.side)
        low, high = solid.bounds
        across = float(np.abs(out) @ (high - low))
        if self.depth >= across:
            raise MeshError(f"depth must stay below {across:.4g} mm, or nothing would be left")
        edge = max(float(out @ low), float(out @ high)) - self.depth
        return kept_beyond(solid, -out, -edge)
