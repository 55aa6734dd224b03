"""Hollow: a wall all around, a side left open, holes to drain."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from manifold3d import Manifold
from pydantic import Field

from noble_clay.core.changes.base import Fineness, ShapeChange, Side
from noble_clay.core.changes.grow import cell_for, grown
from noble_clay.core.errors import MeshError
from noble_clay.core.field_kinds import Shown
from noble_clay.core.fields import IsNumber, Length, Model
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.solid import Solid


class Drain(Model):
    """Holes through the wall underneath, so that what is inside can run out."""

    count: Annotated[int, Field(ge=1, le=24, title="Drain holes"), IsNumber] = 1
    diameter: Annotated[Length, Field(title="Hole width")] = 3.0


class Hollow(ShapeChange):
    """A cavity `wall` inside the surface: exact in a convex solid, in any other by its distance field on a lattice of
    `fineness` mm. open: a side through which the cavity goes out, as wide as it is one wall's thickness inside.
    """

    label: ClassVar[str] = "Hollow"
    summary: ClassVar[str] = "a wall all around: cups, shells, lanterns"
    sample: ClassVar[dict[str, Any]] = {"wall": 2}
    keeps_box: ClassVar[bool] = True

    kind: Literal["hollow"]
    wall: Annotated[Length, Field(title="Wall")]
    open: Annotated[Side | None, Field(title="Open side"), Shown(none="none")] = None
    drain: Annotated[
        Drain | None,
        Field(title="Drain holes"),
        Shown(add="+ drain hole", start={"drain": {"count": 1, "diameter": 3.0}}, drop="no hole"),
    ] = None
    fineness: Fineness = None

    def made(self, solid: Solid) -> Solid:
        cavity = self._cavity(solid)
        tools = [cavity]
        if self.drain is not None:
            tools += self._drains(self.drain, solid, cavity)
        return boolean("difference", [solid, *tools])

    def cell(self, solid: Solid) -> float:
        return cell_for(solid, self.wall, self.fineness)

    def _cavity(self, solid: Solid) -> Solid:
        found = grown(solid, -self.wall, self.open, self.fineness)
        if found is None:
            raise MeshError(f"wall {self.wall:g} mm is too thick: nothing of the part is that far inside")
        return found

    def _drains(self, drain: Drain, solid: Solid, cavity: Solid) -> list[Solid]:
        """Upright holes from the cavity's floor through what is under it: one in the middle, or several in a ring."""
        low, high = cavity.bounds
        radius = drain.diameter / 2
        floor = cavity.manifold.slice(low[2] + min(radius, (high[2] - low[2]) / 4))
        x_low, y_low, x_high, y_high = floor.bounds()
        middle = np.array([x_low + x_high, y_low + y_high]) / 2
        room = min(x_high - x_low, y_high - y_low) / 2
        if radius >= room:
            raise MeshError(f"drain holes must be narrower than {2 * room:.4g} mm, the floor of the cavity")
        ring = 0.0 if drain.count == 1 else (room - radius) * 0.75
        if drain.count > 1 and 2 * ring * np.sin(np.pi / drain.count) < drain.diameter * 1.1:
            raise MeshError(f"drain: {drain.count} holes of {drain.diameter:g} mm do not fit under the cavity")
        bottom = solid.bounds[0, 2] - 1
        top = (low[2] + high[2]) / 2
        hole = Manifold.cylinder(top - bottom, radius, circular_segments=32)
        name = solid.part_names[0]
        found = []
        for angle in np.arange(drain.count) * 2 * np.pi / drain.count:
            at = middle + ring * np.array([np.cos(angle), np.sin(angle)])
            raw = Solid(hole.translate((at[0], at[1], bottom)), {}, solid.planes).mesh_only()
            found.append(Solid.from_mesh(raw, name))
        return found
