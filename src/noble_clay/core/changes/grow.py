"""Grow: larger or thinner all round by a distance, sharp edges staying sharp."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from manifold3d import Manifold
from pydantic import Field

from noble_clay.core.changes.base import Fineness, ShapeChange, Side, side_direction
from noble_clay.core.changes.rebuilt import finest, rebuilt, rebuilt_from_lattice
from noble_clay.core.errors import MeshError
from noble_clay.core.field_kinds import MM, Shown
from noble_clay.core.fields import IsNumber
from noble_clay.core.kernel.convex import inset, is_convex
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import rotation_between
from noble_clay.core.mesh.mesh import Floats

UP = np.array([0.0, 0.0, 1.0])


class Grow(ShapeChange):
    """Every face moved outward by `by`, or inward where it is negative. open: a side out of which a thinner part goes.

    Exact for a convex part, whose faces keep their edges; any other takes its distance field, on a lattice of
    `fineness` mm.
    """

    label: ClassVar[str] = "Grow"
    summary: ClassVar[str] = "larger or thinner all round by a distance"
    sample: ClassVar[dict[str, Any]] = {"by": 0.5}

    kind: Literal["grow"]
    by: Annotated[
        float,
        MM,
        Field(ge=-1000, le=1000, title="By", description="outward, or inward if negative"),
        IsNumber,
    ]
    open: Annotated[
        Side | None, Field(title="Open side", description="where a thinner one goes out"), Shown(none="none")
    ] = None
    fineness: Fineness = None

    def made(self, solid: Solid) -> Solid:
        found = grown(solid, self.by, self.open, self.fineness) if self.by else solid
        if found is None:
            raise MeshError(f"by {self.by:g} mm is too thin: nothing of the part is that far inside")
        return found

    def cell(self, solid: Solid) -> float:
        return cell_for(solid, self.by, self.fineness)


def cell_for(solid: Solid, by: float, fineness: float | None) -> float:
    """Of the lattice, mm: as it is given, or as fits the distance."""
    return fineness or finest(solid, abs(by) / 3)


def grown(solid: Solid, by: float, open_side: str | None, fineness: float | None) -> Solid | None:
    """The solid offset by `by` mm; None when nothing is left. Raises MeshError for a lattice too fine."""
    whole = solid
    if open_side is not None and by < 0:
        extended = _extended(solid, side_direction(open_side), -by)
        if extended is None:
            return None
        whole = extended
    mesh = whole.mesh_only()
    if is_convex(whole.manifold):
        inner = inset(mesh, -by)
        return None if inner is None else rebuilt(Solid(inner, {}, solid.planes).mesh_only(), solid, flat=True)
    from noble_clay.core.field.offset import offset_surface

    # What is left may be thinner than a cell that fits the distance: then the finest is tried.
    for cell in dict.fromkeys([cell_for(whole, by, fineness), fineness or finest(whole, 0.0)]):
        surface = offset_surface(mesh, by, cell)
        if len(surface.triangles):
            return rebuilt_from_lattice(surface, solid, cell)
    return None


def _extended(solid: Solid, out: Floats, wall: float) -> Solid | None:
    """The solid lengthened out of a side, as wide as it is `wall` inside that, so that what is thinner passes it."""
    turn = rotation_between(out, UP)
    upright = solid.manifold.transform(np.column_stack([turn, np.zeros(3)]))
    bottom, top = upright.bounding_box()[2::3]
    if wall >= top - bottom:
        return None
    section = upright.slice(top - wall)
    if section.is_empty():
        return None
    column = Manifold.extrude(section, 4 * wall).translate((0, 0, top - wall))
    return Solid((upright + column).transform(np.column_stack([turn.T, np.zeros(3)])), {}, solid.planes)
