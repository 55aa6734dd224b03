"""Box, its edges sharp, chamfered or filleted."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Size3
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, around, quarter_arc, roundness_error, stack
from noble_clay.core.primitives.edge import EdgeField, check_edge


class Box(Primitive):
    label: ClassVar[str] = "Box"
    family: ClassVar[str] = "Straight"
    summary: ClassVar[str] = "a block with square, chamfered or filleted edges"
    sample: ClassVar[dict[str, Any]] = {"size": [20, 20, 20]}

    kind: Literal["box"]
    size: Annotated[Size3, Field(title="Size", description="wide, deep, high")]
    edge: EdgeField = None

    @model_validator(mode="after")
    def _edges_fit(self) -> Box:
        check_edge(self.edge, min(self.size) / 2, "half of the box's smallest side")
        return self

    def mesh(self) -> Mesh:
        if self.edge is None:
            return hexahedron(self.size)
        inset, steps = self.edge.size, self.edge.steps
        core = np.array(self.size) / 2 - inset
        # Each corner is an eighth of a ball about a corner of the inner block; the rings go once around all four.
        turn = quarter_arc(steps, 0, 90)
        around = np.concatenate([turn, turn[:, ::-1] * [-1, 1], -turn, turn[:, ::-1] * [1, -1]])
        signs = np.repeat([[1, 1], [-1, 1], [-1, -1], [1, -1]], steps + 1, axis=0)
        rise = quarter_arc(steps, -90, 0)
        rows = []
        for (spread, height), side in [(p, -1) for p in rise] + [(p, 1) for p in rise[::-1] * [1, -1]]:
            ring = signs * core[:2] + around * inset * spread
            rows.append(np.column_stack([ring, np.full(len(ring), side * core[2] + inset * height)]))
        pole = np.array([[0.0, 0.0, self.size[2] / 2]])
        return _weld_exact(stack([-pole, *rows, pole]))

    def form(self) -> Form:
        if self.edge is None:
            return forms.box(self.size)
        if self.edge.kind == "chamfer":
            return forms.convex(self.mesh().corners)
        # Its corners are eighths of balls, which its mesh is within.
        return forms.box(self.size, self.edge.size, 2 * roundness_error(self.edge.size, 4 * self.edge.steps))

    def bounds(self) -> Floats:
        return around(self.size)

    def triangle_count(self) -> int:
        steps = 0 if self.edge is None else self.edge.steps
        return 12 + 48 * steps + 24 * steps * steps

    def stretched(self, factors: Factors) -> Primitive:
        return self.updated(size=[s * f for s, f in zip(self.size, factors, strict=True)])


def _weld_exact(mesh: Mesh) -> Mesh:
    """Merge vertices that are the same point to 1e-9 mm and drop the triangles that collapse."""
    _, first, inverse = np.unique(np.round(mesh.vertices, 9), axis=0, return_index=True, return_inverse=True)
    triangles = inverse.reshape(-1)[mesh.triangles]
    a, b, c = triangles.T
    return Mesh(mesh.vertices[first], triangles[(a != b) & (b != c) & (c != a)])
