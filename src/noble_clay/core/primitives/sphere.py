"""Sphere."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Facets, Length
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, Revolved, quarter_arc, quarter_rows


class Sphere(Revolved):
    label: ClassVar[str] = "Sphere"
    family: ClassVar[str] = "Round"
    summary: ClassVar[str] = "a ball: heads, eyes, beads"
    sample: ClassVar[dict[str, Any]] = {"radius": 12}

    kind: Literal["sphere"]
    radius: Annotated[Length, Field(title="Radius")]
    facets: Facets = 64

    def profile(self) -> Floats:
        return half_circle(self.facets) * self.radius

    def widest_radius(self) -> float:
        return self.radius

    def profile_points(self) -> int:
        return 2 * quarter_rows(self.facets) + 1

    def form(self) -> Form:
        return forms.sphere(self.radius, 2 * self.chord_error())

    def stretched(self, factors: Factors) -> Primitive | None:
        return self.updated(radius=self.radius * factors[0]) if len(set(factors)) == 1 else None


def half_circle(facets: int) -> Floats:
    """(k, 2) points (r, z) of the unit half circle from pole to pole, with a row of points on the equator."""
    return quarter_arc(2 * quarter_rows(facets), -90, 90)
