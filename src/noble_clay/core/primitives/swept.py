"""Any section carried along a path in space: closed and turned outward by construction."""

from __future__ import annotations

import math

import numpy as np

from noble_clay.core.mesh.affine import turn_about_line
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import UNIT
from noble_clay.core.primitives.flat import cap_of, signed_area

STEEP = 0.9
"""A direction whose part along z is larger takes x, not z, for its first frame."""


def swept(section: Floats, path: Floats, scales: Floats | None = None, closed: bool = False) -> Mesh:
    """A ring carried along a path, square to it at every point, and capped at both ends unless the path is closed.

    section: (k, 2), about the path, in either direction. path: (n, 3), no point as the one before it. scales: (n,) by
    which the section is scaled at each point. The frames turn as little as they can (Wang et al. 2008, double
    reflection); on a closed path what is left over is shared out along it. Where the path bends more sharply than the
    section is wide, the surface runs through itself. Raises ValueError for a section that crosses itself, or a path of
    fewer than 2 points, or 3 where it is closed.
    """
    if len(path) < (3 if closed else 2):
        raise ValueError("a path has at least 2 points, a closed one 3")
    ring = section if signed_area(section) > 0 else section[::-1]
    scales = np.ones(len(path)) if scales is None else scales
    across, up = frames_along(path, closed)
    rings = path[:, None] + scales[:, None, None] * (
        ring[None, :, :1] * across[:, None] + ring[None, :, 1:] * up[:, None]
    )
    number = len(ring)
    here = np.arange(len(path) if closed else len(path) - 1)[:, None] * number
    there = (here + number) % (len(path) * number)
    k, following = np.arange(number), np.roll(np.arange(number), -1)
    first = np.stack([here + k, here + following, there + following], axis=-1).reshape(-1, 3)
    second = np.stack([here + k, there + following, there + k], axis=-1).reshape(-1, 3)
    caps = []
    if not closed:
        cap = cap_of([ring])
        caps = [cap[:, ::-1], cap + (len(path) - 1) * number]
    return Mesh(rings.reshape(-1, 3), np.concatenate([first, second, *caps]))


def frames_along(path: Floats, closed: bool = False) -> tuple[Floats, Floats]:
    """(n, 3) each: two unit vectors square to the path at each of its points, turning as little as they can."""
    tangents = _tangents(path, closed)
    first = np.array([0.0, 0.0, 1.0]) if abs(tangents[0, 2]) < STEEP else np.array([1.0, 0.0, 0.0])
    across = np.empty_like(path)
    across[0] = np.cross(first, tangents[0])
    across[0] /= np.linalg.norm(across[0])
    # One after the other, each from the one before: for so few numbers Python's own are the quickest.
    steps, ahead = (np.roll(path, -1, axis=0) - path).tolist(), tangents.tolist()
    carried = across[0].tolist()
    for i in range(1, len(path)):
        across[i] = carried = _carried(steps[i - 1], carried, ahead[i - 1], ahead[i])
    if closed:
        end = np.array(_carried(steps[-1], carried, ahead[-1], ahead[0]))
        left = np.degrees(np.arctan2(np.cross(end, across[0]) @ tangents[0], end @ across[0]))
        for i in range(1, len(path)):
            across[i] = turn_about_line(tangents[i], left * i / len(path)) @ across[i]
    return across, np.cross(tangents, across)


def _tangents(path: Floats, closed: bool) -> Floats:
    """(n, 3) unit vectors: halfway between the directions to and from each point."""
    after = np.roll(path, -1, axis=0) - path
    if not closed:
        after[-1] = after[-2]
    after /= np.linalg.norm(after, axis=1, keepdims=True)
    before = np.roll(after, 1, axis=0)
    if not closed:
        before[0] = after[0]
    found = after + before
    length = np.linalg.norm(found, axis=1, keepdims=True)
    return np.where(length > UNIT, found / np.maximum(length, UNIT), after)  # a path that turns back on itself


def _carried(step: list[float], across: list[float], tangent: list[float], onward: list[float]) -> list[float]:
    """A vector square to one tangent, carried on to be square to the next: two reflections (Wang et al. 2008)."""
    over, ahead = _less(across, step, 2 / _dot(step, step)), _less(tangent, step, 2 / _dot(step, step))
    bend = [o - a for o, a in zip(onward, ahead, strict=True)]
    size = _dot(bend, bend)
    found = _less(over, bend, 2 / size) if size > UNIT**2 else over
    found = _less(found, onward, 1.0)
    length = math.sqrt(_dot(found, found))
    return [v / length for v in found]


def _dot(a: list[float], b: list[float]) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _less(vector: list[float], way: list[float], times: float) -> list[float]:
    """The vector less so many times its part along a way."""
    share = times * _dot(vector, way)
    return [v - share * w for v, w in zip(vector, way, strict=True)]
