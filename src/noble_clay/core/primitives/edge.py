"""Chamfered and filleted edges, shared by the primitives that have sharp ones."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.field_kinds import Shown
from noble_clay.core.fields import IsNumber, Length, Model
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import quarter_arc


class Edge(Model):
    """How sharp edges are broken: cut off flat, or rounded."""

    kind: Annotated[Literal["chamfer", "fillet"], Field(title="Edge")]
    size: Annotated[Length, Field(title="Edge size")]
    segments: Annotated[
        int,
        Shown(only_when={"kind": ("fillet",)}),
        Field(ge=1, le=64, title="Steps", description="flat steps of the rounding"),
        IsNumber,
    ] = 8

    @property
    def steps(self) -> int:
        """Flat steps from one face to the next: one for a chamfer."""
        return 1 if self.kind == "chamfer" else self.segments


EdgeField = Annotated[
    Edge | None,
    Field(title="Edges", description="chamfer or fillet of the sharp edges"),
    Shown(none="sharp", start={"edge": {"kind": "fillet", "size": 1.0, "segments": 8}}),
]


def check_edge(edge: Edge | None, limit: float, what: str) -> None:
    """Raise ValueError when the broken edges would run into each other: `size` must stay below `limit` mm."""
    if edge is not None and edge.size >= limit:
        raise ValueError(f"edge size must be below {limit:g} mm, {what}")


def corner_points(edge: Edge | None) -> int:
    """How many points `break_corner` gives."""
    return 1 if edge is None else edge.steps + 1


def break_corner(r: float, z: float, inward: tuple[int, int], edge: Edge | None, turn: int = 1) -> Floats:
    """(k, 2) profile points that replace the right-angled corner (r, z).

    inward: signs of the direction from the corner into the solid. turn: 1 walks from the flat to the upright side
    when going counter-clockwise at the outer bottom; each caller names its corner by the first of the two sides.
    """
    if edge is None:
        return np.array([[r, z]])
    centre = np.array([r + inward[0] * edge.size, z + inward[1] * edge.size])
    arc = quarter_arc(edge.steps, 0, 90) if turn > 0 else quarter_arc(edge.steps, 90, 0)
    return centre + arc * edge.size * np.array([-inward[0], -inward[1]])
