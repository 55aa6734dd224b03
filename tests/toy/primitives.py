"""A form that has a field of nearly every kind: a box around what its fields name."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.field_kinds import (
    FileKind,
    Kind,
    NumbersKind,
    PlaneLoopsKind,
    PlanePointsKind,
    Shown,
    SpacePointsKind,
    Words,
)
from noble_clay.core.fields import Angle, Coordinate, Facets, Flag, IsNumber, Length, Model, Point, Storable
from noble_clay.core.handles import Handle
from noble_clay.core.mesh.affine import turn_about
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Primitive, Round

PlanePoint = tuple[Coordinate, Coordinate]
Bead = tuple[Coordinate, Coordinate, Coordinate, Length]


class Knob(Model):
    shape: Annotated[Literal["flat", "domed"], Words({"flat": "cut flat"}), Field(title="Knob")]
    width: Annotated[Length, Field(title="Knob width")] = 2.0


class Gadget(Round):
    label: ClassVar[str] = "Gadget"
    family: ClassVar[str] = "Curious"
    summary: ClassVar[str] = "a thing of every sort of field"
    sample: ClassVar[dict[str, Any]] = {
        "width": 10,
        "step": [8, 6, 4],
        "outline": [[0, 0], [4, 0], [0, 3]],
        "spine": [[0, 0, 0, 1], [0, 0, 5, 2]],
    }

    kind: Literal["gadget"]
    width: Annotated[Length, Field(title="Gadget width", description="from side to side")]
    count: Annotated[int, Field(ge=1, le=9, title="Ribs"), IsNumber] = 3
    turn: Annotated[Angle, Field(title="Turned by")] = 0.0
    step: Annotated[Point, Field(title="Reach")]
    words: Annotated[str, Field(max_length=40, title="Words on it"), Storable] = "hello"
    side: Annotated[Literal["n", "s"], Words({"n": "north", "s": "south"}), Field(title="Faces")] = "n"
    open: Annotated[Flag, Field(title="Open at the top")] = False
    outline: Annotated[tuple[PlanePoint, ...], Kind(PlanePointsKind()), Field(min_length=3, max_length=20)]
    spine: Annotated[tuple[Bead, ...], Kind(SpacePointsKind(radii=True)), Field(min_length=2, max_length=9)]
    holes: Annotated[
        tuple[tuple[PlanePoint, ...], ...], Kind(PlaneLoopsKind()), Field(max_length=4, title="Holes")
    ] = ()
    weights: Annotated[tuple[Length, ...], Kind(NumbersKind("mm")), Field(max_length=9, title="Weights")] = ()
    drawing: Annotated[str, Kind(FileKind((".svg",))), Field(max_length=10_000, title="Drawing")] = ""
    knob: Annotated[Knob | None, Field(title="Knob"), Shown(none="none")] = None
    facets: Facets = 16

    def mesh(self) -> Mesh:
        return hexahedron(self._size())

    def _size(self) -> tuple[float, float, float]:
        reach = np.abs(turn_about("z", self.turn) @ np.array(self.step))
        x, y, z = (float(v) for v in reach + self.width * self.count)
        return x, y, z

    def bounds(self) -> Floats:
        half = np.array(self._size()) / 2
        return np.array([-half, half])

    def triangle_count(self) -> int:
        return 12

    def widest_radius(self) -> float:
        return self.width

    def handles(self) -> tuple[Handle, ...]:
        side = float(self.bounds()[1, 0])
        return (Handle("width", "How wide the gadget is", (side, 0.0, 0.0), (1.0, 0.0, 0.0), self.width, least=0.01),)


PRIMITIVES: list[type[Primitive]] = [Gadget]
