"""Studs: copies of a primitive set on the surface, bases seated: spikes, suckers, scales."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.changes.base import Axis, ShapeChange
from noble_clay.core.changes.spots import Spots, in_rings, scattered
from noble_clay.core.errors import MeshError
from noble_clay.core.field_kinds import DEGREES, FormKind, Kind, Shown
from noble_clay.core.fields import IsNumber, LengthOrZero
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import rotation_between
from noble_clay.core.primitives.registry import AnyPrimitive

MOST = 3_000
"""Studs on one part."""

Share = Annotated[float, Field(ge=0, le=1), IsNumber]
UP = np.array([0.0, 0.0, 1.0])


class Studs(ShapeChange):
    """`stud` set on the surface, its foot `sink` deep in it, its axis along the surface's normal.

    Scattered evenly by `count` and `seed`; or, where `rings` is given, in so many rings about the axis with `count`
    studs each, every other ring turned by half a step. low, high: the share of the part's height that bears studs.
    lean: degrees by which each tips towards the axis's high end, as scales do.
    """

    label: ClassVar[str] = "Studs"
    summary: ClassVar[str] = "copies set on the surface: spikes, suckers, scales"
    sample: ClassVar[dict[str, Any]] = {
        "stud": {"kind": "cone", "bottom_radius": 1.5, "height": 4, "facets": 16},
        "count": 24,
    }

    kind: Literal["studs"]
    stud: Annotated[AnyPrimitive, Kind(FormKind()), Field(title="Stud")]
    count: Annotated[int, Field(ge=1, le=MOST, title="Count", description="in all, or in each ring"), IsNumber]
    rings: Annotated[
        Annotated[int, Field(ge=1, le=200), IsNumber] | None,
        Field(title="Rings", description="about the axis, instead of scattered"),
        Shown(add="In rings", start={"rings": 4, "count": 10}, drop="Scattered"),
    ] = None
    seed: Annotated[int, Field(ge=0, le=1_000_000, title="Seed", description="changes the order"), IsNumber] = 1
    sink: Annotated[LengthOrZero, Field(title="Sunk by")] = 0.4
    low: Annotated[Share, Field(title="From height", description="a share of the part's height")] = 0.0
    high: Annotated[Share, Field(title="To height", description="a share of the part's height")] = 1.0
    lean: Annotated[float, DEGREES, Field(ge=-90, le=90, title="Lean"), IsNumber] = 0.0
    axis: Axis = "z"

    @model_validator(mode="after")
    def _not_too_many(self) -> Studs:
        if self.count * (self.rings or 1) > MOST:
            raise ValueError(f"count must give at most {MOST:,} studs in all")
        if self.high <= self.low:
            raise ValueError("high must be above low")
        return self

    def made(self, solid: Solid) -> Solid:
        from noble_clay.core.field.nearest_parts import NearestParts

        spots = self._spots(solid)
        if len(spots.points) == 0:
            raise MeshError("low and high leave no surface to set studs on")
        base = self.stud.mesh()
        bounds = base.bounds
        assert bounds is not None
        stud = Solid.from_mesh(base, "stud", True)
        owners = NearestParts(solid)(spots.points)
        along = np.eye(3)["xyz".index(self.axis)]
        lean = np.radians(self.lean)
        found = [solid]
        for point, normal, owner in zip(spots.points, spots.normals, owners, strict=True):
            way = along - (along @ normal) * normal
            length = np.linalg.norm(way)
            direction = normal if length < 1e-6 else normal * np.cos(lean) + way / length * np.sin(lean)
            turn = rotation_between(UP, direction)
            foot = point - normal * self.sink - turn @ np.array([0, 0, bounds[0, 2]])
            placed = stud.placed(np.column_stack([turn, foot]))
            labels = dict.fromkeys(stud.labels, solid.part_names[owner])
            # A copy of its own, so that the studs on different parts of a join take those parts' colours.
            found.append(Solid(placed.manifold, labels, placed.planes))
        return _united(found, solid)

    def _spots(self, solid: Solid) -> Spots:
        if self.rings is None:
            return scattered(solid, self.axis, self.count, self.seed, (self.low, self.high))
        return in_rings(solid, self.axis, self.rings, self.count, (self.low, self.high))

    def triangles_after(self, before: int) -> int:
        return before + self.count * (self.rings or 1) * self.stud.triangle_count()


def _united(solids: list[Solid], body: Solid) -> Solid:
    united = boolean("union", solids)
    return Solid(united.manifold, united.labels, body.planes, body.has_coincident_faces)
