"""What the flat forms share: an outline, perhaps with holes and islands, and a height."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated

import numpy as np
from pydantic import Field

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.fields import Length
from noble_clay.core.mesh.boxes import around, box_of
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Primitive, Round, prism_bounds
from noble_clay.core.primitives.flat import extruded, turned_rings

Height = Annotated[Length, Field(title="Height", description="how thick it lies")]

MOST_SEGMENTS = 400
"""Of an outline whose distance is worked out segment by segment; of a longer one it is sampled from the mesh."""


class FlatForm(Primitive):
    """An outline in the plane, as high above it as below."""

    if TYPE_CHECKING:  # declared by each, among the fields that say its shape: in that order they are written
        height: Height

    def rings(self) -> Sequence[Floats]:
        """(n, 2) each, mm: outer rings, holes and islands, in any direction."""
        raise NotImplementedError

    def mesh(self) -> Mesh:
        return extruded(self.rings(), -self.height / 2, self.height / 2)

    def bounds(self) -> Floats:
        return flat_box(self.rings(), self.height)

    def triangle_count(self) -> int:
        rings = self.rings()
        return 4 * (sum(len(ring) for ring in rings) + len(rings))

    def form(self) -> Form | None:
        return flat_distance(self.rings(), self.height)


class RoundFlatForm(FlatForm, Round):
    """A flat form with flat sides for curves."""


def flat_box(rings: Sequence[Floats], height: float) -> Floats:
    """(2, 3): the box around rings (n, 2), as high above their plane as below."""
    return around([prism_bounds(ring, height) for ring in rings])


def flat_distance(rings: Sequence[Floats], height: float) -> Form | None:
    """The distance to what is within rings; None for too many sides."""
    if sum(len(ring) for ring in rings) > MOST_SEGMENTS:
        return None
    return forms.extruded(turned_rings(rings), height)


def centred(*rings: Floats) -> list[Floats]:
    """The rings, moved so that the middle of the box around them is the origin."""
    low, high = box_of(np.concatenate(rings))
    middle = (low + high) / 2
    return [ring - middle for ring in rings]
