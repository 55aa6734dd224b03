"""Limb: a round section along points in space, thicker and thinner."""

from __future__ import annotations

import math
from functools import cached_property, lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray
from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.field_kinds import Kind, NumbersKind, Shown, SpacePointsKind
from noble_clay.core.fields import Coordinate, Facets, Flag, Length
from noble_clay.core.kernel.plain import manifold_of, mesh_of, tidied, union_of
from noble_clay.core.mesh.boxes import box_of
from noble_clay.core.mesh.draw_together import drawn_together
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import (
    Factors,
    Primitive,
    Round,
    circle,
    quarter_arc,
    quarter_rows,
    roundness_error,
    stack,
)
from noble_clay.core.primitives.curves import off_curve, smooth_curve
from noble_clay.core.primitives.monotone import monotone_cubic
from noble_clay.core.primitives.swept import frames_along

MOST_POINTS = 300
FINER = 4
"""Points of the curve for each of its rings: from them come its direction and its length."""

BENT = 0.5
"""The least cosine between the directions of two rings of a limb that is not folded there."""

MOST_BONES = 60
"""Of a limb whose distance is worked out bone by bone; of a longer one it is sampled from the mesh."""

SpacePoint = tuple[Coordinate, Coordinate, Coordinate]


class Limb(Round):
    """The middle of the box around it is the origin, wherever its points are."""

    label: ClassVar[str] = "Limb"
    family: ClassVar[str] = "Drawn"
    summary: ClassVar[str] = "round and bent, thick and thin: arms, tails, horns, straps"
    sample: ClassVar[dict[str, Any]] = {
        "points": [[0, 0, 0], [0, 4, 10], [0, 0, 20], [0, -6, 26]],
        "radii": [5, 4, 3, 2],
        "smooth": True,
        "facets": 32,
    }
    editor: ClassVar[str] = "limb"

    kind: Literal["limb"]
    points: Annotated[
        tuple[SpacePoint, ...],
        Kind(SpacePointsKind()),
        Shown(group="apart"),
        Field(min_length=2, max_length=MOST_POINTS, title="Points"),
    ]
    radii: Annotated[
        tuple[Length, ...],
        Kind(NumbersKind("mm")),
        Shown(group="apart"),
        Field(min_length=2, max_length=MOST_POINTS, title="Radii", description="one for each point"),
    ]
    smooth: Annotated[Flag, Field(title="Smooth", description="bends in a curve through its points")] = False
    closed: Annotated[Flag, Field(title="Closed", description="its end runs into its beginning")] = False
    facets: Facets = 64

    @model_validator(mode="after")
    def _can_be_followed(self) -> Limb:
        if len(self.radii) != len(self.points):
            raise ValueError(f"radii must be one for each point: {len(self.points)}, not {len(self.radii)}")
        if self.closed and len(self.points) < 3:
            raise ValueError("points of a closed limb must be at least 3")
        points = np.array(self.points)
        gaps = np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1)
        if np.any((gaps if self.closed else gaps[:-1]) < HAIR):
            raise ValueError("points must not have the same place twice in a row")
        return self

    def drawn_origin(self) -> Floats:
        box = _box(self.points, self.radii, self.smooth, self.closed, self.facets)
        found: Floats = box.mean(axis=0)
        return found

    def mesh(self) -> Mesh:
        made = _mesh(self.points, self.radii, self.smooth, self.closed, self.facets)
        return Mesh(made.vertices - self.drawn_origin(), made.triangles)

    def bounds(self) -> Floats:
        box = _box(self.points, self.radii, self.smooth, self.closed, self.facets)
        return box - box.mean(axis=0)

    def triangle_count(self) -> int:
        bones = len(self.points) if self.closed else len(self.points) - 1
        if self.smooth:
            rows = _rows(self.points, self.radii, self.closed, self.facets)
            if rows.folds or rows.balls():
                return len(self.mesh().triangles)
            return 2 * self.facets * (bones * _steps(self.facets) + 2 * quarter_rows(self.facets))
        return 3 * self.facets * (2 * quarter_rows(self.facets) + 3) * len(self.points)

    def widest_radius(self) -> float:
        return max(self.radii)

    def chord_error(self) -> float:
        across = super().chord_error()
        return max(across, _off_path(self.points, self.closed, self.facets)) if self.smooth else across

    def form(self) -> Form | None:
        bones = _bones(np.array(self.points) - self.drawn_origin(), np.array(self.radii), self.closed)
        # The envelope of balls along a curve is a little wider than the sections square to it.
        if self.smooth or len(bones) > MOST_BONES:
            return None
        return forms.limb(bones, 2 * super().chord_error())

    def stretched(self, factors: Factors) -> Primitive | None:
        f = factors[0]
        if len(set(factors)) > 1:
            return None
        points = [[x * f, y * f, z * f] for x, y, z in self.points]
        return self.updated(points=points, radii=[r * f for r in self.radii])


def _bones(points: Floats, radii: Floats, closed: bool) -> Floats:
    """(k, 8): the two ends (x, y, z, radius) of each stretch between neighbours."""
    balls = np.column_stack([points, radii])
    return np.column_stack([balls, np.roll(balls, -1, axis=0)])[: None if closed else -1]


def _steps(facets: int) -> int:
    """Rings from one point of a smooth limb to the next."""
    return max(4, math.ceil(facets / 6))


Points = tuple[SpacePoint, ...]
Radii = tuple[float, ...]


@lru_cache(maxsize=128)
def _mesh(points: Points, radii: Radii, smooth: bool, closed: bool, facets: int) -> Mesh:
    """The limb where its points say."""
    if not smooth:
        cones = _cones(points, radii, closed, facets)
        joined = mesh_of(tidied(union_of(cones)))
        return joined if len(cones) == 1 else drawn_together(joined)
    rows = _rows(points, radii, closed, facets)
    whole = stack(rows.with_ends(), closed)
    if rows.folds:
        whole = tidied(union_of(rows.pieces()))
        # What else there is than the largest body, rounding made.
        return drawn_together(mesh_of(max(whole.decompose(), key=Manifold.volume)))
    balls = rows.balls()
    return drawn_together(mesh_of(union_of([manifold_of(whole), *map(manifold_of, balls)]))) if balls else whole


@lru_cache(maxsize=512)
def _box(points: Points, radii: Radii, smooth: bool, closed: bool, facets: int) -> Floats:
    """(2, 3) around `_mesh`."""
    if smooth:
        rows = _rows(points, radii, closed, facets)
        if rows.folds:
            return box_of(_mesh(points, radii, smooth, closed, facets).vertices)
        corners = np.concatenate([*rows.with_ends(), *(ball.vertices for ball in rows.balls())])
    else:
        corners = np.concatenate(_clouds(points, radii, closed, facets))
    return box_of(corners)


@lru_cache(maxsize=128)
def _off_path(points: Points, closed: bool, facets: int) -> float:
    steps, path = _steps(facets), np.array(points, dtype=float)
    return off_curve(smooth_curve(path, steps, closed), smooth_curve(path, 4 * steps, closed), closed)


def _clouds(points: Points, radii: Radii, closed: bool, facets: int) -> list[Floats]:
    """(k, 3) for each point: corners on its ball, among them where the cones to its neighbours touch it, so that
    stretches that share a ball share its corners to the bit.
    """
    bones = [(i, (i + 1) % len(points)) for i in range(len(points) if closed else len(points) - 1)]
    centres, ring, rows = np.array(points, dtype=float), circle(facets), quarter_rows(facets)
    clouds: list[list[Floats]] = [[] for _ in points]
    for i, j in bones:
        across, up = (v[0] for v in frames_along(centres[[i, j]]))
        along, flat = np.cross(across, up), ring[:, :1] * across + ring[:, 1:] * up
        # The cone touches both balls where their own surface leans as it does: this far up from their middles.
        lean = (radii[i] - radii[j]) / float(np.linalg.norm(centres[j] - centres[i]))
        touching = math.degrees(math.asin(min(1.0, max(-1.0, lean))))
        for k in (i, j):
            latitudes = quarter_arc(1, touching, touching)[:1]
            if not clouds[k]:  # else its ball is there, by the bone before
                latitudes = np.concatenate([quarter_arc(2 * rows, -90, 90), latitudes])
            ball = latitudes[:, :1, None] * flat + latitudes[:, 1:, None] * along
            clouds[k].append((centres[k] + radii[k] * ball).reshape(-1, 3))
    return [np.concatenate(cloud) for cloud in clouds]


def _cones(points: Points, radii: Radii, closed: bool, facets: int) -> list[Manifold]:
    clouds = _clouds(points, radii, closed, facets)
    ends = range(len(points) if closed else len(points) - 1)
    return [Manifold.hull_points(np.concatenate([clouds[i], clouds[(i + 1) % len(points)]])) for i in ends]


class _Rows:
    """The rings of a smooth limb. rings: (n, facets, 3); path, along: (n, 3) their middles and the unit vectors ahead;
    sizes: (n,) radii; slopes: by how much the radius grows with every mm at the first and last, into the limb.
    """

    def __init__(self, points: Floats, radii: Floats, closed: bool, facets: int) -> None:
        steps = _steps(facets)
        fine = smooth_curve(points, steps * FINER, closed)
        looped = np.concatenate([fine, fine[:1]]) if closed else fine
        arc = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(looped, axis=0), axis=1))])
        knots = arc[:: steps * FINER]
        sizes, slopes = monotone_cubic(knots, radii, arc, closed)
        across, up = frames_along(fine, closed)
        each = slice(None, None, FINER)
        ring = circle(facets)
        self.closed, self.facets = closed, facets
        self.path, self.arc = fine[each], arc[: len(fine)][each]
        self.sizes = sizes[: len(fine)][each]
        self.across, self.up = across[each], up[each]
        self.along = np.cross(self.across, self.up)
        flat = ring[None, :, :1] * self.across[:, None] + ring[None, :, 1:] * self.up[:, None]
        self.rings = self.path[:, None] + self.sizes[:, None, None] * flat
        self.slopes = (slopes[0], -slopes[-1])

    def with_ends(self) -> list[Floats]:
        """The rings, and half a ball at either end."""
        if self.closed:
            return list(self.rings)
        return [*self._half(0, -1)[::-1], *self.rings, *self._half(-1, 1)]

    def _half(self, end: int, sign: int) -> list[Floats]:
        """Rows from the ring at an end outward to the pole, without that ring."""
        ring = circle(self.facets)
        flat = ring[:, :1] * self.across[end] + ring[:, 1:] * self.up[end]
        rows = [
            self.path[end] + self.sizes[end] * (c * flat + sign * s * self.along[end])
            for c, s in quarter_arc(quarter_rows(self.facets), 0, 90)[1:]
        ]
        return [*rows[:-1], rows[-1][:1]]

    def balls(self, every: bool = False) -> list[Mesh]:
        """Whole balls at those ends where one stands out of the limb, which grows thinner from there, by more than its
        facets are off the true curve; or at both.
        """
        if self.closed:
            return []
        found = []
        for end, slope in zip((0, -1), self.slopes, strict=True):
            size = float(self.sizes[end])
            out = size * (math.hypot(1, slope) - 1) if slope < 0 else 0.0
            if every or out > roundness_error(size, self.facets):
                found.append(self._ball(end))
        return found

    def folded(self) -> NDArray[np.bool_]:
        """(k,) of each stretch between rings, whether it bends more sharply than it is thick."""
        following = np.roll(np.arange(len(self.path)), -1)[: None if self.closed else -1]
        here = np.arange(len(following))
        ahead = np.einsum("ijk,ik->ij", self.rings[following] - self.path[here][:, None], self.along[here])
        behind = np.einsum("ijk,ik->ij", self.rings[here] - self.path[following][:, None], self.along[following])
        bend = np.einsum("ij,ij->i", self.along[here], self.along[following])
        found: NDArray[np.bool_] = np.any(ahead <= 0, axis=1) | np.any(behind >= 0, axis=1) | (bend < BENT)
        return found

    def pieces(self) -> list[Manifold]:
        """Solids without crossings that make it up together: stretches that turn by less than a right angle, each with
        a ring in common with the next and the ring before that; balls and what is between them where it folds.
        """
        folded, count = self.folded(), len(self.path)
        found: list[Manifold] = [manifold_of(ball) for ball in self.balls(every=True)]
        start = 0
        while start < len(folded):
            if folded[start]:
                ends = [self._ball(start).vertices, self._ball((start + 1) % count).vertices]
                found.append(Manifold.hull_points(np.concatenate(ends)))
                start += 1
                continue
            end = start + 1
            while end < len(folded) and not folded[end] and self.along[start] @ self.along[end % count] > 0:
                end += 1
            further = end < len(folded) or self.closed
            beyond = end + 1 if further and not folded[end % len(folded)] else end
            run = [i % count for i in range(start, beyond + 1)]
            rows = [self.path[run[:1]], *self.rings[run], self.path[run[-1:]]]
            found.append(manifold_of(stack(rows)))
            start = end
        return found

    def _ball(self, at: int) -> Mesh:
        return stack([*self._half(at, -1)[::-1], self.rings[at], *self._half(at, 1)])

    @cached_property
    def folds(self) -> bool:
        """Whether it bends more sharply than it is thick, or comes back to itself, so that its skin would cross."""
        if self.folded().any():
            return True
        total = self.arc[-1] + (np.linalg.norm(self.path[0] - self.path[-1]) if self.closed else 0.0)
        for i in range(len(self.path)):
            apart = np.abs(self.arc - self.arc[i])
            if self.closed:
                apart = np.minimum(apart, total - apart)
            reach = self.sizes + self.sizes[i]
            near = np.linalg.norm(self.path - self.path[i], axis=1) < reach
            if np.any(near & (apart > reach * math.pi / 2 * 1.02)):
                return True
        return False


@lru_cache(maxsize=64)
def _rows(points: Points, radii: Radii, closed: bool, facets: int) -> _Rows:
    return _Rows(np.array(points), np.array(radii), closed, facets)
