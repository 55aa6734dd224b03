"""The first triangle that each of many rays meets, and how often rays leave what a closed surface goes around.

T. Möller and B. Trumbore, "Fast, minimum storage ray-triangle intersection", 1997, over the tree of boxes that
crossings are found with. A box farther than the ray reaches, or than what it has met so far, is not gone into: short
rays stay quick beside fans of long triangles, where libigl's tree takes a thousand times as long.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import prange, small, spread
from noble_clay.core.mesh.box_tree import Tree, held_by, put_children
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

LEAST = 1e-30
"""In place of a direction's 0, by which its places could not be divided."""

RUN = 256
"""Rays that are followed by one thread, one after the other."""

ROUNDED = 1 + 1e-14
"""So much longer a ray is within a box, that rounding has none pass by a flat one (Ize, "Robust BVH ray traversal",
2013).
"""


def first_met(mesh: Mesh, starts: Floats, ways: Floats, reach: float, tree: Tree | None = None) -> tuple[Ints, Floats]:
    """(n,) the triangle that each ray meets first, or -1, and (n,) how far away, mm, infinite for none.

    starts: (n, 3). ways: (n, 3) unit vectors. reach: mm, how far rays go. tree: of the mesh, where it is
    at hand. Both sides of triangles are met.
    """
    if len(mesh.triangles) == 0:
        return np.full(len(starts), -1, dtype=np.int64), np.full(len(starts), np.inf)
    tree = tree or Tree.of(mesh)
    corners = np.ascontiguousarray(mesh.corners[tree.order])
    met, far = _first_met(
        tree.boxes, tree.leaves, corners, np.ascontiguousarray(starts), np.ascontiguousarray(ways), float(reach)
    )
    return np.where(met >= 0, tree.order[met], -1), far


@spread
def _first_met(boxes: Any, leaves: Any, corners: Any, starts: Any, ways: Any, reach: Any) -> Any:
    met, far = np.full(len(starts), -1, dtype=np.int64), np.full(len(starts), np.inf)
    for run in prange((len(starts) + RUN - 1) // RUN):
        stack, entered, inverse = np.empty(64, dtype=np.int64), np.empty(64), np.empty(3)
        for i in range(run * RUN, min(run * RUN + RUN, len(starts))):
            for k in range(3):
                inverse[k] = 1.0 / (ways[i, k] if abs(ways[i, k]) > LEAST else LEAST)
            stack[0], entered[0] = 0, 0.0
            size = 1
            best = reach
            while size:
                size -= 1
                node = stack[size]
                if entered[size] > best:
                    continue
                if node >= leaves - 1:
                    first, last = held_by(node, leaves, len(corners))
                    for k in range(first, last):
                        away = _meets(corners[k], starts[i], ways[i])
                        if 0.0 <= away <= best:
                            best = away
                            met[i], far[i] = k, away
                    continue
                near, other = 2 * node + 1, 2 * node + 2
                a = _enters(boxes, near, starts[i], inverse, best)
                b = _enters(boxes, other, starts[i], inverse, best)
                if b < a:
                    near, other, a, b = other, near, b, a
                for child, where in ((other, b), (near, a)):  # the nearer is looked into first
                    if where < np.inf:
                        stack[size], entered[size] = child, where
                        size += 1
    return met, far


WAYS = np.array([[0.811, 0.263, 0.523], [-0.402, 0.779, -0.481], [0.117, -0.586, -0.802]])
"""Directions along which nobody models."""
WAYS /= np.linalg.norm(WAYS, axis=1, keepdims=True)


def times_around(mesh: Mesh, points: Floats, tree: Tree | None = None) -> Ints:
    """(n,) how often a closed mesh, turned alike, goes around points (n, 3): how often more a ray leaves it than comes
    in, by most of three rays, as one may run along an edge. tree: of the mesh, where it is at hand.
    """
    if len(mesh.triangles) == 0 or len(points) == 0:
        return np.zeros(len(points), dtype=np.int64)
    tree = tree or Tree.of(mesh)
    corners, starts = np.ascontiguousarray(mesh.corners[tree.order]), np.ascontiguousarray(points)
    counts = np.stack([_times_left(tree.boxes, tree.leaves, corners, starts, way) for way in WAYS])
    found: Ints = np.median(counts, axis=0).astype(np.int64)
    return found


@spread
def _times_left(boxes: Any, leaves: Any, corners: Any, starts: Any, way: Any) -> Any:
    found = np.zeros(len(starts), dtype=np.int64)
    inverse = 1.0 / way
    for run in prange((len(starts) + RUN - 1) // RUN):
        stack = np.empty(64, dtype=np.int64)
        for i in range(run * RUN, min(run * RUN + RUN, len(starts))):
            stack[0] = 0
            size = 1
            while size:
                size -= 1
                node = stack[size]
                if _enters(boxes, node, starts[i], inverse, np.inf) == np.inf:
                    continue
                if node < leaves - 1:
                    size = put_children(stack, size, node)
                    continue
                first, last = held_by(node, leaves, len(corners))
                for k in range(first, last):
                    if _meets(corners[k], starts[i], way) >= 0.0:
                        found[i] += 1 if _looks_along(corners[k], way) else -1
    return found


@small
def _looks_along(corners: Any, way: Any) -> Any:
    """Whether a triangle (3, 3) is seen from behind by who looks that way."""
    u0, u1, u2 = corners[1, 0] - corners[0, 0], corners[1, 1] - corners[0, 1], corners[1, 2] - corners[0, 2]
    v0, v1, v2 = corners[2, 0] - corners[0, 0], corners[2, 1] - corners[0, 1], corners[2, 2] - corners[0, 2]
    return way[0] * (u1 * v2 - u2 * v1) + way[1] * (u2 * v0 - u0 * v2) + way[2] * (u0 * v1 - u1 * v0) > 0.0


@small
def _enters(boxes: Any, node: Any, start: Any, inverse: Any, reach: Any) -> Any:
    """How far away a ray comes into a box, infinite where it does not within its reach; none meets an empty node's.

    inverse: (3,) of the ray's way.
    """
    if boxes[node, 0] > boxes[node, 3]:
        return np.inf
    enter, leave = 0.0, reach
    for k in range(3):
        a, b = (boxes[node, k] - start[k]) * inverse[k], (boxes[node, k + 3] - start[k]) * inverse[k]
        enter, leave = max(enter, min(a, b)), min(leave, max(a, b))
    return enter if enter <= leave * ROUNDED else np.inf


@small
def _meets(corners: Any, start: Any, way: Any) -> Any:
    """How far away a ray meets a triangle (3, 3); -1 where it does not."""
    u0, u1, u2 = corners[1, 0] - corners[0, 0], corners[1, 1] - corners[0, 1], corners[1, 2] - corners[0, 2]
    v0, v1, v2 = corners[2, 0] - corners[0, 0], corners[2, 1] - corners[0, 1], corners[2, 2] - corners[0, 2]
    p0, p1, p2 = way[1] * v2 - way[2] * v1, way[2] * v0 - way[0] * v2, way[0] * v1 - way[1] * v0
    volume = u0 * p0 + u1 * p1 + u2 * p2
    if volume == 0.0:
        return -1.0
    s0, s1, s2 = start[0] - corners[0, 0], start[1] - corners[0, 1], start[2] - corners[0, 2]
    a = (s0 * p0 + s1 * p1 + s2 * p2) / volume
    q0, q1, q2 = s1 * u2 - s2 * u1, s2 * u0 - s0 * u2, s0 * u1 - s1 * u0
    b = (way[0] * q0 + way[1] * q1 + way[2] * q2) / volume
    if a < 0.0 or b < 0.0 or a + b > 1.0:
        return -1.0
    return (v0 * q0 + v1 * q1 + v2 * q2) / volume
