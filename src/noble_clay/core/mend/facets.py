"""One triangle cut up along the lines in which others cross it: a constrained triangulation in its own plane.

Points are put in one by one, then edges are turned until every line is there (S. W. Sloan, "A fast algorithm for
generating constrained Delaunay triangulations", 1993, without the Delaunay condition).
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small


@compiled
def cut_triangles(
    points: Any, corners: Any, rim_starts: Any, rims: Any, inner_starts: Any, inners: Any, line_starts: Any, lines: Any
) -> Any:
    """Cut many triangles.

    points: (n, 3). corners: (m, 3). rims: points on the three sides of every triangle, in order along them, from
    rim_starts[3 i + k] to rim_starts[3 i + k + 1] for side k. inners, from inner_starts[i]: points inside it. lines:
    (l, 2) pairs of points that edges must link, from line_starts[i]. Returns (t, 3) triangles, turned as theirs were,
    (t,) which each is of, and (m,) whether all its lines are there.
    """
    room = 0
    for i in range(len(corners)):
        room += 1 + 2 * (inner_starts[i + 1] - inner_starts[i]) + rim_starts[3 * i + 3] - rim_starts[3 * i]
    found = np.empty((room, 3), dtype=np.int64)
    owner = np.empty(room, dtype=np.int64)
    whole = np.ones(len(corners), dtype=np.bool_)
    count = 0
    for i in range(len(corners)):
        flat, ids = _flattened(
            points,
            corners[i],
            rims[rim_starts[3 * i] : rim_starts[3 * i + 3]],
            inners[inner_starts[i] : inner_starts[i + 1]],
        )
        tris = np.empty((2 * len(ids) + 1, 3), dtype=np.int64)
        tris[0, 0], tris[0, 1], tris[0, 2] = 0, 1, 2
        number = 1
        at = 3
        for k in range(3):
            here, end = k, (k + 1) % 3
            for _ in range(rim_starts[3 * i + k], rim_starts[3 * i + k + 1]):
                number = _split_rim(tris, number, here, end, at)
                here = at
                at += 1
        for p in range(at, len(ids)):
            number = _put_in(flat, tris, number, p)
        for k in range(line_starts[i], line_starts[i + 1]):
            a, b = _place(ids, lines[k, 0]), _place(ids, lines[k, 1])
            if a < 0 or b < 0 or not _linked(flat, tris, number, a, b):
                whole[i] = False
        for t in range(number):
            for k in range(3):
                found[count, k] = ids[tris[t, k]]
            owner[count] = i
            count += 1
    return found[:count].copy(), owner[:count].copy(), whole


@compiled
def with_lines(flat: Any, triangles: Any, lines: Any) -> Any:
    """A triangulation (t, 3), counter-clockwise, over points (n, 2), its edges turned so that lines (l, 2) between its
    points are edges too, as far as that goes.
    """
    found = triangles.copy()
    for k in range(len(lines)):
        _linked(flat, found, len(found), lines[k, 0], lines[k, 1])
    return found


@compiled
def _flattened(points: Any, corners: Any, rim: Any, inner: Any) -> Any:
    """The corners, rim and inner points seen along the axis that the triangle faces most, turned counter-clockwise."""
    ids = np.empty(3 + len(rim) + len(inner), dtype=np.int64)
    ids[:3] = corners
    ids[3 : 3 + len(rim)] = rim
    ids[3 + len(rim) :] = inner
    u, v = points[corners[1]] - points[corners[0]], points[corners[2]] - points[corners[0]]
    normal = np.array([u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]])
    axis = np.argmax(np.abs(normal))
    first, second = (axis + 1) % 3, (axis + 2) % 3
    if normal[axis] < 0:
        first, second = second, first
    flat = np.empty((len(ids), 2))
    origin = points[corners[0]]
    for k in range(len(ids)):
        flat[k, 0] = points[ids[k], first] - origin[first]
        flat[k, 1] = points[ids[k], second] - origin[second]
    return flat, ids


@small
def _place(ids: Any, wanted: Any) -> Any:
    for k in range(len(ids)):
        if ids[k] == wanted:
            return k
    return -1


@small
def _turn(flat: Any, a: Any, b: Any, c: Any) -> Any:
    """Double the area of a triangle, negative when clockwise."""
    return (flat[b, 0] - flat[a, 0]) * (flat[c, 1] - flat[a, 1]) - (flat[b, 1] - flat[a, 1]) * (flat[c, 0] - flat[a, 0])


@small
def _side_of(tris: Any, number: Any, a: Any, b: Any) -> Any:
    """The triangle with the edge from a to b, and where in it that begins; -1 for none."""
    for t in range(number):
        for k in range(3):
            if tris[t, k] == a and tris[t, (k + 1) % 3] == b:
                return t, k
    return -1, 0


@small
def _split_rim(tris: Any, number: Any, a: Any, b: Any, p: Any) -> Any:
    t, k = _side_of(tris, number, a, b)
    c = tris[t, (k + 2) % 3]
    tris[t, 0], tris[t, 1], tris[t, 2] = a, p, c
    tris[number, 0], tris[number, 1], tris[number, 2] = p, b, c
    return number + 1


@small
def _put_in(flat: Any, tris: Any, number: Any, p: Any) -> Any:
    """Split the triangle in which point p lies deepest into three, or into two with its neighbour where p is on their
    edge.
    """
    best, deepest, thin = 0, -np.inf, 0
    for t in range(number):
        a, b, c = tris[t, 0], tris[t, 1], tris[t, 2]
        area = _turn(flat, a, b, c)
        if area <= 0.0:
            continue
        x, y, z = _turn(flat, b, c, p), _turn(flat, c, a, p), _turn(flat, a, b, p)
        least = min(x, y, z)
        if least / area > deepest:
            best, deepest = t, least / area
            thin = 1 if least == x else 2 if least == y else 0  # the side that it is nearest to
    a, b, c = tris[best, thin], tris[best, (thin + 1) % 3], tris[best, (thin + 2) % 3]
    if deepest < 1e-9:
        other, k = _side_of(tris, number, b, a)
        if other >= 0:
            d = tris[other, (k + 2) % 3]
            tris[best, 0], tris[best, 1], tris[best, 2] = a, p, c
            tris[number, 0], tris[number, 1], tris[number, 2] = p, b, c
            tris[other, 0], tris[other, 1], tris[other, 2] = b, p, d
            tris[number + 1, 0], tris[number + 1, 1], tris[number + 1, 2] = p, a, d
            return number + 2
    tris[best, 0], tris[best, 1], tris[best, 2] = a, b, p
    tris[number, 0], tris[number, 1], tris[number, 2] = b, c, p
    tris[number + 1, 0], tris[number + 1, 1], tris[number + 1, 2] = c, a, p
    return number + 2


MOST_TURNS = 2_000
"""Times that edges are turned to make room for one line; where that is not enough, the points contradict each other."""


@compiled
def _linked(flat: Any, tris: Any, number: Any, a: Any, b: Any) -> Any:
    """Turn the edges that the line from a to b crosses until it is an edge itself; whether that came about."""
    if _side_of(tris, number, a, b)[0] >= 0 or _side_of(tris, number, b, a)[0] >= 0:
        return True
    queue = np.empty((MOST_TURNS + 3 * number, 2), dtype=np.int64)
    last = 0
    for t in range(number):
        for k in range(3):
            u, v = tris[t, k], tris[t, (k + 1) % 3]
            if u < v and _parts(flat, a, b, u, v):
                queue[last, 0], queue[last, 1] = u, v
                last += 1
    first, turns = 0, 0
    while first < last and turns < MOST_TURNS:
        u, v = queue[first, 0], queue[first, 1]
        first += 1
        turns += 1
        t, k = _side_of(tris, number, u, v)
        other, m = _side_of(tris, number, v, u)
        if t < 0 or other < 0:
            continue
        w, x = tris[t, (k + 2) % 3], tris[other, (m + 2) % 3]
        if _turn(flat, w, u, x) > 0 and _turn(flat, x, v, w) > 0:
            tris[t, 0], tris[t, 1], tris[t, 2] = w, u, x
            tris[other, 0], tris[other, 1], tris[other, 2] = x, v, w
            u, v = min(w, x), max(w, x)
            if not _parts(flat, a, b, u, v):
                continue
        # Not convex, or turned into another edge in the way: later again.
        queue[last, 0], queue[last, 1] = u, v
        last += 1
    return _side_of(tris, number, a, b)[0] >= 0 or _side_of(tris, number, b, a)[0] >= 0


@small
def _parts(flat: Any, a: Any, b: Any, u: Any, v: Any) -> Any:
    """Whether the edge from u to v goes through the line from a to b."""
    if u == a or u == b or v == a or v == b:
        return False
    return _turn(flat, a, b, u) * _turn(flat, a, b, v) < 0 and _turn(flat, u, v, a) * _turn(flat, u, v, b) < 0
