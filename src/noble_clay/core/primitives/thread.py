"""Thread: an external screw thread of the ISO metric profile."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field_kinds import Words
from noble_clay.core.fields import MIN_SIZE, Facets, IsNumber, Length
from noble_clay.core.mesh.boxes import box_of
from noble_clay.core.mesh.cut import cut_level
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, Round, circle
from noble_clay.core.primitives.flat import cap_of

DEPTH = 5 / 8 * math.sqrt(3) / 2
"""Pitches from the major to the minor radius: five eighths of the height H of the triangle (ISO 68-1)."""

CORNERS = np.array([-6, -1, 1, 6]) / 16
"""Pitches along the axis from a ridge's middle to the corners of its profile: root, crest, crest, root."""


class Thread(Round):
    """Its ridge's middle is on +x at z = 0, of several starts one's."""

    label: ClassVar[str] = "Thread"
    family: ClassVar[str] = "Made to fit"
    summary: ClassVar[str] = "a screw thread: lids, legs, feet that can be turned off"
    sample: ClassVar[dict[str, Any]] = {"diameter": 16, "pitch": 3, "turns": 5, "lead_in": 0.5}

    kind: Literal["thread"]
    diameter: Annotated[Length, Field(title="Diameter", description="major, over the ridges")]
    pitch: Annotated[Length, Field(title="Pitch", description="from one ridge to the next")]
    turns: Annotated[float, Field(gt=0, le=100_000, title="Turns", description="ridges along its length"), IsNumber]
    starts: Annotated[int, Field(ge=1, le=16, title="Starts", description="ridges beside each other"), IsNumber] = 1
    hand: Annotated[
        Literal["right", "left"], Words({"right": "right-handed", "left": "left-handed"}), Field(title="Hand")
    ] = "right"
    lead_in: Annotated[
        float, Field(ge=0, le=1000, title="Lead-in", description="turns over which it rises at each end"), IsNumber
    ] = 0.0
    facets: Facets = 64

    @model_validator(mode="after")
    def _leaves_a_core(self) -> Thread:
        most = self.diameter / (2 * DEPTH)
        if self.pitch > most - MIN_SIZE:
            raise ValueError(f"pitch must be below {most - MIN_SIZE:.6g} mm, or no core is left within the thread")
        if self.length() < MIN_SIZE:
            raise ValueError(f"turns must make it at least {MIN_SIZE:g} mm long: {MIN_SIZE / self.pitch:g} or more")
        return self

    def length(self) -> float:
        return self.pitch * self.turns

    def _shape(self) -> tuple[float, float, float, int, str, float, int]:
        return self.diameter, self.pitch, self.turns, self.starts, self.hand, self.lead_in, self.facets

    def mesh(self) -> Mesh:
        return _mesh(*self._shape())

    def bounds(self) -> Floats:
        if self.lead_in == 0 and self.turns >= 1:  # every side has a whole crest
            ring = circle(self._columns()) * self.diameter / 2
            if self.hand == "left":
                ring = ring * [1.0, -1.0]
            half = self.length() / 2
            return np.array([[*ring.min(axis=0), -half], [*ring.max(axis=0), half]])
        return box_of(self.mesh().vertices)

    def triangle_count(self) -> int:
        # The cuts, and what closes them, add to the walls.
        return int(8 * self._columns() * self.turns) + 13 * self._columns() + 40 * self.starts

    def _columns(self) -> int:
        return columns_of(self.diameter, self.pitch, self.starts, self.facets)

    def widest_radius(self) -> float:
        return self.diameter / 2

    def stretched(self, factors: Factors) -> Primitive | None:
        f = factors[0]
        if len(set(factors)) > 1:
            return None
        return self.updated(diameter=self.diameter * f, pitch=self.pitch * f)


def columns_of(diameter: float, pitch: float, starts: int, facets: int) -> int:
    """Straight sides of a turn: as many as `facets`, or so many times as many that steep flanks on a thin core do not
    cross each other (tried over all sizes).
    """
    core = 1 - 2 * DEPTH * pitch / diameter
    return facets * math.ceil(0.9 * starts / (core + 0.2) / facets)


@lru_cache(maxsize=32)
def _mesh(diameter: float, pitch: float, turns: float, starts: int, hand: str, lead_in: float, facets: int) -> Mesh:
    """A longer thread, cut flat at both ends."""
    major, length, lead = diameter / 2, pitch * turns, pitch * starts
    minor = major - DEPTH * pitch
    facets = columns_of(diameter, pitch, starts, facets)
    # Every column reaches beyond the cuts, the first too, which serves as the last one lead further up.
    beyond = math.ceil(length / 2 / pitch + 0.5)
    ridges = np.arange(-beyond - starts, beyond + 1)
    columns = np.arange(facets)
    middles = ridges[None, :] * pitch + columns[:, None] / facets * lead
    if lead_in > 0:
        share = np.clip((length / 2 - np.abs(middles)) / (lead_in * lead), 0, 1)
    else:
        share = (np.abs(middles) <= length / 2 + pitch).astype(float)
    z = (middles[:, :, None] + CORNERS * pitch).reshape(facets, -1)
    ridge = np.where(np.abs(CORNERS) < 0.1, major - minor, 0.0)
    r = minor + (share[:, :, None] * ridge).reshape(facets, -1)
    r[np.abs(r - major) < 1e-12 * major] = major
    rows, extra = z.shape[1], 4 * starts
    ring = circle(facets)
    # The first column serves as the last too, one lead further up: so it is as much longer.
    tall = np.column_stack([np.tile(ring[0] * minor, (extra, 1)), z[0, -1] + (z[0, -extra:] - z[0, -extra - 1])])
    grid = np.dstack([ring[:, None] * r[:, :, None], z])
    vertices = np.concatenate([grid.reshape(-1, 3), tall])
    at = np.arange(facets * rows).reshape(facets, rows)
    first = np.concatenate([at[0], facets * rows + np.arange(extra)])
    beside = np.concatenate([at[1:], first[None, extra:]])
    low, high, low_next, high_next = at[:, :-1], at[:, 1:], beside[:, :-1], beside[:, 1:]
    walls = np.concatenate(
        [np.stack(t, axis=-1).reshape(-1, 3) for t in ((low, low_next, high_next), (low, high_next, high))]
    )
    mesh = Mesh(vertices, walls)
    for end, above in ((-length / 2, True), (length / 2, False)):
        mesh, rim = cut_level(mesh, end, above)
        turned = rim if above else rim[::-1]  # counter-clockwise seen from above
        cap = turned[cap_of([mesh.vertices[turned, :2]])]
        mesh = Mesh(mesh.vertices, np.concatenate([mesh.triangles, cap[:, ::-1] if above else cap]))
    mesh = mesh.compact()
    return mesh if hand == "right" else Mesh(mesh.vertices * [1.0, -1.0, 1.0], mesh.triangles[:, ::-1])
