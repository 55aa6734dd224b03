"""Signed distances from points to a mesh, mm, negative inside: its nearest triangle, and the sign by the angle-weighted
normal of the feature that is nearest (Bærentzen & Aanæs 2005).
"""

from __future__ import annotations

from functools import cached_property
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import compiled, prange, small, spread
from noble_clay.core.mesh.box_tree import Tree
from noble_clay.core.mesh.half_edges import across
from noble_clay.core.mesh.mesh import Floats, Mesh, double_normals
from noble_clay.core.mesh.nearest import Nearest
from noble_clay.core.mesh.winding import Winding

SLIVER = 1e-6
"""Height of a triangle, as a share of its longest side, below which its normal is noise."""


ON_SURFACE = 1e-3
"""Points this near to the surface take the normal of their triangle, mm."""


class Distance(Protocol):
    def __call__(self, points: Floats) -> Floats:
        """(n,) signed distances of points (n, 3)."""
        ...


class MeshDistance:
    """To a closed mesh. self_intersecting: it may cross itself a little; then the winding number tells the side of what
    lies beside a crossing.
    """

    def __init__(self, mesh: Mesh, self_intersecting: bool = False) -> None:
        self.mesh = mesh
        self._self_intersecting = self_intersecting

    @cached_property
    def _boxes(self) -> Tree:
        return Tree.of(self.mesh)

    @cached_property
    def _nearest(self) -> Nearest:
        return Nearest(self.mesh, self._boxes)

    @cached_property
    def winding(self) -> Winding:
        return Winding(self.mesh, self._boxes)

    @cached_property
    def _normals(self) -> _Normals:
        return _Normals(self.mesh)

    @cached_property
    def _delicate(self) -> NDArray[np.bool_]:
        """(m,) triangles that share a vertex with one too thin to have a normal, or lie within two of one that crosses
        another: there the winding number decides.
        """
        across = np.sqrt((double_normals(self.mesh) ** 2).sum(axis=0))
        corners = self.mesh.corners
        longest = ((corners - np.roll(corners, -1, axis=1)) ** 2).sum(axis=2).max(axis=1)
        found = _with_neighbours(self.mesh, across <= SLIVER * longest)
        if self._self_intersecting:
            from noble_clay.core.mesh.crossings import crossing_pairs

            crossed: NDArray[np.bool_] = np.zeros(len(self.mesh.triangles), dtype=np.bool_)
            crossed[crossing_pairs(self.mesh)] = True
            found |= _with_neighbours(self.mesh, _with_neighbours(self.mesh, crossed))
        return found

    def __call__(self, points: Floats) -> Floats:
        return self.nearest(points)[0]

    def nearest(self, points: Floats) -> tuple[Floats, NDArray[np.int64]]:
        """(n,) signed distances and (n,) the triangles that are nearest."""
        distances, triangle, _ = self._to_feet(points)
        return distances, triangle

    def rising(self, points: Floats) -> tuple[Floats, Floats]:
        """(n,) signed distances and (n, 3) the way in which each grows fastest, of length 1."""
        distances, triangle, foot = self._to_feet(points)
        on_it = np.abs(distances) < ON_SURFACE
        ways = (points - foot) / np.where(on_it, 1.0, distances)[:, None]
        ways[on_it] = self._normals.all[0][triangle[on_it]]
        return distances, ways

    def _to_feet(self, points: Floats) -> tuple[Floats, NDArray[np.int64], Floats]:
        """As `nearest`, and (n, 3) the nearest points."""
        squared, triangle, foot = self._nearest.to(points)
        away = points - foot
        sides = _sides(away, foot, triangle, self.mesh.vertices, self.mesh.triangles, *self._normals.all)
        unsure = np.flatnonzero(self._delicate[triangle])
        if len(unsure):
            inside = self.winding.numbers(points[unsure]) > 0.5
            sides[unsure] = np.where(inside, -1.0, 1.0)
        return np.sqrt(squared) * sides, np.asarray(triangle, dtype=np.int64), foot

    def unsigned_distance(self, points: Floats) -> tuple[Floats, NDArray[np.int64]]:
        """(n,) how far points are from the surface, on either side, and (n,) the triangles that are nearest."""
        squared, triangle, _ = self._nearest.to(points)
        return np.sqrt(squared), triangle

    def face_normals(self, points: Floats) -> Floats:
        """(n, 3) the unit normals of the triangles that are nearest; zero for one without area."""
        found: Floats = self._normals.all[0][self.unsigned_distance(points)[1]]
        return found

    def closest_points(self, points: Floats) -> Floats:
        """(n, 3) the points of the surface that are nearest."""
        return self._nearest.to(points)[2]


def _with_neighbours(mesh: Mesh, some: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(m,) some triangles (m,), and all that share a vertex with one of them."""
    touched: NDArray[np.bool_] = np.zeros(len(mesh.vertices), dtype=np.bool_)
    touched[mesh.triangles[some]] = True
    found: NDArray[np.bool_] = np.any(touched[mesh.triangles], axis=1)
    return found


class _Normals:
    """Normals of faces (m, 3), of the edge after each corner (3m, 3), and of vertices (n, 3), for the sign."""

    def __init__(self, mesh: Mesh) -> None:
        faces, corners = _turned(mesh.vertices, mesh.triangles)
        edges = faces[:, None, :] + faces[across(mesh.triangles, len(mesh.vertices))]
        self.all = faces, edges.reshape(-1, 3), corners


@compiled
def _turned(vertices: Any, triangles: Any) -> Any:
    """Normals of faces (m, 3), of length 1 or 0, and of vertices (n, 3), weighted by the angles of the faces there."""
    faces, corners = np.zeros((len(triangles), 3)), np.zeros((len(vertices), 3))
    sides, squared = np.empty((3, 3)), np.empty(3)
    for t in range(len(triangles)):
        for corner in range(3):
            a, b = triangles[t, corner], triangles[t, (corner + 1) % 3]
            squared[corner] = 0.0
            for k in range(3):
                sides[corner, k] = vertices[b, k] - vertices[a, k]
                squared[corner] += sides[corner, k] ** 2
        length = 0.0
        for k in range(3):
            one, two = (k + 1) % 3, (k + 2) % 3
            faces[t, k] = sides[0, one] * sides[1, two] - sides[0, two] * sides[1, one]
            length += faces[t, k] ** 2
        if length > 0:
            for k in range(3):
                faces[t, k] /= np.sqrt(length)
        for corner in range(3):
            before = (corner + 2) % 3
            along = 0.0
            for k in range(3):
                along -= sides[corner, k] * sides[before, k]
            lengths = np.sqrt(squared[corner] * squared[before])
            angle = np.arccos(min(1.0, max(-1.0, along / lengths))) if lengths > 0 else np.pi / 2
            for k in range(3):
                corners[triangles[t, corner], k] += angle * faces[t, k]
    return faces, corners


@spread
def _sides(
    away: Any, foot: Any, triangle: Any, vertices: Any, triangles: Any, faces: Any, edges: Any, corners: Any
) -> Any:
    """1 outside, -1 inside: by the normal of the face, edge or vertex on which the nearest point lies."""
    found = np.empty(len(away))
    for i in prange(len(away)):
        t = triangle[i]
        v, w = _weights(vertices, triangles, t, foot, i)
        u = 1 - v - w
        near = 1e-7
        along = _dot(away, i, faces, t)
        if u > 1 - near:
            along = _dot(away, i, corners, triangles[t, 0])
        elif v > 1 - near:
            along = _dot(away, i, corners, triangles[t, 1])
        elif w > 1 - near:
            along = _dot(away, i, corners, triangles[t, 2])
        elif w < near:
            along = _dot(away, i, edges, 3 * t)
        elif u < near:
            along = _dot(away, i, edges, 3 * t + 1)
        elif v < near:
            along = _dot(away, i, edges, 3 * t + 2)
        found[i] = -1.0 if along < 0 else 1.0
    return found


@small
def _weights(vertices: Any, triangles: Any, t: Any, foot: Any, i: Any) -> Any:
    """How much of the second and the third corner of a triangle there is in foot i; even, where it has no area."""
    a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
    pp = pq = qq = dp = dq = 0.0
    for k in range(3):
        p, q = vertices[b, k] - vertices[a, k], vertices[c, k] - vertices[a, k]
        d = foot[i, k] - vertices[a, k]
        pp, pq, qq = pp + p * p, pq + p * q, qq + q * q
        dp, dq = dp + d * p, dq + d * q
    whole = pp * qq - pq * pq
    if whole > 0:
        return (qq * dp - pq * dq) / whole, (pp * dq - pq * dp) / whole
    return 1 / 3, 1 / 3


@small
def _dot(one: Any, i: Any, other: Any, j: Any) -> Any:
    return one[i, 0] * other[j, 0] + one[i, 1] * other[j, 1] + one[i, 2] * other[j, 2]
