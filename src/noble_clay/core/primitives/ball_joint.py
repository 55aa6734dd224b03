"""Ball joint: a ball on its neck, and the cup that holds it."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from manifold3d import Manifold
from pydantic import Field, model_validator

from noble_clay.core.field import forms
from noble_clay.core.field.forms import Form
from noble_clay.core.field_kinds import Words
from noble_clay.core.fields import MIN_SIZE, Facets, Length
from noble_clay.core.kernel.plain import manifold_of, mesh_of, union_of
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import (
    Factors,
    Primitive,
    Round,
    circle,
    quarter_arc,
    quarter_rows,
    revolve,
    turned_box,
)

WALL, NECK_LENGTH = 0.3, 2.0
"""Ball radii: how thick the cup is around the ball, and how far below the ball's middle its neck ends."""

HOLD, MORE_HOLD, MOST_HOLD = 0.4, 0.1, 0.8
"""Ball radii below the ball's middle that the cup reaches: at least; further than where it first holds; at most."""

SLOTS, SLOT_WIDTH, SLOT_TOP = 2, 0.25, 0.35
"""Cuts right through the cup's rim, so that it gives; ball radii: how wide they are, and end above the middle."""


class BallJoint(Round):
    """The ball's middle is the origin, in both halves: in the same place they fit. The ball's neck points down."""

    label: ClassVar[str] = "Ball joint"
    family: ClassVar[str] = "Made to fit"
    summary: ClassVar[str] = "a ball that turns in a cup: shoulders, necks, hips"
    sample: ClassVar[dict[str, Any]] = {"ball_radius": 5, "neck": 2.5, "clearance": 0.25, "half": "ball"}

    kind: Literal["ball_joint"]
    ball_radius: Annotated[Length, Field(title="Ball radius")]
    neck: Annotated[Length, Field(title="Neck", description="radius of what the ball stands on")]
    clearance: Annotated[Length, Field(title="Clearance", description="between ball and cup, all over")]
    half: Annotated[Literal["ball", "socket"], Words({"ball": "the ball", "socket": "its cup"}), Field(title="Half")]
    facets: Facets = 64

    @model_validator(mode="after")
    def _holds_and_turns(self) -> BallJoint:
        if self._reach() > MOST_HOLD * self.ball_radius:
            r = self.ball_radius
            most = math.sqrt(r * r + ((MOST_HOLD - MORE_HOLD) * r) ** 2) - r
            raise ValueError(f"clearance must be below {most:.4g} mm, or the cup does not hold the ball")
        room = self._opening() - self.clearance
        if self.neck > room:
            raise ValueError(
                f"neck must be at most {math.floor(room * 1e4) / 1e4:g} mm, to pass through the cup's opening"
            )
        return self

    def _reach(self) -> float:
        """How far below the ball's middle the cup ends: where its opening is narrower than the ball."""
        r, cavity = self.ball_radius, self.ball_radius + self.clearance
        return max(HOLD * r, math.sqrt(cavity * cavity - r * r) + MORE_HOLD * r)

    def _opening(self) -> float:
        cavity = self.ball_radius + self.clearance
        return math.sqrt(cavity * cavity - self._reach() ** 2)

    def _outside(self) -> float:
        return self.ball_radius * (1 + WALL) + self.clearance

    def _profile(self) -> Floats:
        """(k, 2) of (r, z) from pole to pole, the solid on the left; a socket's without its slots."""
        rows = quarter_rows(self.facets)
        if self.half == "ball":
            start = -math.degrees(math.acos(self.neck / self.ball_radius))
            ball = np.concatenate([quarter_arc(rows, start, 0), quarter_arc(rows, 0, 90)[1:]]) * self.ball_radius
            ball[0] = self.neck, -math.sqrt(self.ball_radius**2 - self.neck**2)
            low = -NECK_LENGTH * self.ball_radius
            return np.concatenate([[[0.0, low], [self.neck, low]], ball])
        cavity, out = self.ball_radius + self.clearance, self._outside()
        end = -math.degrees(math.asin(self._reach() / cavity))
        inside = np.concatenate([quarter_arc(rows, 90, 0), quarter_arc(rows, 0, end)[1:]]) * cavity
        inside[-1] = self._opening(), -self._reach()
        return np.concatenate([inside, [[out, -self._reach()], [out, out], [0.0, out]]])

    def mesh(self) -> Mesh:
        whole = revolve(self._profile(), self.facets)
        if self.half == "ball":
            return whole
        low, high = -self._reach() - self.ball_radius, SLOT_TOP * self.ball_radius
        size = (3 * self._outside(), SLOT_WIDTH * self.ball_radius, high - low)
        slot = Manifold.cube(size, center=True).translate((0, 0, (low + high) / 2))
        slots = [slot.rotate((0, 0, 180 / SLOTS * i + 90 / SLOTS)) for i in range(SLOTS)]
        return mesh_of(manifold_of(whole) - union_of(slots))

    def bounds(self) -> Floats:
        return turned_box(self._profile(), circle(self.facets))

    def triangle_count(self) -> int:
        return 2 * self.facets * len(self._profile()) + 16 * self.facets * SLOTS

    def widest_radius(self) -> float:
        return self.ball_radius if self.half == "ball" else self._outside()

    def form(self) -> Form | None:
        return forms.turned(self._profile(), False, self.chord_error()) if self.half == "ball" else None

    def stretched(self, factors: Factors) -> Primitive | None:
        f = factors[0]
        if len(set(factors)) > 1 or min(self.clearance * f, self.neck * f) < MIN_SIZE:
            return None
        return self.updated(ball_radius=self.ball_radius * f, neck=self.neck * f, clearance=self.clearance * f)
