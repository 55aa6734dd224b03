"""Ellipsoid with three radii."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, Size3
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, Round, circle, quarter_rows, revolve
from noble_clay.core.primitives.sphere import half_circle


class Ellipsoid(Round):
    label: ClassVar[str] = "Ellipsoid"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a ball stretched three ways: bodies, leaves, pebbles"
    sample: ClassVar[dict[str, Any]] = {"radii": [16, 11, 9]}

    kind: Literal["ellipsoid"]
    radii: Annotated[Size3, Field(title="Radii", description="half of wide, deep, high")]
    facets: Facets = 64

    def mesh(self) -> Mesh:
        ball = revolve(half_circle(self.facets), self.facets)
        return Mesh(ball.vertices * self.radii, ball.triangles)

    def bounds(self) -> Floats:
        ring = circle(self.facets)
        low, high = (np.append(extreme(ring, axis=0), end) for extreme, end in ((np.min, -1.0), (np.max, 1.0)))
        return np.array([low, high]) * self.radii

    def form(self) -> Form:
        return forms.ellipsoid(self.radii, 2 * self.chord_error())

    def widest_radius(self) -> float:
        return max(self.radii)

    def triangle_count(self) -> int:
        return 4 * self.facets * quarter_rows(self.facets)

    def stretched(self, factors: Factors) -> Primitive:
        return self.updated(radii=[r * f for r, f in zip(self.radii, factors, strict=True)])
