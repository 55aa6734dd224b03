"""A surface with its triangles cut along parallel planes: so that there are corners to move between them."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.mesh.gather import spans
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import ROUNDING


def sliced(mesh: Mesh, axis: int, cuts: Floats, slack: float = ROUNDING) -> tuple[Mesh, Ints]:
    """The same surface with its triangles cut where they cross the planes at `cuts` (k,), ascending, along `axis`, and
    of which triangle each of its own is a piece.

    What of a triangle lies between two planes becomes two, or three beside its middle corner: a triangle across k
    planes 2 k + 2 at most. The mesh stays closed: an edge is cut at the same points for both its triangles. slack: mm;
    a corner this near a plane counts as on it, so that nothing shorter is cut off.
    """
    if len(cuts) == 0:
        return mesh, np.arange(len(mesh.triangles))
    level = _levels(mesh.vertices[:, axis], cuts, slack)
    rank = np.argsort(level[mesh.triangles], axis=1, kind="stable")
    ordered = np.take_along_axis(mesh.triangles, rank, axis=1)
    first, last = _planes_between(level[ordered[:, 0]], level[ordered[:, 2]])
    crossing = np.flatnonzero(last > first)
    if len(crossing) == 0:
        return mesh, np.arange(len(mesh.triangles))
    turned = (rank[crossing, 1] - rank[crossing, 0]) % 3 == 2
    low, middle, high = ordered[crossing].T
    first, last = first[crossing], last[crossing]
    sides = np.stack([low, high, low, middle, middle, high], axis=1).reshape(-1, 3, 2)
    points = _Points(mesh, axis, cuts, level, sides)

    # One strip below each plane that a triangle crosses, and one above the last.
    strips = last - first + 1
    of = np.repeat(np.arange(len(crossing)), strips)
    plane = spans(first, strips)
    bottom, top = plane == first[of], plane == last[of]
    below, above = np.where(bottom, plane, plane - 1), np.where(top, plane - 1, plane)
    left = [np.where(bottom, low[of], points.at(0, of, below)), np.where(top, high[of], points.at(0, of, above))]
    right = [
        np.where(bottom, low[of], _beside(points, of, below, middle, level)),
        np.where(top, high[of], _beside(points, of, above, middle, level)),
    ]
    corner, at = middle[of], level[middle[of]]
    holds = (bottom | (2 * below + 1 < at)) & (top | (at < 2 * above + 1))

    across = np.linalg.norm(points.every[left[0]] - points.every[right[1]], axis=1)
    straight = np.linalg.norm(points.every[right[0]] - points.every[left[1]], axis=1) < across
    plain, other = ~holds & ~straight, ~holds & straight
    pieces = [
        (plain & ~bottom, (left[0], right[0], right[1])),
        (plain & ~top, (left[0], right[1], left[1])),
        (other & ~bottom, (left[0], right[0], left[1])),
        (other & ~top, (right[0], right[1], left[1])),
        (holds & ~bottom, (left[0], right[0], corner)),
        (holds, (left[0], corner, left[1])),
        (holds & ~top, (corner, right[1], left[1])),
    ]
    cut = np.concatenate([np.column_stack([c[some] for c in corners]) for some, corners in pieces])
    origin = np.concatenate([of[some] for some, _ in pieces])
    cut = np.where(turned[origin, None], cut[:, ::-1], cut)
    whole = np.ones(len(mesh.triangles), dtype=bool)
    whole[crossing] = False
    triangles = np.concatenate([mesh.triangles[whole], cut])
    return Mesh(points.every, triangles), np.concatenate([np.flatnonzero(whole), crossing[origin]])


def _levels(height: Floats, cuts: Floats, slack: float) -> Ints:
    """(n,) where each height lies: 2 j + 1 for one on the j-th plane, 2 j for one between it and the one before."""
    below = np.searchsorted(cuts, height)
    nearest = np.clip(below, 0, len(cuts) - 1)
    before = np.clip(below - 1, 0, len(cuts) - 1)
    nearest = np.where(np.abs(cuts[before] - height) < np.abs(cuts[nearest] - height), before, nearest)
    found: Ints = np.where(np.abs(cuts[nearest] - height) < slack, 2 * nearest + 1, 2 * below)
    return found


def _planes_between(low: Ints, high: Ints) -> tuple[Ints, Ints]:
    """The first of the planes strictly between two levels, and the one after the last."""
    return (low + 1) // 2, high // 2


class _Points:
    """every: (n, 3) the mesh's vertices, and after them the points where edges cross planes.

    sides: (m, 3, 2) the ends of the edges of triangles.
    """

    def __init__(self, mesh: Mesh, axis: int, cuts: Floats, level: Ints, sides: Ints) -> None:
        number = len(mesh.vertices)
        ends = np.sort(sides.reshape(-1, 2), axis=1)
        codes, index = np.unique(ends[:, 0] * number + ends[:, 1], return_inverse=True)
        self._edge = index.reshape(-1, 3)
        start, end = np.divmod(codes, number)
        self._first, last = _planes_between(*np.sort([level[start], level[end]], axis=0))
        count = np.maximum(last - self._first, 0)
        self._begins = number + np.cumsum(count) - count
        of = np.repeat(np.arange(len(codes)), count)
        plane = spans(self._first, count)
        one, other, at = mesh.vertices[start[of]], mesh.vertices[end[of]], cuts[plane]
        share = (at - one[:, axis]) / (other[:, axis] - one[:, axis])
        points = one + share[:, None] * (other - one)
        points[:, axis] = at
        self.every = np.concatenate([mesh.vertices, points])

    def at(self, which: int, triangle: Ints, plane: Ints) -> Any:
        """(k,) the points where edges cross planes. which: of a triangle's edges. Of no meaning where they do not."""
        edge = self._edge[triangle, which]
        return np.clip(self._begins[edge] + plane - self._first[edge], 0, len(self.every) - 1)


def _beside(points: _Points, triangle: Ints, plane: Ints, middle: Ints, level: Ints) -> Any:
    """(k,) where planes meet the two edges by a triangle's middle corner, or that corner itself."""
    at = level[middle[triangle]]
    edge = np.where(2 * plane + 1 < at, points.at(1, triangle, plane), points.at(2, triangle, plane))
    return np.where(2 * plane + 1 == at, middle[triangle], edge)
