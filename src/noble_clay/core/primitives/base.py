"""What every primitive is, and the two ways their meshes are built: stacked rings and revolved profiles."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.field_kinds import Either
from noble_clay.core.fields import FEWEST_FACETS, MOST_FACETS, Facets, Model
from noble_clay.core.handles import Handle
from noble_clay.core.mesh.boxes import box_of
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

Factors = tuple[float, float, float]


class Primitive(Model):
    """A parametric solid, modelled standing along +z about the origin."""

    label: ClassVar[str]
    family: ClassVar[str]
    summary: ClassVar[str]
    sample: ClassVar[dict[str, Any]]
    """Field values of a new part that the interface puts down."""

    either: ClassVar[Either | None] = None
    """Two of its fields of which exactly one is given."""

    editor: ClassVar[str] = ""
    """The name of the drawing editor for its points, where it has one."""

    def mesh(self) -> Mesh:
        """The closed, outward-turned mesh; vertices on the true surface."""
        raise NotImplementedError

    def triangle_count(self) -> int:
        """How many triangles `mesh` will have at most, without building it."""
        raise NotImplementedError

    def bounds(self) -> Floats:
        """(2, 3): lowest and highest corner of the box around `mesh`, mm, without building it."""
        raise NotImplementedError

    def drawn_origin(self) -> Floats:
        """(3,) where the form's origin is among the coordinates that its points are drawn in, mm."""
        return np.zeros(3)

    def chord_error(self) -> float | None:
        """How far its flat sides are off the true curve at most, mm; None for a form without `facets`."""
        return None

    def with_chord_error(self, most: float) -> Primitive:
        """The form with the fewest sides that stay within `most` mm of the true curve, of those allowed."""
        return self

    def handles(self) -> tuple[Handle, ...]:
        """What is drawn in the view to change its fields, beyond its size, place and turn."""
        return ()

    def stretched(self, factors: Factors) -> Primitive | None:
        """The same kind, larger by `factors` along x, y, z; None when its own fields cannot say that."""
        return None

    def form(self) -> Form | None:
        """The distance to the true shape in closed form, and how far the mesh is off it; None without one."""
        return None

    def form_of_stretched(self, factors: Factors) -> Form | None:
        """The distance to it larger by `factors` along x, y, z, where it is no longer of its kind; None without one."""
        form = self.form()
        return None if form is None else forms.stretched(form, factors)

    def updated(self, **values: Any) -> Primitive:
        """A validated copy with some fields changed."""
        return type(self).model_validate({**self.model_dump(exclude_none=True), **values})


class Round(Primitive):
    """A primitive with flat sides for a true curve: its field `facets`, to a full circle of its `widest_radius`."""

    if TYPE_CHECKING:  # declared by each, after the fields that say its shape: in that order they are written
        facets: Facets

    def widest_radius(self) -> float:
        """mm: of the widest circle, or half of the longest axis of the widest ellipse."""
        raise NotImplementedError

    def chord_error(self) -> float:
        return roundness_error(self.widest_radius(), self.facets)

    def with_chord_error(self, most: float) -> Primitive:
        facets = sides_within(self.widest_radius(), most)
        return self if facets == self.facets else self.updated(facets=facets)


class Revolved(Round):
    """A primitive that is a profile turned about z. Subclasses give `profile`, and how many points that has."""

    closed_profile: ClassVar[bool] = False

    def profile(self) -> Floats:
        """(k, 2) points (r, z), the solid on their left: from the bottom pole up, or a closed loop."""
        raise NotImplementedError

    def profile_points(self) -> int:
        """How many points `profile` has, without making them."""
        raise NotImplementedError

    def mesh(self) -> Mesh:
        return revolve(self.profile(), self.facets, self.closed_profile)

    def bounds(self) -> Floats:
        return turned_box(self.profile(), circle(self.facets))

    def form(self) -> Form:
        profile = _without_repeats(self.profile(), self.closed_profile)
        error = roundness_error(float(profile[:, 0].max()), self.facets)
        return forms.turned(profile, self.closed_profile, error)

    def triangle_count(self) -> int:
        return 2 * self.facets * self.profile_points()


@lru_cache(maxsize=256)
def circle(sides: int, start: float = 0.0) -> Floats:
    """(sides, 2) points of the unit circle, counter-clockwise from `start` degrees. Not to be written to.

    Points on the axes are exact, so that solids meant to meet there do.
    """
    points = _unit(start + np.arange(sides) * 360.0 / sides)
    points.flags.writeable = False
    return points


def arc(start: float, end: float, facets: int) -> Floats:
    """(n, 2) points of the unit circle from `start` to `end` degrees, both among them, at most 360° / facets apart."""
    return quarter_arc(max(1, math.ceil(abs(end - start) * facets / 360 - 1e-9)), start, end)


def roundness_error(radius: float, sides: int) -> float:
    """How far a circle's flat sides are off the true curve at most, mm: r (1 - cos(π / n))."""
    return radius * (1 - math.cos(math.pi / sides))


def sides_within(radius: float, most: float) -> int:
    """The fewest sides of a circle that stay within `most` mm of it, of those that are allowed."""
    if radius <= 0 or most <= 0:
        return MOST_FACETS
    share = 1 - most / radius
    # A little slack, so that the sides of a circle give themselves back in spite of rounding.
    sides = math.ceil(math.pi / math.acos(max(-1.0, share)) - 1e-6) if share > -1 else FEWEST_FACETS
    return min(MOST_FACETS, max(FEWEST_FACETS, sides))


def around(size: Sequence[float]) -> Floats:
    """(2, 3): the box of `size` mm about the origin."""
    half = np.array(size) / 2
    return np.array([-half, half])


def quarter_rows(facets: int) -> int:
    """Rows from pole to widest circle that keep a round solid's facets about square."""
    return max(1, math.ceil(facets / 4))


def quarter_arc(rows: int, first: float, last: float) -> Floats:
    """(rows + 1, 2) cosine and sine from angle `first` to `last` (degrees), ends exact."""
    degrees = first + np.arange(rows + 1, dtype=np.float64) * ((last - first) / rows)
    degrees[-1] = last
    return _unit(degrees)


def _unit(degrees: Floats) -> Floats:
    """(n, 2): cosine and sine, exact on the axes."""
    angles = np.radians(degrees)
    points = np.empty((len(angles), 2))
    np.cos(angles, out=points[:, 0])
    np.sin(angles, out=points[:, 1])
    points[np.abs(points) < 1e-15] = 0.0
    return points


def at_height(points: Floats, z: float) -> Floats:
    """(n, 3): points (n, 2) of the plane at a height."""
    found = np.empty((len(points), 3))
    found[:, :2], found[:, 2] = points, z
    return found


def turned_box(profile: Floats, spokes: Floats) -> Floats:
    """(2, 3): the box around a profile (k, 2) of (r, z) turned through the directions (n, 2)."""
    reach = np.array([profile[:, 0].min(), profile[:, 0].max()])
    low, high = box_of((spokes[:, None] * reach[:, None]).reshape(-1, 2))
    return np.array([[*low, profile[:, 1].min()], [*high, profile[:, 1].max()]])


def revolve(profile: Floats, sides: int, closed: bool = False) -> Mesh:
    """Turn `profile` (k, 2) of (r, z) about the z axis in `sides` steps, starting on +x."""
    ring = circle(sides)
    rows = []
    for r, z in _without_repeats(profile, closed):
        if r == 0:
            rows.append(np.array([[0.0, 0.0, z]]))
        else:
            rows.append(at_height(ring * r, z))
    return stack(rows, closed)


def stack(rows: Sequence[Floats], closed: bool = False) -> Mesh:
    """Join rings of points, bottom to top, into a closed mesh.

    rows: each (n, 3) counter-clockwise from above, or (1, 3) for a pole. The first and last must be poles, unless
    `closed`, which joins the last ring to the first.
    """
    counts = tuple(map(len, rows))
    triangles = _known_strips if sum(counts) < MOST_STACKED_KEPT else _stacked
    return Mesh(np.concatenate(rows), triangles(counts, closed))


MOST_STACKED_KEPT = 10_000
"""Points of stacked rings whose triangles are kept for the next of as many: only where they are changes then."""


def _stacked(counts: tuple[int, ...], closed: bool) -> Ints:
    """(m, 3) triangles over rings of so many points each, that lie one after the other. Not to be written to."""
    starts = np.concatenate([[0], np.cumsum(counts)])
    column = np.arange(max(counts))
    grid = np.array([start + column * (count > 1) for start, count in zip(starts, counts, strict=False)])
    low = grid if closed else grid[:-1]
    high = np.roll(grid, -1, axis=0) if closed else grid[1:]
    found = _strips(low, high)
    found.flags.writeable = False
    return found


_known_strips = lru_cache(maxsize=64)(_stacked)


def _strips(low: Ints, high: Ints) -> Ints:
    """Two triangles for every cell between `low` and `high` (rows, sides); those that collapse are left out."""
    low_next, high_next = np.roll(low, -1, axis=1), np.roll(high, -1, axis=1)
    first = np.stack([low, low_next, high_next], axis=-1).reshape(-1, 3)
    second = np.stack([low, high_next, high], axis=-1).reshape(-1, 3)
    triangles = np.stack([first, second], axis=1).reshape(-1, 3)
    a, b, c = triangles.T
    return triangles[(a != b) & (b != c) & (c != a)]


def stretched(primitive: Primitive, factors: Factors) -> Primitive | None:
    """The same kind, larger by `factors` along x, y, z; None where its own fields cannot say that, or may not."""
    try:
        return primitive.stretched(factors)
    except ValueError:  # beyond the sizes that one may have
        return None


def _without_repeats(profile: Floats, closed: bool) -> Floats:
    """The profile without points that repeat the one before."""
    before = np.roll(profile, 1, axis=0)
    different = np.any(np.abs(profile - before) > 1e-12, axis=1)
    if not closed:
        different[0] = True
    return profile[different]


def prism_bounds(outline: Floats, height: float) -> Floats:
    """(2, 3): the box around a solid with a flat `outline` (n, 2) and equal or smaller ends."""
    low, high = outline.min(axis=0), outline.max(axis=0)
    return np.array([[*low, -height / 2], [*high, height / 2]])


def prism_rows(outline: Floats, height: float, top: float = 1.0, bottom: float = 1.0) -> list[Floats]:
    """Rings of a solid with a flat `outline` (n, 2) that is star-shaped about z; 0 at an end is a point."""
    rows = [np.array([[0.0, 0.0, -height / 2]])]
    for z, factor in ((-height / 2, bottom), (height / 2, top)):
        if factor > 0:
            rows.append(at_height(outline * factor, z))
    rows.append(np.array([[0.0, 0.0, height / 2]]))
    return rows
