"""Copies of a part that stay linked to it: row, ring, twin, grid and path, and where each copy lands."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field_kinds import DEGREES, Either, Kind, Shown, SpacePointsKind, VectorKind
from noble_clay.core.fields import MAX_COPIES, Angle, Coordinate, Flag, IsNumber, Length, LengthOrZero, Model, Point
from noble_clay.core.mesh.affine import IDENTITY, about, rotation, rotation_between, translation, turn_about
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import HAIR, SHARE
from noble_clay.core.registry import any_of, by_kind


class Vary(Model):
    """Every copy but the part itself turned, sized and moved about its own middle, by amounts drawn evenly: always the
    same for the same seed and number.
    """

    seed: Annotated[int, Field(ge=0, le=2**31 - 1, title="Seed", description="another number draws anew"), IsNumber]
    turn: Annotated[
        float, DEGREES, Field(ge=0, le=180, title="Turn", description="at most, about each axis"), IsNumber
    ] = 0.0
    size: Annotated[float, Field(ge=0, le=0.9, title="Size", description="share, at most"), IsNumber] = 0.0
    shift: Annotated[LengthOrZero, Field(title="Shift", description="at most, along each axis")] = 0.0

    def matrices(self, count: int, middle: Floats) -> list[Floats]:
        """(3, 4) each: what is done to each of `count` copies before it is copied. middle: (3,) of the placed part."""
        drawn = np.random.default_rng(self.seed).uniform(-1, 1, (count, 7))
        found = [IDENTITY.copy()]
        for turns, size, shift in ((d[:3], d[3], d[4:]) for d in drawn[1:]):
            linear = rotation(self.turn * turns) * (1 + self.size * size)
            found.append(np.column_stack([linear, middle - linear @ middle + self.shift * shift]))
        return found


VaryField = Annotated[
    Vary | None,
    Field(title="Vary"),
    Shown(
        none="all alike",
        add="Vary them",
        start={"vary": {"seed": 1, "turn": 12.0, "size": 0.1, "shift": 0.0}},
        drop="Make them alike",
    ),
]

CopyCount = Annotated[int, Field(ge=2, le=MAX_COPIES, title="Count"), IsNumber]
AxisName = Annotated[Literal["x", "y", "z"], Field(title="About")]


class Rule(Model):
    """Where copies of a part land; the first is the part itself, unmoved."""

    label: ClassVar[str]
    summary: ClassVar[str]
    either: ClassVar[Either | None] = None
    """Two of its fields of which exactly one is given."""

    if TYPE_CHECKING:  # declared by each as its last field: in that order they are written
        vary: VaryField

    def total(self) -> int:
        """How many copies, the part itself among them."""
        raise NotImplementedError

    def matrices(self) -> list[Floats]:
        """(3, 4) each: from the part as it is placed to the copy, in its parent's frame."""
        raise NotImplementedError


class Row(Rule):
    """Copy i is moved by i · step."""

    label: ClassVar[str] = "row"
    summary: ClassVar[str] = "in a straight line"

    kind: Literal["row"]
    count: CopyCount
    step: Annotated[Point, Field(title="Step")]
    vary: VaryField = None

    def total(self) -> int:
        return self.count

    def matrices(self) -> list[Floats]:
        return [translation(np.multiply(self.step, i)) for i in range(self.count)]


class Ring(Rule):
    """Copy i is turned by i · angle about an axis through `centre`, rising along it."""

    label: ClassVar[str] = "ring"
    summary: ClassVar[str] = "around an axis, with a rise if you like"

    kind: Literal["ring"]
    count: CopyCount
    axis: AxisName
    angle: Annotated[Angle, Field(title="Angle", description="between neighbours")]
    centre: Annotated[Point, Field(title="Centre")] = (0.0, 0.0, 0.0)
    rise: Annotated[Coordinate, Field(title="Rise", description="per copy, along the axis")] = 0.0
    vary: VaryField = None

    def total(self) -> int:
        return self.count

    def matrices(self) -> list[Floats]:
        return [self._copy(i) for i in range(self.count)]

    def _copy(self, i: int) -> Floats:
        matrix = about(turn_about(self.axis, self.angle * i), self.centre)
        matrix["xyz".index(self.axis), 3] += self.rise * i
        return matrix


class Twin(Rule):
    """One mirror image across the plane `axis` = `at`."""

    label: ClassVar[str] = "twin"
    summary: ClassVar[str] = "one mirror image"

    kind: Literal["twin"]
    axis: AxisName
    at: Annotated[Coordinate, Field(title="Plane at")] = 0.0
    vary: VaryField = None

    def total(self) -> int:
        return 2

    def matrices(self) -> list[Floats]:
        mirror = IDENTITY.copy()
        row = "xyz".index(self.axis)
        mirror[row, row], mirror[row, 3] = -1.0, 2 * self.at
        return [IDENTITY.copy(), mirror]


GridCount = Annotated[int, Field(ge=1, le=MAX_COPIES), IsNumber]


class Grid(Rule):
    """A box of copies, running from the part along its steps."""

    label: ClassVar[str] = "grid"
    summary: ClassVar[str] = "in rows, columns and layers"

    kind: Literal["grid"]
    counts: Annotated[
        tuple[GridCount, GridCount, GridCount], Kind(VectorKind(("Across", "Deep", "Layers"))), Field(title="Counts")
    ]
    step: Annotated[Point, Field(title="Step")]
    vary: VaryField = None

    @model_validator(mode="after")
    def _some_but_not_too_many(self) -> Grid:
        if not 2 <= self.total() <= MAX_COPIES:
            raise ValueError(f"counts must make 2 to {MAX_COPIES:,} copies in all; these make {self.total():,}")
        return self

    def total(self) -> int:
        return math.prod(self.counts)

    def matrices(self) -> list[Floats]:
        nx, ny, nz = self.counts
        return [translation(np.multiply(self.step, (i, j, k))) for k in range(nz) for j in range(ny) for i in range(nx)]


class Path(Rule):
    """Copies evenly spaced along the smooth curve through `points`; the first stays where the part is."""

    label: ClassVar[str] = "path"
    summary: ClassVar[str] = "along a curve through points"

    kind: Literal["path"]
    points: Annotated[tuple[Point, ...], Kind(SpacePointsKind()), Field(min_length=2, max_length=1000, title="Points")]
    spacing: Annotated[Length | None, Field(title="Spacing")] = None
    count: CopyCount | None = None
    closed: Annotated[Flag, Field(title="Closed")] = False
    turn: Annotated[Flag, Field(title="Turn with it", description="follow the path's direction")] = False
    vary: VaryField = None

    either: ClassVar[Either | None] = Either(
        starts={"spacing": 10.0, "count": 4}, words={"spacing": "by spacing", "count": "by count"}
    )

    @model_validator(mode="after")
    def _spaced_or_counted(self) -> Path:
        if (self.spacing is None) == (self.count is None):
            raise ValueError("a path has either spacing or count")
        gaps = np.linalg.norm(np.diff(np.array(self._loop()), axis=0), axis=1)
        if gaps.min() < HAIR:
            raise ValueError("points must not repeat one after the other")
        if self.closed and len(self.points) < 3:
            raise ValueError("points of a closed path must be at least 3")
        if not 2 <= self.total() <= MAX_COPIES:
            raise ValueError(f"spacing must make 2 to {MAX_COPIES:,} copies; this makes {self.total():,}")
        return self

    def _loop(self) -> tuple[Point, ...]:
        return (*self.points, self.points[0]) if self.closed else self.points

    def total(self) -> int:
        if self.count is not None:
            return self.count
        assert self.spacing is not None
        whole = math.floor(curve_through(self._loop(), self.closed).length / self.spacing + SHARE)
        return whole if self.closed else whole + 1

    def matrices(self) -> list[Floats]:
        curve, count = curve_through(self._loop(), self.closed), self.total()
        spacing = self.spacing or curve.length / (count if self.closed else count - 1)
        found = [IDENTITY.copy()]
        start, before = curve.at(0.0)
        turned = np.eye(3)
        for i in range(1, count):
            point, direction = curve.at(i * spacing)
            turned = rotation_between(before, direction) @ turned
            before = direction
            found.append(np.column_stack([turned, point - turned @ start]) if self.turn else translation(point - start))
        return found


class Curve:
    """A cubic spline through points, parametrised by chord length, measured by arc length."""

    def __init__(self, points: Floats, closed: bool) -> None:
        from scipy.interpolate import CubicSpline

        knots = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
        self._spline = CubicSpline(knots, points, bc_type="periodic" if closed else "natural")
        self._t = np.linspace(0, knots[-1], 64 * len(points))
        steps = np.linalg.norm(np.diff(self._spline(self._t), axis=0), axis=1)
        self._arc = np.concatenate([[0.0], np.cumsum(steps)])
        self.length = float(self._arc[-1])

    def at(self, arc: float) -> tuple[Floats, Floats]:
        """The point and unit direction after `arc` mm along the curve."""
        t = np.interp(arc, self._arc, self._t)
        direction = self._spline(t, 1)
        return self._spline(t), direction / np.linalg.norm(direction)


@lru_cache(maxsize=256)
def curve_through(points: tuple[Point, ...], closed: bool) -> Curve:
    return Curve(np.array(points), closed)


COPIES: dict[str, type[Rule]] = by_kind([Row, Ring, Twin, Grid, Path])
"""Kind to class, in the order in which they are offered."""

if TYPE_CHECKING:
    AnyCopies = Rule
else:
    AnyCopies = any_of(COPIES.values())
