"""Whether two triangles cross: the rule, in plain Python. Few pairs are judged by it as it stands; `crossings` has it
compiled, for many.

Two triangles cross when they share points other than their common vertices or edge and each goes through the other's
plane, or when they lie in one plane and overlap. What is no deeper than `slack` counts as touching (T. Möller, "A fast
triangle-triangle intersection test", 1997, with a tolerance). Where a surface goes through a triangle just along one of
its own edges, both its triangles there only touch it: that an edge runs through a triangle is told as well, for
`through_edges` to look at what is beyond the edge.

points: (n, 3), mm. triangles: (m, 3). normals: (m, 3), unit, of the triangles; zero for those that cross nothing: that
have no area, or are no higher than the slack, so that nothing can be deeper in them. slack: mm.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.mesh.mesh import Mesh

SLACK = 2.0**-22
"""Share of the largest coordinate within which triangles only touch: two steps of a float32, as files hold them."""

NEARLY_ONE_PLANE = 0.1
"""Sine of the angle between two planes below which the line where they meet says little."""


def slack_of(mesh: Mesh) -> float:
    """mm: how deep triangles of a mesh may lie in each other and still only touch."""
    return SLACK * float(np.abs(mesh.vertices).max()) if len(mesh.vertices) else 0.0


CROSSES, SECOND_ALONG, FIRST_ALONG = 1, 2, 4


def cross(points: Any, triangles: Any, normals: Any, i: Any, j: Any, slack: Any) -> Any:
    """1 where triangles i and j cross, 0 where they do not; 2, 4 or both added, where an edge of j runs along in i, or
    one of i in j. Where they lie nearly in one plane, that may be the one of either.
    """
    if flat(normals, i) or flat(normals, j):
        return 0
    # All that is read is read once: compiled, that is several times as quick as by `height`.
    a, b, c = triangles[i, 0], triangles[i, 1], triangles[i, 2]
    d, e, f = triangles[j, 0], triangles[j, 1], triangles[j, 2]
    a_shared, b_shared, c_shared = a == d or a == e or a == f, b == d or b == e or b == f, c == d or c == e or c == f
    d_shared, e_shared, f_shared = d == a or d == b or d == c, e == a or e == b or e == c, f == a or f == b or f == c
    shared = a_shared + b_shared + c_shared
    if shared > 2:
        return 0
    if shared == 2:
        i_alone = 0 if not a_shared else 1 if not b_shared else 2
        j_alone = 0 if not d_shared else 1 if not e_shared else 2
        return 1 if folded(points, triangles, normals, i, i_alone, j, j_alone, slack) else 0
    nx, ny, nz = normals[i, 0], normals[i, 1], normals[i, 2]
    mx, my, mz = normals[j, 0], normals[j, 1], normals[j, 2]
    ax, ay, az = points[a, 0], points[a, 1], points[a, 2]
    dx, dy, dz = points[d, 0], points[d, 1], points[d, 2]
    bx, by, bz = points[b, 0] - dx, points[b, 1] - dy, points[b, 2] - dz
    cx, cy, cz = points[c, 0] - dx, points[c, 1] - dy, points[c, 2] - dz
    ex, ey, ez = points[e, 0] - ax, points[e, 1] - ay, points[e, 2] - az
    fx, fy, fz = points[f, 0] - ax, points[f, 1] - ay, points[f, 2] - az
    t0 = 0.0 if d_shared else off(nx, ny, nz, dx - ax, dy - ay, dz - az, slack)
    t1 = 0.0 if e_shared else off(nx, ny, nz, ex, ey, ez, slack)
    t2 = 0.0 if f_shared else off(nx, ny, nz, fx, fy, fz, slack)
    s0 = 0.0 if a_shared else off(mx, my, mz, ax - dx, ay - dy, az - dz, slack)
    s1 = 0.0 if b_shared else off(mx, my, mz, bx, by, bz, slack)
    s2 = 0.0 if c_shared else off(mx, my, mz, cx, cy, cz, slack)
    parted = not (min(t0, t1, t2) < 0.0 < max(t0, t1, t2) and min(s0, s1, s2) < 0.0 < max(s0, s1, s2))
    t_level, s_level = (t0 == 0.0) + (t1 == 0.0) + (t2 == 0.0), (s0 == 0.0) + (s1 == 0.0) + (s2 == 0.0)
    if parted and t_level < 2 and s_level < 2:
        return 0
    s, t, n, m = triangles[i], triangles[j], normals[i], normals[j]
    if parted:
        if t_level == 3 and lie_over(points, s, t, n, slack):
            return 1
        if s_level == 3 and lie_over(points, s, t, m, slack):
            return 1
        return (2 if along(points, t, t0, t1, t2, s, n, slack) else 0) + (
            4 if along(points, s, s0, s1, s2, t, m, slack) else 0
        )
    # Both go through the other's plane: along the line where the planes meet, what they take of it must overlap.
    lx, ly, lz = ny * mz - nz * my, nz * mx - nx * mz, nx * my - ny * mx
    length = np.sqrt(lx * lx + ly * ly + lz * lz)
    if length == 0.0:
        return 0
    if length < NEARLY_ONE_PLANE and not (lie_over(points, s, t, n, slack) or lie_over(points, s, t, m, slack)):
        return 0  # what lies within the slack of a plane may be far from the line where the planes meet
    lx, ly, lz = lx / length, ly / length, lz / length
    a0, a1 = span(points, s, s0, s1, s2, lx, ly, lz)
    b0, b1 = span(points, t, t0, t1, t2, lx, ly, lz)
    return 1 if min(a1, b1) - max(a0, b0) > slack else 0


def flat(normals: Any, i: Any) -> Any:
    return normals[i, 0] == 0.0 and normals[i, 1] == 0.0 and normals[i, 2] == 0.0


def height(points: Any, triangles: Any, normals: Any, i: Any, v: Any, slack: Any) -> Any:
    """How far vertex v is off the plane of triangle i, mm; 0 within the slack and for a corner of it."""
    o = triangles[i, 0]
    if v == o or v == triangles[i, 1] or v == triangles[i, 2]:
        return 0.0
    x, y, z = points[v, 0] - points[o, 0], points[v, 1] - points[o, 1], points[v, 2] - points[o, 2]
    return off(normals[i, 0], normals[i, 1], normals[i, 2], x, y, z, slack)


def off(nx: Any, ny: Any, nz: Any, x: Any, y: Any, z: Any, slack: Any) -> Any:
    """How far a vector reaches along a unit normal, mm; 0 within the slack."""
    height = nx * x + ny * y + nz * z
    return height if abs(height) > slack else 0.0


def span(points: Any, t: Any, d0: Any, d1: Any, d2: Any, lx: Any, ly: Any, lz: Any) -> Any:
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


def left_of(points: Any, a: Any, b: Any, normal: Any) -> Any:
    """The unit vector to the left of the edge from a to b, seen against `normal`; zero for an edge of no length."""
    ex, ey, ez = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
    x, y, z = normal[1] * ez - normal[2] * ey, normal[2] * ex - normal[0] * ez, normal[0] * ey - normal[1] * ex
    length = np.sqrt(x * x + y * y + z * z)
    if length == 0.0:
        return 0.0, 0.0, 0.0
    return x / length, y / length, z / length


def reach(points: Any, a: Any, v: Any, x: Any, y: Any, z: Any) -> Any:
    """How far vertex v is from vertex a along a unit vector, mm."""
    return x * (points[v, 0] - points[a, 0]) + y * (points[v, 1] - points[a, 1]) + z * (points[v, 2] - points[a, 2])


def folded(points: Any, triangles: Any, normals: Any, i: Any, i_alone: Any, j: Any, j_alone: Any, slack: Any) -> Any:
    """Whether two triangles on one edge lie on each other: in one plane, on the same side of that edge."""
    a, b = triangles[i, (i_alone + 1) % 3], triangles[i, (i_alone + 2) % 3]
    against = triangles[j, (j_alone + 1) % 3] == b  # as neighbours of one surface run along their edge
    facing = normals[i, 0] * normals[j, 0] + normals[i, 1] * normals[j, 1] + normals[i, 2] * normals[j, 2]
    if (facing > -0.99) if against else (facing < 0.99):
        return False
    s, t = triangles[i], triangles[j]
    level = height(points, triangles, normals, i, t[j_alone], slack) == 0.0
    if not level and height(points, triangles, normals, j, s[i_alone], slack) != 0.0:
        return False
    n = normals[i] if level else normals[j]
    x, y, z = left_of(points, a, b, n)
    own, other = reach(points, a, s[i_alone], x, y, z), reach(points, a, t[j_alone], x, y, z)
    return own * other > 0.0 and min(abs(own), abs(other)) > slack


def along(points: Any, t: Any, d0: Any, d1: Any, d2: Any, s: Any, normal: Any, slack: Any) -> Any:
    """Whether just one edge of triangle t, whose corners are d0, d1 and d2 off the plane of s, mm, runs along in s."""
    if (d0 == 0.0) + (d1 == 0.0) + (d2 == 0.0) != 2:
        return False
    p, q = (t[1], t[2]) if d0 != 0.0 else (t[2], t[0]) if d1 != 0.0 else (t[0], t[1])
    low, high = 0.0, 1.0  # shares of the edge that are farther than the slack within
    for k in range(3):
        a, b = s[k], s[(k + 1) % 3]
        x, y, z = left_of(points, a, b, normal)
        sign = 1.0 if reach(points, a, s[(k + 2) % 3], x, y, z) > 0.0 else -1.0
        start, end = sign * reach(points, a, p, x, y, z) - slack, sign * reach(points, a, q, x, y, z) - slack
        if start <= 0.0 and end <= 0.0:
            return False
        if start < 0.0:
            low = max(low, start / (start - end))
        elif end < 0.0:
            high = min(high, start / (start - end))
    x, y, z = points[q, 0] - points[p, 0], points[q, 1] - points[p, 1], points[q, 2] - points[p, 2]
    return (high - low) * np.sqrt(x * x + y * y + z * z) > slack


def overlap(points: Any, s: Any, t: Any, normal: Any, slack: Any) -> Any:
    """Whether no edge of `s` parts it from `t`, which lies in its plane."""
    for k in range(3):
        a, b = s[k], s[(k + 1) % 3]
        x, y, z = left_of(points, a, b, normal)
        sign = 1.0 if reach(points, a, s[(k + 2) % 3], x, y, z) > 0.0 else -1.0
        most = max(
            sign * reach(points, a, t[0], x, y, z),
            sign * reach(points, a, t[1], x, y, z),
            sign * reach(points, a, t[2], x, y, z),
        )
        if most <= slack:
            return False
    return True


def lie_over(points: Any, s: Any, t: Any, normal: Any, slack: Any) -> Any:
    """Whether two triangles that lie in a plane, all but, overlap."""
    return overlap(points, s, t, normal, slack) and overlap(points, t, s, normal, slack)


RULE = (flat, off, height, span, left_of, reach, folded, along, overlap, lie_over, cross)
"""All of the rule, each after what it calls."""
