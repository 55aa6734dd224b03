"""Outline: any flat drawing given a height, with draft and twist."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field.forms import Form
from noble_clay.core.field_kinds import DEGREES, Kind, PlaneLoopsKind, Shown
from noble_clay.core.fields import Coordinate, IsNumber, Text
from noble_clay.core.mesh.boxes import box_of
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import Factors, Primitive
from noble_clay.core.primitives.drafted import deepest, leaning
from noble_clay.core.primitives.flat import turned_rings
from noble_clay.core.primitives.flat_form import Height, centred, flat_box, flat_distance
from noble_clay.core.primitives.simple import check_simple
from noble_clay.core.primitives.svg_path import LONGEST, loops_of, scaled

MOST_POINTS = 10_000
"""Of all loops together."""

Loop = Annotated[tuple[tuple[Coordinate, Coordinate], ...], Field(min_length=3)]
Loops = tuple[Loop, ...]


class Outline(Primitive):
    """The middle of the box around the outline at the bottom is on the z axis; a twist turns about that."""

    label: ClassVar[str] = "Outline"
    family: ClassVar[str] = "Drawn"
    summary: ClassVar[str] = "any flat drawing, with holes, given a height"
    sample: ClassVar[dict[str, Any]] = {
        "svg": "M0 0 C8 -4 16 -2 18 6 C20 14 12 20 4 18 C-4 16 -8 4 0 0 Z",
        "height": 5,
    }
    editor: ClassVar[str] = "outline"
    kind: Literal["outline"]
    loops: Annotated[
        Loops | None,
        Kind(PlaneLoopsKind()),
        Shown(group="apart"),
        Field(min_length=1, title="Loops", description="what lies in an odd number of them is inside"),
    ] = None
    svg: Annotated[
        Text | None,
        Shown(group="apart"),
        Field(max_length=LONGEST, title="Path", description="SVG path data, mm, y away from you"),
    ] = None
    height: Height
    draft: Annotated[
        float,
        DEGREES,
        Field(ge=-80, le=80, title="Draft", description="how far the walls lean in as they rise; below 0, out"),
        IsNumber,
    ] = 0.0
    twist: Annotated[
        float,
        DEGREES,
        Field(ge=-7200, le=7200, title="Twist", description="over its height, about the middle"),
        IsNumber,
    ] = 0.0

    @model_validator(mode="after")
    def _encloses_something(self) -> Outline:
        if (self.loops is None) == (self.svg is None):
            raise ValueError("loops or svg must be given, and not both")
        self.rings()
        if self.draft > 0:
            most = math.degrees(math.atan(_deepest(self.loops, self.svg) / self.height))
            if self.draft >= most - 1e-9:
                raise ValueError(
                    f"draft must be below {math.floor(most * 1e3) / 1e3:g}°, or nothing is left at the top"
                )
        return self

    def rings(self) -> Sequence[Floats]:
        """(n, 2) each: the outline at the bottom."""
        return _drawn(self.loops, self.svg)[0]

    def drawn_origin(self) -> Floats:
        return np.array([*_drawn(self.loops, self.svg)[1], self.height / 2])

    def _inset(self) -> float:
        return self.height * math.tan(math.radians(self.draft)) if self.draft else 0.0

    def mesh(self) -> Mesh:
        return _mesh(self.loops, self.svg, self.height, self._inset(), math.radians(self.twist))

    def bounds(self) -> Floats:
        if self.twist == 0 and self.draft >= 0:
            return flat_box(self.rings(), self.height)
        return box_of(self.mesh().vertices)

    def triangle_count(self) -> int:
        if self.twist:
            return len(self.mesh().triangles)
        # Every side of one that leans in or out may be cut where it meets others.
        return (4 if self.draft == 0 else 12) * sum(len(ring) + 1 for ring in self.rings())

    def chord_error(self) -> float | None:
        return None if self.svg is None else loops_of(self.svg, MOST_POINTS)[1]

    def form(self) -> Form | None:
        return None if self.draft or self.twist else flat_distance(self.rings(), self.height)

    def stretched(self, factors: Factors) -> Primitive | None:
        fx, fy, fz = factors
        if self.svg is not None:
            if len(set(factors)) > 1:
                return None
            return self.updated(svg=scaled(self.svg, fx), height=self.height * fz)
        assert self.loops is not None
        if (self.draft or self.twist) and len(set(factors)) > 1:
            return None
        loops = [[[x * fx, y * fy] for x, y in loop] for loop in self.loops]
        return self.updated(loops=loops, height=self.height * fz)


@lru_cache(maxsize=256)
def _drawn(loops: Loops | None, svg: str | None) -> tuple[tuple[Floats, ...], Floats]:
    """As `Outline.rings`, and the middle (2,) of the box around them as they are drawn.

    Raises ValueError for loops that cross, repeat points or enclose nothing.
    """
    if svg is not None:
        field, found = "svg", loops_of(svg, MOST_POINTS)[0]
    else:
        assert loops is not None
        total = sum(len(loop) for loop in loops)
        if total > MOST_POINTS:
            raise ValueError(f"loops must have at most {MOST_POINTS:,} points together; these have {total:,}")
        field, found = "loops", tuple(_closed(np.array(loop, dtype=float)) for loop in loops)
    check_simple(found, field)
    try:
        rings = turned_rings(found)
    except ValueError as error:
        raise ValueError(f"{field}: {error}") from None
    return tuple(centred(*rings)), box_of(np.concatenate(rings)).mean(axis=0)


def _closed(ring: Floats) -> Floats:
    """A loop without its first point again at its end. Raises ValueError for points that repeat."""
    if len(ring) > 3 and np.linalg.norm(ring[0] - ring[-1]) < HAIR:
        ring = ring[:-1]
    if np.any(np.linalg.norm(ring - np.roll(ring, 1, axis=0), axis=1) < HAIR):
        raise ValueError("loops must not have a point twice in a row")
    return ring


@lru_cache(maxsize=256)
def _deepest(loops: Loops | None, svg: str | None) -> float:
    return deepest(_drawn(loops, svg)[0])


@lru_cache(maxsize=64)
def _mesh(loops: Loops | None, svg: str | None, height: float, inset: float, turn: float) -> Mesh:
    return leaning(_drawn(loops, svg)[0], height, inset, turn)
