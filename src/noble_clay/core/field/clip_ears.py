"""Flat pieces with few corners filled by triangles, one ear after the other."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small

THIN = 1e-9
"""Twice the area of an ear to its longest side squared below which it is none."""

MOST_CLIPPED = 48
"""Corners of a piece that are clipped one by one; the kernel fills larger ones, and those with holes."""


@compiled
def clipped(keys: Any, points: Any, starts: Any, triangle: Any, normals: Any) -> Any:
    """Pieces filled by clipping their ears, the best first: (m, 3) triangles, (m,) of which triangle they are, and the
    pieces that are left: large ones, and all of triangles that have pieces with holes.
    """
    pieces = len(starts) - 1
    left = np.zeros(pieces, dtype=np.bool_)
    flat = np.empty((MOST_CLIPPED, 2))
    n = 0
    while n < pieces:
        end = n
        whole = True
        while end < pieces and triangle[end] == triangle[n]:
            size = starts[end + 1] - starts[end]
            if size > MOST_CLIPPED:
                whole = False
            else:
                _flat(points, starts[end], size, normals[triangle[n]], flat)
                area = 0.0
                for k in range(size):
                    i, j = flat[k], flat[(k + 1) % size]
                    area += i[0] * j[1] - i[1] * j[0]
                if area < 0:
                    whole = False
            end += 1
        left[n:end] = not whole
        n = end
    total = 0
    for n in range(pieces):
        if not left[n]:
            total += starts[n + 1] - starts[n] - 2
    found, of = np.empty((total, 3), dtype=np.int64), np.empty(total, dtype=np.int64)
    ring = np.empty(MOST_CLIPPED, dtype=np.int64)
    at = 0
    for n in range(pieces):
        if left[n]:
            continue
        size = starts[n + 1] - starts[n]
        if size > 3:
            _flat(points, starts[n], size, normals[triangle[n]], flat)
        for k in range(size):
            ring[k] = k
        while size > 3:
            best, which = -np.inf, 0
            for k in range(size):
                quality = _ear(flat, ring, size, k)
                if quality > best:
                    best, which = quality, k
            for k, corner in enumerate((which - 1, which, which + 1)):
                found[at, k] = keys[starts[n] + ring[corner % size]]
            of[at] = triangle[n]
            at += 1
            for k in range(which, size - 1):
                ring[k] = ring[k + 1]
            size -= 1
        for k in range(3):
            found[at, k] = keys[starts[n] + ring[k]]
        of[at] = triangle[n]
        at += 1
    return found, of, np.flatnonzero(left)


@small
def _flat(points: Any, start: Any, size: Any, normal: Any, flat: Any) -> None:
    axis = 0
    for other in (1, 2):
        if abs(normal[other]) > abs(normal[axis]):
            axis = other
    b, c = (axis + 1) % 3, (axis + 2) % 3
    if normal[axis] < 0:
        b, c = c, b
    for k in range(size):
        flat[k, 0], flat[k, 1] = points[start + k, b], points[start + k, c]


@small
def _ear(flat: Any, ring: Any, size: Any, k: Any) -> Any:
    """How well shaped the ear at a corner is: its area to its longest side squared; negative where it is none."""
    i, j, h = ring[(k - 1) % size], ring[k], ring[(k + 1) % size]
    ax, ay, bx, by, cx, cy = flat[i, 0], flat[i, 1], flat[j, 0], flat[j, 1], flat[h, 0], flat[h, 1]
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    longest = max((bx - ax) ** 2 + (by - ay) ** 2, (cx - bx) ** 2 + (cy - by) ** 2, (ax - cx) ** 2 + (ay - cy) ** 2)
    quality = area / longest if longest > 0 else 0.0
    if quality <= THIN:
        return quality - 1.0 if quality < -THIN else quality
    for other in range(size):
        p = ring[other]
        if p in (i, j, h):
            continue
        x, y = flat[p, 0], flat[p, 1]
        if (
            (bx - ax) * (y - ay) - (by - ay) * (x - ax) >= 0
            and (cx - bx) * (y - by) - (cy - by) * (x - bx) >= 0
            and (ax - cx) * (y - cy) - (ay - cy) * (x - cx) >= -THIN * longest
            and not (x == ax and y == ay)
            and not (x == bx and y == by)
            and not (x == cx and y == cy)
        ):
            return quality - 2.0
    return quality
