"""Surfaces that go through a triangle just along one of their own edges, as a ball does whose equator lies in the top
of a box.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.cross import FIRST_ALONG, SECOND_ALONG
from noble_clay.core.mesh.mesh import Floats, Ints


def goes_through(
    points: Floats, triangles: Ints, normals: Floats, pairs: Ints, how: Ints, slack: float
) -> NDArray[np.bool_]:
    """(k,) in which of pairs (k, 2) of triangles, as `cross` judged them (k,), an edge of one runs along in the other
    and a triangle beyond that edge is on the other side. All as `cross` has it; slack: mm.
    """
    found = np.zeros(len(pairs), dtype=bool)
    for bit, order in ((SECOND_ALONG, pairs), (FIRST_ALONG, pairs[:, ::-1])):
        which = np.flatnonzero(how & bit)
        if len(which):
            through, along = np.ascontiguousarray(order[which].T)
            found[which] |= _is_beyond(points, triangles, normals, through, along, slack)
    return found


@compiled
def _is_beyond(points: Any, triangles: Any, normals: Any, through: Any, along: Any, slack: Any) -> Any:
    """(k,) whether the surface of which an edge runs along in a triangle `through` (k,), that of one triangle `along`
    (k,), goes on to the other side of it.
    """
    number = len(points)
    apex, side = np.zeros(len(through), dtype=np.int64), np.zeros(len(through))
    codes = np.zeros(len(through), dtype=np.int64)
    ends = np.zeros(number, dtype=np.bool_)
    for i in range(len(through)):
        alone, height = 0, 0.0
        for corner in range(3):
            over = _over(points, normals[through[i]], triangles[through[i], 0], triangles[along[i], corner])
            if abs(over) > abs(height):
                alone, height = corner, over
        apex[i], side[i] = triangles[along[i], alone], np.sign(height)
        a, b = triangles[along[i], (alone + 1) % 3], triangles[along[i], (alone + 2) % 3]
        codes[i] = min(a, b) * number + max(a, b)
        ends[a] = ends[b] = True
    order = np.argsort(codes)
    codes = codes[order]
    found = np.zeros(len(through), dtype=np.bool_)
    for t in range(len(triangles)):
        for corner in range(3):
            a, b, other = triangles[t, corner], triangles[t, (corner + 1) % 3], triangles[t, (corner + 2) % 3]
            if not (ends[a] and ends[b]):
                continue
            code = min(a, b) * number + max(a, b)
            at = np.searchsorted(codes, code)
            while at < len(codes) and codes[at] == code:
                i = order[at]
                over = _over(points, normals[through[i]], triangles[through[i], 0], other)
                if other != apex[i] and abs(over) > slack and np.sign(over) == -side[i]:
                    found[i] = True
                at += 1
    return found


@small
def _over(points: Any, normal: Any, foot: Any, vertex: Any) -> Any:
    """How far a vertex is over the plane through another, mm."""
    found = 0.0
    for k in range(3):
        found += normal[k] * (points[vertex, k] - points[foot, k])
    return found
