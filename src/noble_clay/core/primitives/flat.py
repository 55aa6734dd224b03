"""Any flat outline with holes and islands, given a height: closed and turned outward by construction."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from manifold3d import triangulate

from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.primitives.base import at_height


def extruded(rings: Sequence[Floats], low: float, high: float) -> Mesh:
    """The area within the rings, from the height `low` to `high`, mm.

    rings: (n, 2) each, n > 2, in any direction; what lies in an odd number of them is inside, so a ring within another
    is a hole, and one within that an island. The points of the mesh are those of the rings, twice. Raises ValueError,
    in the maker's words, for rings that cross each other or themselves, or enclose nothing.
    """
    turned = turned_rings(rings)
    points = np.concatenate(turned)
    number = len(points)
    cap = cap_of(turned)
    starts = np.cumsum([0, *(len(r) for r in turned)])[:-1]
    sides = [_wall(start, len(ring), number) for start, ring in zip(starts, turned, strict=True)]
    vertices = np.concatenate([at_height(points, z) for z in (low, high)])
    return Mesh(vertices, np.concatenate([cap[:, ::-1], cap + number, *sides]))


def cap_of(rings: Sequence[Floats]) -> Ints:
    """(m, 3) triangles over all points of rings, outer ones counter-clockwise, holes clockwise. Raises ValueError where
    they cross.
    """
    cap: Ints = np.array(triangulate([np.ascontiguousarray(r) for r in rings]), dtype=np.int64).reshape(-1, 3)
    area = sum(signed_area(r) for r in rings)
    covered = np.abs(_double_areas(np.concatenate(rings)[cap])).sum() / 2
    if len(cap) == 0 or abs(covered - area) > HAIR * max(area, HAIR):
        raise ValueError("the outline crosses itself")
    return cap


def signed_area(ring: Floats) -> float:
    """mm², above 0 for a ring that runs counter-clockwise (the shoelace formula)."""
    x, y = (ring - ring[0]).T
    return float(x[:-1] @ y[1:] - y[:-1] @ x[1:] + x[-1] * y[0] - y[-1] * x[0]) / 2


def _double_areas(corners: Floats) -> Floats:
    """(m,) of triangles (m, 3, 2)."""
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    found: Floats = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    return found


def turned_rings(rings: Sequence[Floats]) -> list[Floats]:
    """Each ring counter-clockwise where it stands in an even number of others, else clockwise."""
    found = []
    for index, ring in enumerate(rings):
        area = signed_area(ring)
        if len(ring) < 3 or abs(area) < HAIR**2:
            raise ValueError("the outline encloses nothing")
        around = sum(_holds(other, ring[0]) for k, other in enumerate(rings) if k != index)
        found.append(ring if (area > 0) == (around % 2 == 0) else ring[::-1])
    return found


def _holds(ring: Floats, point: Floats) -> bool:
    """Whether a point lies within a ring: a ray from it along x crosses the ring an odd number of times."""
    here, there = ring, np.roll(ring, -1, axis=0)
    passes = (here[:, 1] > point[1]) != (there[:, 1] > point[1])
    rise = np.where(passes, there[:, 1] - here[:, 1], 1.0)
    at = here[:, 0] + (point[1] - here[:, 1]) / rise * (there[:, 0] - here[:, 0])
    return bool(np.count_nonzero(passes & (at > point[0])) % 2)


def _wall(start: int, count: int, above: int) -> Ints:
    """(2 count, 3) triangles of the wall over a ring whose points count on from `start`, and again from `above` on."""
    here = start + np.arange(count)
    there = start + (np.arange(count) + 1) % count
    return np.concatenate(
        [np.column_stack([here, there, there + above]), np.column_stack([here, there + above, here + above])]
    )
