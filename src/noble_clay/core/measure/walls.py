"""How thick a body is: from points of its skin straight inward to the other side."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit, prange

from noble_clay.core.measure.mass import areas, normals
from noble_clay.core.mend.tree import LEAF, Tree
from noble_clay.core.mesh import Floats, Ints, Mesh

PLASTIC = 0.7548776662466927, 0.5698402909980532
"""Steps of the evenest known sequence of points in a square (M. Roberts, "The unreasonable effectiveness of
quasirandom sequences", 2018)."""

OPPOSITE = 0.9
"""Cosine of the angle up to which two faces are the two sides of a wall, and no edge or tip: 26 degrees."""


@dataclass(frozen=True, eq=False)
class Samples:
    """Points spread evenly over a skin. points: (n, 3) mm. triangle: (n,) on which each lies. area: (n,) mm² that each
    stands for.
    """

    points: Floats
    triangle: Ints
    area: Floats


def spread(mesh: Mesh, apart: float, most: int) -> Samples:
    """At least one point on every triangle, and about one for every square of `apart` mm; fewer where that would be
    more than `most` besides.
    """
    area = areas(mesh)
    square = max(apart * apart, float(area.sum()) / most)
    counts = np.maximum(1, np.ceil(area / square)).astype(np.int64)
    triangle = np.repeat(np.arange(len(area)), counts)
    number = np.arange(len(triangle)) - np.repeat(np.cumsum(counts) - counts, counts)
    u, v = ((1 / 3 + number * step) % 1.0 for step in PLASTIC)
    beyond = u + v > 1
    u, v = np.where(beyond, 1 - u, u), np.where(beyond, 1 - v, v)
    a, b, c = mesh.corners[triangle].transpose(1, 0, 2)
    points = a + u[:, None] * (b - a) + v[:, None] * (c - a)
    return Samples(points, triangle, (area / counts)[triangle])


def thickness(mesh: Mesh, samples: Samples, reach: float) -> tuple[Floats, Ints]:
    """(n,) mm from each point inward to the first triangle that faces away, at most `reach`, infinite where there is
    none; and (n,) which triangle that is, or -1.
    """
    if len(mesh.triangles) == 0:
        return np.full(len(samples.points), np.inf), np.full(len(samples.points), -1)
    tree = Tree.of(mesh)
    facing = normals(mesh)
    found: tuple[Floats, Ints] = _inward(
        tree.boxes,
        tree.leaves,
        np.ascontiguousarray(mesh.corners[tree.order]),
        np.ascontiguousarray(facing[tree.order]),
        np.ascontiguousarray(samples.points),
        np.ascontiguousarray(-facing[samples.triangle]),
        reach,
    )
    distance, at = found
    return distance, np.where(at >= 0, tree.order[at], -1)


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _inward(boxes: Any, leaves: Any, corners: Any, facing: Any, points: Any, ways: Any, reach: Any) -> Any:
    distance, hit = np.full(len(points), np.inf), np.full(len(points), -1, dtype=np.int64)
    for n in prange(len(points)):
        distance[n], hit[n] = _first(boxes, leaves, corners, facing, points[n], ways[n], reach)
    return distance, hit


@njit(cache=True)  # type: ignore[untyped-decorator]
def _first(boxes: Any, leaves: Any, corners: Any, facing: Any, point: Any, way: Any, reach: Any) -> Any:
    """How far along a way the first triangle turned along it is, as the far side of a wall is; and which."""
    best, which = np.inf, -1
    if way[0] * way[0] + way[1] * way[1] + way[2] * way[2] < 0.5:  # a triangle without area
        return best, which
    stack = np.empty(64, dtype=np.int64)
    stack[0] = 0
    size = 1
    while size:
        size -= 1
        node = stack[size]
        limit = min(best, reach)
        if _missed(boxes, node, point, way, limit):
            continue
        if node < leaves - 1:
            stack[size], stack[size + 1] = 2 * node + 1, 2 * node + 2
            size += 2
            continue
        first = (node - leaves + 1) * LEAF
        for i in range(first, min(first + LEAF, len(corners))):
            along = facing[i, 0] * way[0] + facing[i, 1] * way[1] + facing[i, 2] * way[2]
            if along < OPPOSITE:
                continue
            far = _along(corners[i], facing[i], point, along)
            if 0.0 <= far <= limit and far < best and _within(corners[i], facing[i], point, way, far):
                best, which = far, i
    return best, which


@njit(cache=True)  # type: ignore[untyped-decorator]
def _missed(boxes: Any, node: Any, point: Any, way: Any, limit: Any) -> Any:
    """Whether a way of a certain length misses a box: by slabs."""
    near, far = 0.0, limit
    if boxes[node, 0] > boxes[node, 3]:  # nothing in it
        return True
    for k in range(3):
        low, high = boxes[node, k] - 1e-9, boxes[node, k + 3] + 1e-9
        if abs(way[k]) < 1e-12:
            if point[k] < low or point[k] > high:
                return True
            continue
        one, other = (low - point[k]) / way[k], (high - point[k]) / way[k]
        near, far = max(near, min(one, other)), min(far, max(one, other))
        if near > far:
            return True
    return False


@njit(cache=True)  # type: ignore[untyped-decorator]
def _along(corners: Any, normal: Any, point: Any, along: Any) -> Any:
    """How far off a triangle's plane is, along a way that has the share `along` in its normal."""
    total = 0.0
    for k in range(3):
        total += (corners[0, k] - point[k]) * normal[k]
    return total / along


@njit(cache=True)  # type: ignore[untyped-decorator]
def _within(corners: Any, normal: Any, point: Any, way: Any, far: Any) -> Any:
    """Whether the point so far along lies in a triangle, its rim included."""
    x, y, z = point[0] + far * way[0], point[1] + far * way[1], point[2] + far * way[2]
    for k in range(3):
        p, q = corners[k], corners[(k + 1) % 3]
        ex, ey, ez = q[0] - p[0], q[1] - p[1], q[2] - p[2]
        dx, dy, dz = x - p[0], y - p[1], z - p[2]
        side = (ey * dz - ez * dy) * normal[0] + (ez * dx - ex * dz) * normal[1] + (ex * dy - ey * dx) * normal[2]
        if side < -1e-9 * (abs(ex) + abs(ey) + abs(ez)):
            return False
    return True
