"""The nearest triangle to each of many points, most of which follow one that is near by: the nearest to that one is
looked at first, and little of the tree is left to search.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, prange, small, spread
from noble_clay.core.mesh.box_tree import LEAF, Tree
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

IN_A_ROW = 256
"""Points that one thread goes through in a row."""

DEEPEST = 64
"""Nodes of the tree that may wait to be searched."""


class Nearest:
    """Of one mesh, which has triangles, for points as often as they are asked for. tree: of the mesh, where it is at
    hand.
    """

    def __init__(self, mesh: Mesh, tree: Tree | None = None) -> None:
        self._tree = tree or Tree.of(mesh)
        self._corners = np.ascontiguousarray(mesh.corners[self._tree.order])
        self._balls = _balls(self._corners)

    def to(self, points: Floats) -> tuple[Floats, Ints, Floats]:
        """(n,) squared distances of points (n, 3), mm², (n,) the nearest triangles, and (n, 3) their nearest points."""
        tree, points = self._tree, np.ascontiguousarray(points)
        squared, leaf, foot = _nearest(tree.boxes, tree.leaves, self._corners, self._balls, points)
        return squared, tree.order[leaf], foot


@spread
def _nearest(boxes: Any, leaves: Any, corners: Any, balls: Any, points: Any) -> Any:
    squared, found, feet = np.empty(len(points)), np.zeros(len(points), dtype=np.int64), np.empty((len(points), 3))
    for row in prange((len(points) + IN_A_ROW - 1) // IN_A_ROW):
        waiting = np.empty(DEEPEST, dtype=np.int64)
        away = np.empty(DEEPEST)
        before = 0
        for i in range(row * IN_A_ROW, min(len(points), (row + 1) * IN_A_ROW)):
            x, y, z = points[i, 0], points[i, 1], points[i, 2]
            least, fx, fy, fz = _to_triangle(corners, before, x, y, z)
            best, reach = before, np.sqrt(least)
            waiting[0], away[0] = 0, 0.0
            count = 1
            while count > 0:
                count -= 1
                node = waiting[count]
                if away[count] >= least:
                    continue
                if node >= leaves - 1:
                    first = (node - leaves + 1) * LEAF
                    for t in range(first, min(first + LEAF, len(corners))):
                        if _is_beyond(balls, t, x, y, z, reach):
                            continue
                        d, px, py, pz = _to_triangle(corners, t, x, y, z)
                        if d < least:
                            least, best, fx, fy, fz = d, t, px, py, pz
                            reach = np.sqrt(least)
                    continue
                one, other = 2 * node + 1, 2 * node + 2
                d, e = _to_box(boxes, one, x, y, z), _to_box(boxes, other, x, y, z)
                if d < e:
                    one, other, d, e = other, one, e, d
                # The nearer one is searched first: it is put last.
                if d < least:
                    waiting[count], away[count] = one, d
                    count += 1
                if e < least:
                    waiting[count], away[count] = other, e
                    count += 1
            squared[i], found[i], before = least, best, best
            feet[i, 0], feet[i, 1], feet[i, 2] = fx, fy, fz
    return squared, found, feet


@compiled
def _balls(corners: Any) -> Any:
    """(m, 4) around each triangle: middle and radius, mm."""
    found = np.empty((len(corners), 4))
    for t in range(len(corners)):
        for k in range(3):
            found[t, k] = (corners[t, 0, k] + corners[t, 1, k] + corners[t, 2, k]) / 3
        farthest = 0.0
        for corner in range(3):
            squared = 0.0
            for k in range(3):
                squared += (corners[t, corner, k] - found[t, k]) ** 2
            farthest = max(farthest, squared)
        found[t, 3] = np.sqrt(farthest) * (1 + 1e-9)
    return found


@small
def _is_beyond(balls: Any, t: Any, x: Any, y: Any, z: Any, reach: Any) -> Any:
    """Whether nothing in ball t is as near as that."""
    away = (balls[t, 0] - x) ** 2 + (balls[t, 1] - y) ** 2 + (balls[t, 2] - z) ** 2
    return away > (reach + balls[t, 3]) ** 2


@small
def _to_box(boxes: Any, node: Any, x: Any, y: Any, z: Any) -> Any:
    """Squared distance to a box; infinite to an empty one."""
    if boxes[node, 0] > boxes[node, 3]:
        return np.inf
    dx = max(boxes[node, 0] - x, 0.0, x - boxes[node, 3])
    dy = max(boxes[node, 1] - y, 0.0, y - boxes[node, 4])
    dz = max(boxes[node, 2] - z, 0.0, z - boxes[node, 5])
    return dx * dx + dy * dy + dz * dz


@small
def _to_triangle(corners: Any, t: Any, x: Any, y: Any, z: Any) -> Any:
    """(squared distance, nearest point) of a triangle (Ericson, Real-Time Collision Detection, 2005, 5.1.5)."""
    ax, ay, az = corners[t, 0, 0], corners[t, 0, 1], corners[t, 0, 2]
    ux, uy, uz = corners[t, 1, 0] - ax, corners[t, 1, 1] - ay, corners[t, 1, 2] - az
    vx, vy, vz = corners[t, 2, 0] - ax, corners[t, 2, 1] - ay, corners[t, 2, 2] - az
    px, py, pz = x - ax, y - ay, z - az
    d1, d2 = ux * px + uy * py + uz * pz, vx * px + vy * py + vz * pz
    uu, uv, vv = ux * ux + uy * uy + uz * uz, ux * vx + uy * vy + uz * vz, vx * vx + vy * vy + vz * vz
    d3, d4, d5, d6 = d1 - uu, d2 - uv, d1 - uv, d2 - vv
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    s = t_ = 0.0
    if d1 <= 0 and d2 <= 0:
        s, t_ = 0.0, 0.0
    elif d3 >= 0 and d4 <= d3:
        s, t_ = 1.0, 0.0
    elif d6 >= 0 and d5 <= d6:
        s, t_ = 0.0, 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        s = d1 / (d1 - d3)
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        t_ = d2 / (d2 - d6)
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        t_ = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        s = 1.0 - t_
    elif va + vb + vc > 0:
        s, t_ = vb / (va + vb + vc), vc / (va + vb + vc)
    fx, fy, fz = ax + s * ux + t_ * vx, ay + s * uy + t_ * vy, az + s * uz + t_ * vz
    return (x - fx) ** 2 + (y - fy) ** 2 + (z - fz) ** 2, fx, fy, fz
