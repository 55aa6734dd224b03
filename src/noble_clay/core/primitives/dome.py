"""Dome: the upper half of a sphere."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved, quarter_arc, quarter_rows


class Dome(Revolved):
    label: ClassVar[str] = "Dome"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "half a ball on its flat side: shells, caps, hills"
    sample: ClassVar[dict[str, Any]] = {"radius": 14}

    kind: Literal["dome"]
    radius: Annotated[Length, Field(title="Radius")]
    facets: Facets = 64

    def profile(self) -> Floats:
        arc = quarter_arc(quarter_rows(self.facets), 0, 90)
        return np.concatenate([[[0.0, 0.0]], arc]) * self.radius - [0, self.radius / 2]

    def widest_radius(self) -> float:
        return self.radius

    def profile_points(self) -> int:
        return quarter_rows(self.facets) + 2

    def stretched(self, factors: Factors) -> Primitive | None:
        return self.updated(radius=self.radius * factors[0]) if len(set(factors)) == 1 else None
