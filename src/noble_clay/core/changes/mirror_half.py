"""Halve and mirror: one half kept, and its mirror image in place of the other."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import ShapeChange, Side, kept_beyond, side_direction
from noble_clay.core.errors import MeshError
from noble_clay.core.fields import Coordinate
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.solid import Solid


class MirrorHalf(ShapeChange):
    """The side `keep` of the plane at `at`, mm in the part's own frame, and its mirror image across that plane."""

    label: ClassVar[str] = "Halve and mirror"
    summary: ClassVar[str] = "one half kept, the other its mirror image"
    sample: ClassVar[dict[str, Any]] = {}

    kind: Literal["mirror_half"]
    keep: Annotated[Side, Field(title="Keep", description="the side that stays")] = "x+"
    at: Annotated[Coordinate, Field(title="Plane at")] = 0.0

    def made(self, solid: Solid) -> Solid:
        out = side_direction(self.keep)
        axis = int(np.argmax(np.abs(out)))
        half = kept_beyond(solid, out, self.at * out[axis])
        if half.empty:
            low, high = solid.bounds[:, axis]
            raise MeshError(f"at must be between {low:.4g} and {high:.4g} mm, where the part is")
        matrix = np.eye(3, 4)
        matrix[axis, axis], matrix[axis, 3] = -1, 2 * self.at
        return boolean("union", [half, half.placed(matrix)])

    def triangles_after(self, before: int) -> int:
        return 2 * before
