"""Wedge: a right-angled ramp."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Size3
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, around


class Wedge(Primitive):
    label: ClassVar[str] = "Wedge"
    family: ClassVar[str] = "Straight"
    summary: ClassVar[str] = "a ramp rising to the back"
    sample: ClassVar[dict[str, Any]] = {"size": [18, 24, 14]}

    kind: Literal["wedge"]
    size: Annotated[Size3, Field(title="Size", description="wide, deep, high")]

    def mesh(self) -> Mesh:
        return three_sided_bar(self.size, ridge=1.0)

    def form(self) -> Form:
        return forms.extruded(side_of_bar(self.size, ridge=1.0), self.size[0], axis=0)

    def bounds(self) -> Floats:
        return around(self.size)

    def triangle_count(self) -> int:
        return 8

    def stretched(self, factors: Factors) -> Primitive:
        return self.updated(size=[s * f for s, f in zip(self.size, factors, strict=True)])


def three_sided_bar(size: tuple[float, float, float], ridge: float) -> Mesh:
    """A triangular bar along x, its base below; `ridge` says where the top edge is, from -1 (front) to 1 (back)."""
    side = side_of_bar(size, ridge)
    vertices = np.array([[end, *point] for end in (-size[0] / 2, size[0] / 2) for point in side])
    triangles = [[0, 2, 1], [3, 4, 5], [0, 1, 4], [0, 4, 3], [1, 2, 5], [1, 5, 4], [2, 0, 3], [2, 3, 5]]
    return Mesh(vertices, np.array(triangles))


def side_of_bar(size: tuple[float, float, float], ridge: float) -> Floats:
    """(3, 2) its triangle, seen along x: points (y, z)."""
    _, y, z = (s / 2 for s in size)
    return np.array([[-y, -z], [y, -z], [ridge * y, z]])
