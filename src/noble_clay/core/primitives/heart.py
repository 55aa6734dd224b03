"""Heart: a square on its corner with half circles on its two upper sides."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, arc
from noble_clay.core.primitives.flat_form import Height, RoundFlatForm, centred

SIDE = math.sqrt(0.5)
"""Of the square of side 1 on its corner: how far a corner is from the middle."""

WIDE, DEEP = 2 * (SIDE / 2 + 0.5), 1.5 * SIDE + 0.5
"""Of the heart on that square, over all."""


class Heart(RoundFlatForm):
    label: ClassVar[str] = "Heart"
    family: ClassVar[str] = "Flat"
    summary: ClassVar[str] = "a heart, its point to the front"
    sample: ClassVar[dict[str, Any]] = {"width": 20, "depth": 18, "height": 5}

    kind: Literal["heart"]
    width: Annotated[Length, Field(title="Width", description="along x, over all")]
    depth: Annotated[Length, Field(title="Depth", description="along y, from the point to the top")]
    height: Height
    facets: Facets = 64

    def rings(self) -> list[Floats]:
        # The unit square stands on its point; its right bulge is a half circle about (SIDE / 2, 1.5 SIDE).
        turns = [(-45, 0), (0, 90), (90, 135)]
        bulge = np.concatenate([arc(*ends, self.facets)[i > 0 :] for i, ends in enumerate(turns)]) / 2
        right = bulge + [SIDE / 2, 1.5 * SIDE]
        right[0], right[-1] = (SIDE, SIDE), (0.0, 2 * SIDE)
        left = right[-2::-1] * [-1.0, 1.0]
        ring = np.concatenate([[[0.0, 0.0]], right, left])
        low = np.array([-WIDE / 2, 0.0])
        share = (ring - low) / [WIDE, DEEP]
        return centred((share - 0.5) * [self.width, self.depth])

    def widest_radius(self) -> float:
        return max(self.width / WIDE, self.depth / DEEP) / 2

    def stretched(self, factors: Factors) -> Primitive | None:
        fx, fy, fz = factors
        return self.updated(width=self.width * fx, depth=self.depth * fy, height=self.height * fz)
