"""Cylinder, its rims sharp, chamfered or filleted."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved
from noble_clay.core.primitives.edge import EdgeField, break_corner, check_edge, corner_points
from noble_clay.core.primitives.stretch_round import oval_distance, stretch_round


class Cylinder(Revolved):
    label: ClassVar[str] = "Cylinder"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a round post, a peg, a drilled hole"
    sample: ClassVar[dict[str, Any]] = {"radius": 8, "height": 24}

    kind: Literal["cylinder"]
    radius: Annotated[Length, Field(title="Radius")]
    height: Annotated[Length, Field(title="Height")]
    facets: Facets = 64
    edge: EdgeField = None

    @model_validator(mode="after")
    def _edges_fit(self) -> Cylinder:
        check_edge(self.edge, min(self.radius, self.height / 2), "the radius and half the height")
        return self

    def profile(self) -> Floats:
        r, h = self.radius, self.height / 2
        pole = np.array([[0.0, h]])
        return np.concatenate(
            [-pole, break_corner(r, -h, (-1, 1), self.edge, -1), break_corner(r, h, (-1, -1), self.edge), pole]
        )

    def widest_radius(self) -> float:
        return self.radius

    def profile_points(self) -> int:
        return 2 + 2 * corner_points(self.edge)

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius",), heights=("height",))

    def form_of_stretched(self, factors: Factors) -> Form | None:
        return None if self.edge is not None else oval_distance([self.radius], self.facets, self.height, factors)
