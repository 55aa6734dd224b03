"""Tube: a cylinder with a round hole all the way through."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import Factors, Primitive, Revolved
from noble_clay.core.primitives.edge import EdgeField, break_corner, check_edge, corner_points
from noble_clay.core.primitives.stretch_round import oval_distance, stretch_round


class Tube(Revolved):
    label: ClassVar[str] = "Tube"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a ring or pipe with a wall"
    sample: ClassVar[dict[str, Any]] = {"radius": 10, "wall": 3, "height": 20}
    closed_profile: ClassVar[bool] = True

    kind: Literal["tube"]
    radius: Annotated[Length, Field(title="Radius", description="outer")]
    wall: Annotated[Length, Field(title="Wall", description="below the radius")]
    height: Annotated[Length, Field(title="Height")]
    facets: Facets = 64
    edge: EdgeField = None

    @model_validator(mode="after")
    def _wall_leaves_a_hole(self) -> Tube:
        if self.wall >= self.radius:
            raise ValueError(f"wall must be below the radius, {self.radius:g} mm")
        if self.radius - self.wall < HAIR:
            raise ValueError(f"wall must leave a hole: below {self.radius - HAIR:g} mm")
        check_edge(self.edge, min(self.wall, self.height) / 2, "half of the wall and half of the height")
        return self

    def profile(self) -> Floats:
        outer, inner, h = self.radius, self.radius - self.wall, self.height / 2
        return np.concatenate(
            [
                break_corner(outer, -h, (-1, 1), self.edge, -1),
                break_corner(outer, h, (-1, -1), self.edge),
                break_corner(inner, h, (1, -1), self.edge, -1),
                break_corner(inner, -h, (1, 1), self.edge),
            ]
        )

    def widest_radius(self) -> float:
        return self.radius

    def profile_points(self) -> int:
        return 4 * corner_points(self.edge)

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius", "wall"), heights=("height",))

    def form_of_stretched(self, factors: Factors) -> Form | None:
        if self.edge is not None:
            return None
        return oval_distance([self.radius, self.radius - self.wall], self.facets, self.height, factors)
