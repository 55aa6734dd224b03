"""Bricks: a wall with joints."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.field_kinds import Kind, NumberKind, VectorKind, Words
from noble_clay.core.fields import MIN_SIZE, Length, Size3
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.primitives.base import Factors, Primitive, around

MOST_BRICKS = 20_000


class Bricks(Primitive):
    """Courses begin at the lower left corner of the side towards -y; what does not fit at the right and at the top is
    cut. `running`: every other course set off by half a brick; `stack`: brick over brick; `flemish`: long and short by
    turns, each short one over the middle of a long one.
    """

    label: ClassVar[str] = "Bricks"
    family: ClassVar[str] = "Made to fit"
    summary: ClassVar[str] = "a wall of bricks with joints: towers, chimneys, hearths"
    sample: ClassVar[dict[str, Any]] = {
        "size": [40, 5, 30],
        "brick": [9, 4],
        "mortar": 1,
        "depth": 1,
        "bond": "running",
    }

    kind: Literal["bricks"]
    size: Annotated[Size3, Field(title="Size")]
    brick: Annotated[tuple[Length, Length], Kind(VectorKind(("wide", "high"), NumberKind("mm"))), Field(title="Brick")]
    mortar: Annotated[Length, Field(title="Mortar", description="how wide the joints are")]
    depth: Annotated[Length, Field(title="Depth", description="of the joints; below the wall's")]
    bond: Annotated[
        Literal["running", "stack", "flemish"],
        Words({"running": "running: half over half", "stack": "stacked", "flemish": "long and short by turns"}),
        Field(title="Bond"),
    ]

    @model_validator(mode="after")
    def _can_be_laid(self) -> Bricks:
        if self.depth > self.size[1] - MIN_SIZE:
            raise ValueError(f"depth must be below the wall's own, {self.size[1]:g} mm")
        if self.mortar >= min(self.brick):
            raise ValueError(f"mortar must be narrower than a brick, below {min(self.brick):g} mm")
        if self.bond == "flemish" and self._short() < MIN_SIZE:
            raise ValueError(
                f"mortar must be below {self.brick[0] - 2 * MIN_SIZE:g} mm for short bricks of half a long one"
            )
        if self.count() > MOST_BRICKS:
            raise ValueError(f"brick must be larger: these are {self.count():,}; a wall has at most {MOST_BRICKS:,}")
        return self

    def _short(self) -> float:
        """A short brick: two and a joint are as wide as a long one."""
        return (self.brick[0] - self.mortar) / 2

    def count(self) -> int:
        """About how many bricks there are, without laying them."""
        wide, high = self.brick[0] + self.mortar, self.brick[1] + self.mortar
        if self.bond == "flemish":
            wide = (self.brick[0] + self._short() + 2 * self.mortar) / 2
        return math.ceil(self.size[0] / wide + 1) * math.ceil(self.size[2] / high)

    def laid(self) -> Floats:
        """(n, 4) of (low x, low z, high x, high z): the bricks, cut where the wall ends, without slivers."""
        (w, h), m = self.brick, self.mortar
        wide, _, tall = self.size
        found = []
        for row in range(math.ceil(tall / (h + m))):
            low, high = row * (h + m), min(row * (h + m) + h, tall)
            for left, right in self._course(row, wide, w, m):
                found.append((max(left, 0.0), low, min(right, wide), high))
        bricks = np.array(found)
        large = (bricks[:, 2] - bricks[:, 0] >= MIN_SIZE) & (bricks[:, 3] - bricks[:, 1] >= MIN_SIZE)
        return bricks[large] - [wide / 2, tall / 2, wide / 2, tall / 2]

    def _course(self, row: int, wide: float, w: float, m: float) -> list[tuple[float, float]]:
        """From where to where each brick of a course lies, some beyond the wall's ends."""
        odd = row % 2 == 1
        if self.bond == "flemish":
            short = self._short()
            pair = w + short + 2 * m
            # The middle of a short brick lies over the middle of a long one.
            start = (w - short) / 2 - pair if odd else 0.0
            course = []
            for i in range(math.ceil(wide / pair) + 2):
                at = start + i * pair
                first = short if odd else w
                course += [(at, at + first), (at + first + m, at + pair - m)]
            return [b for b in course if b[1] > 0 and b[0] < wide]
        start = -(w + m) / 2 if odd and self.bond == "running" else 0.0
        course = [(start + i * (w + m), start + i * (w + m) + w) for i in range(math.ceil(wide / (w + m)) + 2)]
        return [b for b in course if b[1] > 0 and b[0] < wide]

    def mesh(self) -> Mesh:
        return _mesh(self.laid().tobytes(), self.size, self.depth)

    def bounds(self) -> Floats:
        box = around(self.size)
        laid = self.laid()
        if not len(laid):
            box[0, 1] += self.depth
        return box

    def triangle_count(self) -> int:
        return 12 + 24 * self.count()

    def stretched(self, factors: Factors) -> Primitive | None:
        x, y, z = (s * f for s, f in zip(self.size, factors, strict=True))
        return self.updated(size=[x, y, z])


@lru_cache(maxsize=32)
def _mesh(laid: bytes, size: tuple[float, float, float], depth: float) -> Mesh:
    """The front is laid course by course: bricks stand out of it, the joints beside and between courses lie behind."""
    half = size[0] / 2, size[2] / 2
    back, front = size[1] / 2, -size[1] / 2
    faces = _Faces()
    # Strips of the ground between the bricks, from below: each is as wide as the wall, with a corner at every brick.
    edges = [faces.row([-half[0], half[0]], front + depth, -half[1])]
    left, right = [edges[0][0]], [edges[0][-1]]
    for course in _courses(np.frombuffer(laid).reshape(-1, 4)):
        low, high = course[0, 1], course[0, 3]
        ends = course[:, [0, 2]].ravel().tolist()
        xs = [*([-half[0]] if ends[0] > -half[0] else []), *ends, *([half[0]] if ends[-1] < half[0] else [])]
        foot, head = (faces.row(xs, front + depth, z) for z in (low, high))
        if low == -half[1]:
            edges, left, right = [foot], [foot[0]], [foot[-1]]
        else:
            faces.strip(edges[-1], foot)
            left, right = [*left, foot[0]], [*right, foot[-1]]
        first = 0 if ends[0] == xs[0] else 1
        for at in range(first, first + len(ends), 2):
            faces.stone(foot[at : at + 2], head[at : at + 2], front)
        for at in range(1 - first, len(xs) - 1, 2):
            faces.quad(foot[at], foot[at + 1], head[at + 1], head[at])
        edges, left, right = [*edges, head], [*left, head[0]], [*right, head[-1]]
    if faces.points[edges[-1][0]][2] < half[1]:
        top = faces.row([-half[0], half[0]], front + depth, half[1])
        faces.strip(edges[-1], top)
        edges, left, right = [*edges, top], [*left, top[0]], [*right, top[-1]]
    under, over = (faces.row([-half[0], half[0]], back, z) for z in (-half[1], half[1]))
    faces.fan(under[1], edges[0][::-1], under[0])
    faces.fan(over[0], edges[-1], over[1])
    faces.fan(under[0], left, over[0])
    faces.fan(over[1], right[::-1], under[1])
    faces.quad(under[1], under[0], over[0], over[1])
    return Mesh(np.array(faces.points), np.array(faces.triangles, dtype=np.int64))


def _courses(bricks: Floats) -> list[Floats]:
    """The bricks (n, 4) by course, from below; each from left to right."""
    return np.split(bricks, np.flatnonzero(np.diff(bricks[:, 1])) + 1) if len(bricks) else []


class _Faces:
    """The points and triangles of a wall as they are laid, seen from its front."""

    def __init__(self) -> None:
        self.points: list[tuple[float, float, float]] = []
        self.triangles: list[tuple[int, int, int]] = []

    def row(self, xs: list[float], y: float, z: float) -> list[int]:
        start = len(self.points)
        self.points += [(x, y, z) for x in xs]
        return list(range(start, start + len(xs)))

    def quad(self, a: int, b: int, c: int, d: int) -> None:
        """Its corners counter-clockwise from outside."""
        self.triangles += [(a, b, c), (a, c, d)]

    def strip(self, low: list[int], high: list[int]) -> None:
        """Between two rows that begin and end one above the other."""
        i = j = 0
        while i + 1 < len(low) or j + 1 < len(high):
            below = i + 1 < len(low) and (
                j + 1 == len(high) or self.points[low[i + 1]][0] <= self.points[high[j + 1]][0]
            )
            if below:
                self.triangles.append((low[i], low[i + 1], high[j]))
                i += 1
            else:
                self.triangles.append((low[i], high[j + 1], high[j]))
                j += 1

    def fan(self, corner: int, row: list[int], end: int) -> None:
        """From a corner behind over a row, and from its last point to the other corner behind."""
        self.triangles += [(corner, a, b) for a, b in zip(row, row[1:], strict=False)]
        self.triangles.append((corner, row[-1], end))

    def stone(self, foot: list[int], head: list[int], front: float) -> None:
        """A brick that stands out of the ground between two corners of its foot and two of its head."""
        ring = [foot[0], foot[1], head[1], head[0]]
        start = len(self.points)
        self.points += [(self.points[p][0], front, self.points[p][2]) for p in ring]
        for k in range(4):
            n = (k + 1) % 4
            self.quad(ring[k], ring[n], start + n, start + k)
        self.quad(start, start + 1, start + 2, start + 3)
