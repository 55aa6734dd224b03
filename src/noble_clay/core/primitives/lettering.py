"""Lettering: a line of text, straight or on a ring."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field.forms import Form
from noble_clay.core.field_kinds import Shown, Words
from noble_clay.core.fields import Coordinate, Length, Text
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive
from noble_clay.core.primitives.flat import extruded
from noble_clay.core.primitives.flat_form import centred, flat_box, flat_distance
from noble_clay.core.primitives.text import outlines_of

FONTS = {"rubik": "Rubik, plain", "fraunces": "Fraunces, with feet", "grandstander": "Grandstander, by hand"}


class Lettering(Primitive):
    """Lying, to be read from above; on a ring, the ring's middle is on the z axis, and the text's is towards +y."""

    label: ClassVar[str] = "Lettering"
    family: ClassVar[str] = "Drawn"
    summary: ClassVar[str] = "a line of text: signs, names, dates"
    sample: ClassVar[dict[str, Any]] = {"text": "Tide", "size": 8, "depth": 2, "font": "rubik"}

    kind: Literal["lettering"]
    text: Annotated[Text, Field(min_length=1, max_length=200, title="Text")]
    size: Annotated[Length, Field(title="Letter height", description="of capital letters")]
    depth: Annotated[Length, Field(title="Depth", description="how thick it lies")]
    font: Annotated[Literal["rubik", "fraunces", "grandstander"], Words(FONTS), Field(title="Font")] = "rubik"
    spacing: Annotated[Coordinate, Field(title="Spacing", description="added after every letter")] = 0.0
    ring_radius: Annotated[
        Length | None,
        Field(title="Ring radius", description="of the circle it stands on, to be read from outside"),
        Shown(none="straight", add="Stand it on a ring", start={"ring_radius": 20.0}, drop="Set it straight"),
    ] = None

    @model_validator(mode="after")
    def _can_be_drawn(self) -> Lettering:
        self.rings()
        return self

    def rings(self) -> tuple[Floats, ...]:
        """(n, 2) each: outer rings, holes and islands."""
        return _rings(self.text, self.font, self.size, self.spacing, self.ring_radius)

    def mesh(self) -> Mesh:
        return _mesh(self.text, self.font, self.size, self.spacing, self.ring_radius, self.depth)

    def bounds(self) -> Floats:
        return flat_box(self.rings(), self.depth)

    def triangle_count(self) -> int:
        return 4 * sum(len(ring) + 1 for ring in self.rings())

    def form(self) -> Form | None:
        return flat_distance(self.rings(), self.depth)

    def stretched(self, factors: Factors) -> Primitive | None:
        fx, fy, fz = factors
        if fx != fy:
            return None
        ring = None if self.ring_radius is None else self.ring_radius * fx
        values = {"size": self.size * fx, "spacing": self.spacing * fx, "depth": self.depth * fz}
        return self.updated(**values, **({} if ring is None else {"ring_radius": ring}))


@lru_cache(maxsize=128)
def _rings(text: str, font: str, size: float, spacing: float, ring_radius: float | None) -> tuple[Floats, ...]:
    found = outlines_of(text, font, size, spacing, ring_radius)
    if ring_radius is not None:
        around = 2 * math.pi * ring_radius
        if found.length > around:
            raise ValueError(
                f"ring_radius must be at least {math.ceil(found.length / 2 / math.pi * 1e3) / 1e3:g} mm: the text is "
                f"{found.length:.4g} mm long"
            )
        return tuple(found.rings)
    return tuple(centred(*found.rings))


@lru_cache(maxsize=64)
def _mesh(text: str, font: str, size: float, spacing: float, ring_radius: float | None, depth: float) -> Mesh:
    rings = _rings(text, font, size, spacing, ring_radius)
    return extruded([np.ascontiguousarray(ring) for ring in rings], -depth / 2, depth / 2)
