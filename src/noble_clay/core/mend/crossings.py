"""Where a surface runs through itself: the pairs of triangles that cross.

Two triangles cross when they share points other than their common vertices or edge and each goes through the other's
plane, or when they lie in one plane and overlap. What is no deeper than `slack` counts as touching (T. Möller, "A fast
triangle-triangle intersection test", 1997, with a tolerance).
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numba import njit, prange

from noble_clay.core.measure.mass import normals
from noble_clay.core.mend.tree import LEAF, Tree, apart
from noble_clay.core.mesh import Floats, Ints, Mesh

SLACK = 2.0**-22
"""Share of the largest coordinate within which triangles only touch: two steps of a float32, as files hold them."""


def slack_of(mesh: Mesh) -> float:
    """mm: how deep triangles of a mesh may lie in each other and still only touch."""
    return SLACK * float(np.abs(mesh.vertices).max()) if len(mesh.vertices) else 0.0


def crossing_pairs(mesh: Mesh, slack: float | None = None) -> Ints:
    """(k, 2) triangles that cross, the lower first, sorted. slack: mm, by default `slack_of` the mesh.

    Triangles that name a vertex twice cross nothing.
    """
    if len(mesh.triangles) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    tree = Tree.of(mesh)
    given = Given(
        np.ascontiguousarray(mesh.vertices),
        np.ascontiguousarray(mesh.triangles[tree.order]),
        np.ascontiguousarray(normals(mesh)[tree.order]),
        slack_of(mesh) if slack is None else slack,
    )
    number = -(-len(tree.order) // LEAF)
    counts = _count(tree.boxes, tree.tight, tree.leaves, *given, number)
    leaves = np.flatnonzero(counts)
    if len(leaves) == 0:
        return np.zeros((0, 2), dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(counts[leaves])])
    found = _fill(tree.boxes, tree.tight, tree.leaves, *given, leaves, starts)
    pairs = np.sort(tree.order[found], axis=1)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]


class Given(NamedTuple):
    """What the loops below read: points (n, 3), triangles (m, 3) in the tree's order, their unit normals (m, 3), mm."""

    points: Floats
    triangles: Ints
    normals: Floats
    slack: float


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _count(
    boxes: Any, tight: Any, leaves: Any, points: Any, triangles: Any, normals: Any, slack: Any, number: Any
) -> Any:
    counts = np.zeros(number, dtype=np.int64)
    nothing = np.empty((0, 2), dtype=np.int64)
    for leaf in prange(number):
        counts[leaf] = _of_leaf(boxes, tight, leaves, points, triangles, normals, slack, leaf, nothing, 0)
    return counts


@njit(cache=True)  # type: ignore[untyped-decorator]
def _fill(
    boxes: Any, tight: Any, leaves: Any, points: Any, triangles: Any, normals: Any, slack: Any, which: Any, starts: Any
) -> Any:
    found = np.empty((starts[-1], 2), dtype=np.int64)
    for at in range(len(which)):
        _of_leaf(boxes, tight, leaves, points, triangles, normals, slack, which[at], found, starts[at])
    return found


@njit(cache=True)  # type: ignore[untyped-decorator]
def _of_leaf(
    boxes: Any,
    tight: Any,
    leaves: Any,
    points: Any,
    triangles: Any,
    normals: Any,
    slack: Any,
    leaf: Any,
    found: Any,
    at: Any,
) -> Any:
    """How many triangles cross one of this leaf and come later; written to `found` from `at` on where it has room."""
    stack = np.empty(64, dtype=np.int64)
    stack[0] = 0
    size = 1
    count = 0
    mine = leaves - 1 + leaf
    first, last = leaf * LEAF, min(leaf * LEAF + LEAF, len(triangles))
    while size:
        size -= 1
        node = stack[size]
        if apart(boxes, mine, boxes, node):
            continue
        if node < leaves - 1:
            for child in (2 * node + 2, 2 * node + 1):
                far = child
                while far < leaves - 1:
                    far = 2 * far + 2
                if far >= mine:  # leaves before mine have found their pairs with me already
                    stack[size] = child
                    size += 1
            continue
        other = (node - leaves + 1) * LEAF
        for i in range(first, last):
            for j in range(max(other, i + 1), min(other + LEAF, len(triangles))):
                if not apart(tight, i, tight, j) and _cross(points, triangles, normals, i, j, slack):
                    if len(found):
                        found[at + count, 0] = i
                        found[at + count, 1] = j
                    count += 1
    return count


@njit(cache=True)  # type: ignore[untyped-decorator]
def _cross(points: Any, triangles: Any, normals: Any, i: Any, j: Any, slack: Any) -> Any:
    """Whether two triangles cross."""
    shared = i_sum = j_sum = 0
    for a in range(3):
        for b in range(3):
            if triangles[i, a] == triangles[j, b]:
                shared += 1
                i_sum += a
                j_sum += b
    if shared > 2 or _collapsed(triangles, i) or _collapsed(triangles, j):
        return False
    if shared == 2:
        return _folded(points, triangles, normals, i, 3 - i_sum, j, 3 - j_sum, slack)
    t0 = _height(points, triangles, normals, i, triangles[j, 0], slack)
    t1 = _height(points, triangles, normals, i, triangles[j, 1], slack)
    t2 = _height(points, triangles, normals, i, triangles[j, 2], slack)
    if not (min(t0, t1, t2) < 0.0 < max(t0, t1, t2)):
        if t0 == 0.0 and t1 == 0.0 and t2 == 0.0:
            s, t = triangles[i], triangles[j]
            return _overlap(points, s, t, normals[i], slack) and _overlap(points, t, s, normals[i], slack)
        return False
    s0 = _height(points, triangles, normals, j, triangles[i, 0], slack)
    s1 = _height(points, triangles, normals, j, triangles[i, 1], slack)
    s2 = _height(points, triangles, normals, j, triangles[i, 2], slack)
    if not (min(s0, s1, s2) < 0.0 < max(s0, s1, s2)):
        return False
    s, t = triangles[i], triangles[j]
    # Both go through the other's plane: along the line where the planes meet, what they take of it must overlap.
    n, m = normals[i], normals[j]
    lx, ly, lz = n[1] * m[2] - n[2] * m[1], n[2] * m[0] - n[0] * m[2], n[0] * m[1] - n[1] * m[0]
    length = np.sqrt(lx * lx + ly * ly + lz * lz)
    if length == 0.0:
        return False
    lx, ly, lz = lx / length, ly / length, lz / length
    a0, a1 = _span(points, s, s0, s1, s2, lx, ly, lz)
    b0, b1 = _span(points, t, t0, t1, t2, lx, ly, lz)
    return min(a1, b1) - max(a0, b0) > slack


@njit(cache=True)  # type: ignore[untyped-decorator]
def _collapsed(triangles: Any, i: Any) -> Any:
    a, b, c = triangles[i, 0], triangles[i, 1], triangles[i, 2]
    return a == b or b == c or c == a


@njit(cache=True)  # type: ignore[untyped-decorator]
def _height(points: Any, triangles: Any, normals: Any, i: Any, v: Any, slack: Any) -> Any:
    """How far vertex v is off the plane of triangle i, mm; 0 within the slack and for a corner of it."""
    o = triangles[i, 0]
    if v == o or v == triangles[i, 1] or v == triangles[i, 2]:
        return 0.0
    height = (
        normals[i, 0] * (points[v, 0] - points[o, 0])
        + normals[i, 1] * (points[v, 1] - points[o, 1])
        + normals[i, 2] * (points[v, 2] - points[o, 2])
    )
    return height if abs(height) > slack else 0.0


@njit(cache=True)  # type: ignore[untyped-decorator]
def _span(points: Any, t: Any, d0: Any, d1: Any, d2: Any, lx: Any, ly: Any, lz: Any) -> Any:
    """From where to where a triangle takes a line in a plane that its corners are d0, d1 and d2 off, mm."""
    low, high = np.inf, -np.inf
    for k in range(3):
        p, q = t[k], t[(k + 1) % 3]
        d = d0 if k == 0 else d1 if k == 1 else d2
        e = d1 if k == 0 else d2 if k == 1 else d0
        if d != 0.0 and d * e >= 0.0:
            continue
        share = 0.0 if d == 0.0 else d / (d - e)
        x = points[p, 0] + share * (points[q, 0] - points[p, 0])
        y = points[p, 1] + share * (points[q, 1] - points[p, 1])
        z = points[p, 2] + share * (points[q, 2] - points[p, 2])
        place = lx * x + ly * y + lz * z
        low, high = min(low, place), max(high, place)
    return low, high


@njit(cache=True)  # type: ignore[untyped-decorator]
def _inward(points: Any, a: Any, b: Any, normal: Any, v: Any) -> Any:
    """How far vertex v is to the left of the edge from a to b, seen against `normal`, mm."""
    ex, ey, ez = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
    x, y, z = normal[1] * ez - normal[2] * ey, normal[2] * ex - normal[0] * ez, normal[0] * ey - normal[1] * ex
    length = np.sqrt(x * x + y * y + z * z)
    if length == 0.0:
        return 0.0
    return (
        x * (points[v, 0] - points[a, 0]) + y * (points[v, 1] - points[a, 1]) + z * (points[v, 2] - points[a, 2])
    ) / length


@njit(cache=True)  # type: ignore[untyped-decorator]
def _folded(points: Any, triangles: Any, normals: Any, i: Any, i_alone: Any, j: Any, j_alone: Any, slack: Any) -> Any:
    """Whether two triangles on one edge lie on each other: in one plane, on the same side of that edge."""
    a, b = triangles[i, (i_alone + 1) % 3], triangles[i, (i_alone + 2) % 3]
    against = triangles[j, (j_alone + 1) % 3] == b  # as neighbours of one surface run along their edge
    facing = normals[i, 0] * normals[j, 0] + normals[i, 1] * normals[j, 1] + normals[i, 2] * normals[j, 2]
    if (facing > -0.99) if against else (facing < 0.99):
        return False
    s, t, n = triangles[i], triangles[j], normals[i]
    if _height(points, triangles, normals, i, t[j_alone], slack) != 0.0:
        return False
    own, other = _inward(points, a, b, n, s[i_alone]), _inward(points, a, b, n, t[j_alone])
    return own * other > 0.0 and min(abs(own), abs(other)) > slack


@njit(cache=True)  # type: ignore[untyped-decorator]
def _overlap(points: Any, s: Any, t: Any, normal: Any, slack: Any) -> Any:
    """Whether no edge of `s` parts it from `t`, which lies in its plane."""
    for k in range(3):
        a, b = s[k], s[(k + 1) % 3]
        sign = 1.0 if _inward(points, a, b, normal, s[(k + 2) % 3]) > 0.0 else -1.0
        most = max(
            sign * _inward(points, a, b, normal, t[0]),
            sign * _inward(points, a, b, normal, t[1]),
            sign * _inward(points, a, b, normal, t[2]),
        )
        if most <= slack:
            return False
    return True
