"""Signed distances from points to solids that have a formula, mm, negative inside; compiled."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit, prange

from noble_clay.core.mesh.distance import Distance
from noble_clay.core.mesh.mesh import Floats


class TurnedDistance:
    """To a profile turned about z. profile: (k, 2) points (r, z), from pole to pole, or a closed loop."""

    def __init__(self, profile: Floats, closed: bool) -> None:
        ends = np.roll(profile, -1, axis=0) if closed else profile[1:]
        starts = profile if closed else profile[:-1]
        self._segments = np.ascontiguousarray(np.column_stack([starts, ends]))

    def __call__(self, points: Floats) -> Floats:
        found: Floats = _to_turned(np.ascontiguousarray(points), self._segments)
        return found


class BoxDistance:
    """To a sharp box about the origin. size: (3,) mm."""

    def __init__(self, size: tuple[float, float, float]) -> None:
        self._half = np.array(size) / 2

    def __call__(self, points: Floats) -> Floats:
        found: Floats = _to_box(np.ascontiguousarray(points), self._half)
        return found


class PlacedDistance:
    """A distance seen through a rigid motion, with mirroring, and one scale for all axes. matrix: (3, 4)."""

    def __init__(self, inner: Distance, matrix: Floats) -> None:
        self._inner = inner
        self._scale = float(np.linalg.norm(matrix[:, 0]))
        self._back = np.linalg.inv(matrix[:, :3]).T
        self._offset = matrix[:, 3]

    def __call__(self, points: Floats) -> Floats:
        return self._inner((points - self._offset) @ self._back) * self._scale


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _to_turned(points: Any, segments: Any) -> Any:
    found = np.empty(len(points))
    for i in prange(len(points)):
        x, y, z = points[i]
        r = math.sqrt(x * x + y * y)
        least = np.inf
        inside = False
        for k in range(len(segments)):
            r0, z0, r1, z1 = segments[k]
            dr, dz = r1 - r0, z1 - z0
            along = ((r - r0) * dr + (z - z0) * dz) / (dr * dr + dz * dz)
            along = min(1.0, max(0.0, along))
            er, ez = r - r0 - along * dr, z - z0 - along * dz
            least = min(least, er * er + ez * ez)
            if (z0 > z) != (z1 > z) and r < r0 + (z - z0) / dz * dr:
                inside = not inside
        found[i] = -math.sqrt(least) if inside else math.sqrt(least)
    return found


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _to_box(points: Any, half: Any) -> Any:
    found = np.empty(len(points))
    for i in prange(len(points)):
        x, y, z = abs(points[i, 0]) - half[0], abs(points[i, 1]) - half[1], abs(points[i, 2]) - half[2]
        out = math.sqrt(max(x, 0.0) ** 2 + max(y, 0.0) ** 2 + max(z, 0.0) ** 2)
        found[i] = out + min(max(x, y, z), 0.0)
    return found
