"""Turned: any profile turned about an axis, as on a wheel."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.field_kinds import DEGREES, Kind, NumbersKind, PlanePointsKind, Shown
from noble_clay.core.fields import MAX_COORDINATE, Coordinate, Facets, Flag, IsNumber
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import HAIR, ROUNDING
from noble_clay.core.primitives.base import Factors, Primitive, Round, arc, circle, revolve, roundness_error, turned_box
from noble_clay.core.primitives.curves import off_curve, smooth_curve
from noble_clay.core.primitives.flat import cap_of, signed_area
from noble_clay.core.primitives.flat_form import MOST_SEGMENTS
from noble_clay.core.primitives.simple import check_simple

MOST_POINTS = 2_000
STEPS = 10
"""Straight steps of a smooth profile from one of its points to the next."""

FromAxis = Annotated[float, Field(ge=0, le=MAX_COORDINATE), IsNumber]
ProfilePoint = tuple[FromAxis, Coordinate]


class Turned(Round):
    label: ClassVar[str] = "Turned"
    family: ClassVar[str] = "Drawn"
    summary: ClassVar[str] = "a profile turned about its axis: vases, bells, shells, wheels"
    sample: ClassVar[dict[str, Any]] = {
        "profile": [[0, 0], [9, 0], [12, 6], [7, 16], [8, 22], [6.5, 22], [5.5, 16], [10, 6], [8, 2], [0, 2]],
        "smooth": False,
    }
    editor: ClassVar[str] = "profile"

    kind: Literal["turned"]
    profile: Annotated[
        tuple[ProfilePoint, ...],
        Kind(PlanePointsKind()),
        Shown(group="apart"),
        Field(min_length=2, max_length=MOST_POINTS, title="Profile", description="(from the axis, height) in order"),
    ]
    smooth: Annotated[Flag, Field(title="Smooth", description="a curve through the points")] = False
    angle: Annotated[float, DEGREES, Field(ge=0.1, le=360, title="Angle", description="360 is closed"), IsNumber] = (
        360.0
    )
    sharp: Annotated[
        tuple[Annotated[int, Field(ge=0, lt=MOST_POINTS), IsNumber], ...],
        Kind(NumbersKind()),
        Shown(group="apart", only_when={"smooth": (True,)}),
        Field(title="Corners", description="which points of a smooth profile are corners, counted from 0"),
    ] = ()
    facets: Facets = 64

    @model_validator(mode="after")
    def _can_be_turned(self) -> Turned:
        if any(i >= len(self.profile) for i in self.sharp):
            raise ValueError(f"sharp must name points of the profile, 0 to {len(self.profile) - 1}")
        _section(self.profile, self.smooth, self.sharp)
        return self

    def section(self) -> tuple[Floats, bool]:
        """(k, 2) points (r, z) with the solid on their left, z in the middle at 0, and whether they are a loop; if not,
        they go from the axis to the axis.
        """
        profile, closed, _ = _section(self.profile, self.smooth, self.sharp)
        return profile, closed

    def drawn_origin(self) -> Floats:
        return np.array([0.0, 0.0, _section(self.profile, self.smooth, self.sharp)[2]])

    def mesh(self) -> Mesh:
        profile, closed = self.section()
        if self.angle == 360:
            return revolve(profile, self.facets, closed)
        return _sector(profile, self._spokes())

    def _spokes(self) -> Floats:
        """(k, 2) the directions of its corners, from +x."""
        return circle(self.facets) if self.angle == 360 else arc(0, self.angle, self.facets)

    def bounds(self) -> Floats:
        return turned_box(self.section()[0], self._spokes())

    def triangle_count(self) -> int:
        profile, _ = self.section()
        return 2 * len(profile) * (len(self._spokes()) + 1)

    def widest_radius(self) -> float:
        return float(self.section()[0][:, 0].max())

    def chord_error(self) -> float:
        across = roundness_error(self.widest_radius(), self.facets)
        return max(across, _off_smooth(self.profile, self.sharp)) if self.smooth else across

    def form(self) -> Form | None:
        profile, closed = self.section()
        if self.angle != 360 or len(profile) > MOST_SEGMENTS:
            return None
        return forms.turned(profile, closed, roundness_error(self.widest_radius(), self.facets))

    def stretched(self, factors: Factors) -> Primitive | None:
        fx, fy, fz = factors
        if fx != fy or (self.smooth and fx != fz):  # a centripetal curve stretched is not the curve of stretched points
            return None
        return self.updated(profile=[[r * fx, z * fz] for r, z in self.profile])


@lru_cache(maxsize=256)
def _section(profile: tuple[ProfilePoint, ...], smooth: bool, sharp: tuple[int, ...]) -> tuple[Floats, bool, float]:
    """As `Turned.section`, and how high its middle is drawn. Raises ValueError for a profile that cannot be turned."""
    points, closed = _drawn(profile)
    if np.any(np.linalg.norm(np.diff(points, axis=0), axis=1) < HAIR):
        raise ValueError("profile must not have a point twice in a row")
    if smooth:
        points = _curve(points, STEPS, closed, sharp)
        low = points[:, 0].argmin()
        if points[low, 0] < -ROUNDING:
            raise ValueError(
                f"profile must not cross the axis; its smooth curve does at height {points[low, 1]:.4g}: "
                "move the points there outward, or make one a corner"
            )
    points[np.abs(points[:, 0]) < ROUNDING, 0] = 0.0
    points, closed = _opened(points) if closed else (_to_the_axis(points), False)
    nothing = ValueError("profile must enclose something with the axis; this does not")
    if len(points) < 3:
        raise nothing
    check_simple([points], "profile")
    if abs(signed_area(points)) < HAIR**2:
        raise nothing
    if signed_area(points) < 0:
        points = points[::-1]
    middle = (points[:, 1].min() + points[:, 1].max()) / 2
    return np.ascontiguousarray(points - [0.0, middle]), closed, float(middle)


def _drawn(profile: tuple[ProfilePoint, ...]) -> tuple[Floats, bool]:
    """(n, 2) its points, and whether they are a loop: then without the first again at the end."""
    points = np.array(profile, dtype=float)
    closed = len(points) > 2 and bool(np.allclose(points[0], points[-1], rtol=0, atol=ROUNDING))
    return (points[:-1], True) if closed else (points, False)


def _curve(points: Floats, steps: int, closed: bool, sharp: tuple[int, ...]) -> Floats:
    """The smooth curve through a profile; where it comes from the axis, square to that."""
    ends = None
    if not closed:
        mirrored = [
            b * [-1.0, 1.0] if a[0] == 0 else 2 * a - b for a, b in ((points[0], points[1]), (points[-1], points[-2]))
        ]
        ends = (mirrored[0], mirrored[1])
    return smooth_curve(points, steps, closed, sharp, ends)


@lru_cache(maxsize=256)
def _off_smooth(profile: tuple[ProfilePoint, ...], sharp: tuple[int, ...]) -> float:
    points, closed = _drawn(profile)
    return off_curve(_curve(points, STEPS, closed, sharp), _curve(points, 4 * STEPS, closed, sharp), closed)


def _to_the_axis(points: Floats) -> Floats:
    """An open profile closed to the axis at both ends; what lies along the axis there is left out."""
    first = points[:1] * [0.0, 1.0] if points[0, 0] > 0 else points[:0]
    last = points[-1:] * [0.0, 1.0] if points[-1, 0] > 0 else points[:0]
    points = np.concatenate([first, points, last])
    off = np.flatnonzero(points[:, 0] > 0)
    if len(off) == 0:
        raise ValueError("profile must leave the axis; all its points are on it")
    points = points[off[0] - 1 : off[-1] + 2]
    _check_clear(points[1:-1])
    return points


def _opened(points: Floats) -> tuple[Floats, bool]:
    """A closed profile; one that runs along the axis is opened there."""
    on = points[:, 0] == 0
    if not on.any():
        return points, True
    if on.all():
        raise ValueError("profile must leave the axis; all its points are on it")
    # Begun where it leaves the axis.
    leaves = np.flatnonzero(on & ~np.roll(on, -1))
    points = np.roll(points, -int(leaves[0]), axis=0)
    off = np.flatnonzero(points[:, 0] > 0)
    if np.count_nonzero(points[:, 0] == 0) < 2:
        _refuse_touch(points[0, 1])
    points = points[: off[-1] + 2]
    _check_clear(points[1:-1])
    return points, False


def _check_clear(inner: Floats) -> None:
    touching = np.flatnonzero(inner[:, 0] == 0)
    if len(touching):
        _refuse_touch(inner[touching[0], 1])


def _refuse_touch(height: float) -> None:
    raise ValueError(
        f"profile must not touch the axis between its ends; it does at height {height:.4g}, "
        "where what is turned would hang together in a point"
    )


def _sector(profile: Floats, spokes: Floats) -> Mesh:
    """A profile turned from the first of the directions (k, 2) to the last, and capped at both. profile: (n, 2)."""
    columns = len(spokes)
    on_axis = profile[:, 0] == 0
    count = np.where(on_axis, 1, columns)
    starts = np.concatenate([[0], np.cumsum(count)])[:-1]
    at = starts[:, None] + np.where(on_axis[:, None], 0, np.arange(columns))
    vertices = np.concatenate(
        [
            np.array([[0.0, 0.0, z]]) if r == 0 else np.column_stack([spokes * r, np.full(columns, z)])
            for r, z in profile
        ]
    )
    low, high = at, np.roll(at, -1, axis=0)
    closed = not (on_axis[0] and on_axis[-1])
    if not closed:
        low, high = low[:-1], high[:-1]
    here, there = (low[:, :-1], high[:, :-1]), (low[:, 1:], high[:, 1:])
    first = np.stack([here[0], there[0], there[1]], axis=-1).reshape(-1, 3)
    second = np.stack([here[0], there[1], here[1]], axis=-1).reshape(-1, 3)
    cap = cap_of([profile])
    triangles = np.concatenate([first, second, at[cap, 0], at[cap, -1][:, ::-1]])
    a, b, c = triangles.T
    return Mesh(vertices, triangles[(a != b) & (b != c) & (c != a)])
