"""Which part of a solid is nearest to a point: so a surface that is built anew keeps its parts."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.gather import spans
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints
from noble_clay.core.mesh.nearest import Nearest

ON_SIDE = 1e-6
"""Share of a corner below which a point of a triangle lies on the side across from it."""


class NearestParts:
    """Of a solid. Where an edge or a corner between parts is what is nearest, all of them are: then it is the one whose
    face looks most along the way to the point, so that the line between two runs where both do alike.
    """

    def __init__(self, solid: Solid) -> None:
        self._one = len(solid.part_names) == 1
        if not self._one:
            self._mesh, self._part_of, _ = solid.mesh_with_parts()
            self._nearest = Nearest(self._mesh)

    def __call__(self, points: Floats) -> Ints:
        """(n,) for points (n, 3), which of the solid's `part_names` is nearest."""
        if self._one:
            return np.zeros(len(points), dtype=np.int64)
        _, triangle, foot = self._nearest.to(points)
        found = self._part_of[triangle]
        near = np.flatnonzero(self._between[self._mesh.triangles[triangle]].any(axis=1))
        found[near] = self._facing(points[near] - foot[near], triangle[near], foot[near])
        return found

    @cached_property
    def _between(self) -> NDArray[np.bool_]:
        """(v,) vertices of several parts."""
        low, high = np.full(len(self._mesh.vertices), len(self._part_of)), np.full(len(self._mesh.vertices), -1)
        corners, part = self._mesh.triangles.reshape(-1), np.repeat(self._part_of, 3)
        np.minimum.at(low, corners, part)
        np.maximum.at(high, corners, part)
        found: NDArray[np.bool_] = low < high
        return found

    @cached_property
    def _around(self) -> tuple[Ints, Ints]:
        """Corners of triangles, numbered through, in the order of their vertices, and where in that each begins."""
        corners = self._mesh.triangles.reshape(-1)
        order = np.argsort(corners, kind="stable")
        return order, np.searchsorted(corners[order], np.arange(len(self._mesh.vertices) + 1))

    @cached_property
    def _normals(self) -> Floats:
        return normals(self._mesh)

    def _facing(self, way: Floats, triangle: Ints, foot: Floats) -> Ints:
        """(n,) of the triangles that have the nearest point `foot` (n, 3) as one of their own, the part of the one that
        looks most along `way` (n, 3) or against it. triangle: (n,) one of them.
        """
        corners = self._mesh.triangles[triangle]
        on = _shares(self._mesh.vertices[corners], foot) > ON_SIDE
        first = corners[np.arange(len(on)), np.argmax(on, axis=1)]
        order, starts = self._around
        several = np.where(on.all(axis=1), 0, starts[first + 1] - starts[first])
        of = np.repeat(np.arange(len(on)), several)
        beside = order[spans(starts[first], several)] // 3
        # An edge is only in those triangles around its first end that have the second, too.
        second = np.where(on.sum(axis=1) == 2, corners[np.arange(len(on)), 2 - np.argmax(on[:, ::-1], axis=1)], first)
        has = (self._mesh.triangles[beside] == second[of, None]).any(axis=1)
        of, beside = of[has], beside[has]
        looks = np.abs(np.einsum("ij,ij->i", self._normals[beside], way[of]))
        found = self._part_of[triangle]
        best = np.lexsort((looks, of))
        last = np.flatnonzero(np.append(np.diff(of[best]) != 0, True))[: len(best)]
        found[of[best[last]]] = self._part_of[beside[best[last]]]
        return found


def _shares(corners: Floats, points: Floats) -> Floats:
    """(n, 3) how much of each corner (n, 3, 3) of a triangle there is in a point (n, 3) of it; ones, where it has no
    area.
    """
    a, b, c = np.moveaxis(corners, 1, 0)
    areas = [np.linalg.norm(np.cross(p - points, q - points), axis=1) for p, q in ((b, c), (c, a), (a, b))]
    found = np.column_stack(areas)
    whole = found.sum(axis=1, keepdims=True)
    return np.where(whole > 0, found / np.where(whole > 0, whole, 1), 1.0)
