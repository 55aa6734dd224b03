"""A solid's surface as files hold it: points rounded to float32, and what that closes up left out.

The same mesh is inspected, shown and written, so that what is told of a piece is told of its file. Rounding brings
points together that were apart by less than a step of a float32; a sliver of solid or of air between them becomes two
layers of triangles on the same three points, turned against each other, and both go. Nothing is moved by more than the
rounding itself.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import equal_corners, row_codes
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import ROUNDING


@dataclass(frozen=True, eq=False)
class Written:
    """mesh: as a file has it. part_of: (m,) which part each triangle is of. merged: (k,) vertices that were several."""

    mesh: Mesh
    part_of: Ints
    merged: Ints


def written(mesh: Mesh, part_of: Ints) -> Written:
    """A closed mesh (m triangles), made by index, as a file has it. Vertices of what closes up become one; others that
    only come to lie on one point stay apart, as bodies that touch there do.
    """
    points = as_float32(mesh.vertices)
    index, firsts = equal_corners(points)
    nothing = np.zeros(0, dtype=np.int64)
    if len(firsts) == len(points):
        return Written(Mesh(points, mesh.triangles), part_of, nothing)
    met = np.bincount(index, minlength=len(firsts))[index] > 1
    near: NDArray[np.bool_] = np.any(met[mesh.triangles], axis=1)
    kept = _not_closed_up(index[mesh.triangles], near)
    if kept.all():
        return Written(Mesh(points, mesh.triangles), part_of, nothing)
    touched = np.zeros(len(points), dtype=bool)
    touched[mesh.triangles[~kept]] = True
    one = np.full(len(firsts), -1, dtype=np.int64)
    one[index[touched]] = np.flatnonzero(touched)
    to = np.where(touched, one[index], np.arange(len(points)))
    kept = _not_closed_up(to[mesh.triangles], near)
    used = np.zeros(len(points), dtype=bool)
    used[to[mesh.triangles[kept]]] = True
    several = np.bincount(to, minlength=len(points)) > 1
    left = Mesh(points, to[mesh.triangles[kept]]).compact()
    return Written(left, part_of[kept], np.flatnonzero(several[used]))


def _not_closed_up(triangles: Ints, near: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(m,) the triangles that neither name a point twice nor cancel another; only those `near` (m,) can."""
    kept = np.ones(len(triangles), dtype=bool)
    a, b, c = triangles[near].T
    kept[near] = (a != b) & (b != c) & (c != a)
    there = np.flatnonzero(near & kept)
    kept[there] = not_cancelled(triangles[there])
    return kept


PLACES = 6
"""Decimals of a mm that text in a 3MF has."""


def as_decimals(points: Floats) -> Floats:
    """Points (n, 3), mm, as a 3MF gives them back: `lib3mf` multiplies by a million in float32, cuts off what is
    not whole, and reads float32. Two points that are apart by a step of a float32 may have become one.
    """
    whole = np.trunc(points.astype(np.float32) * np.float32(10**PLACES)).astype(np.float64)
    return as_float32(whole / 10**PLACES)


def as_float32(points: Floats) -> Floats:
    """Points rounded to what a float32 holds. What is hardly more than nothing is nothing: around 0 a float32 would
    tell points apart that no other place could.
    """
    rounded: Floats = points.astype(np.float32).astype(np.float64) + 0.0
    rounded[np.abs(rounded) < ROUNDING] = 0.0
    return rounded


def in_float32(mesh: Mesh) -> Mesh:
    """The mesh with its points rounded so; those that fall together stay several."""
    return Mesh(as_float32(mesh.vertices), mesh.triangles)


def read_back(mesh: Mesh) -> Mesh:
    """The mesh as a file of triangles is read: vertices on one point are one."""
    index, firsts = equal_corners(mesh.vertices)
    return Mesh(mesh.vertices[firsts], index[mesh.triangles])


def as_filed(mesh: Mesh) -> Mesh:
    """The mesh with those vertices made one that lie on one point in a file of 32 bits; itself where none do."""
    index, firsts = equal_corners(as_float32(mesh.vertices))
    if len(firsts) == len(mesh.vertices):
        return mesh
    return Mesh(mesh.vertices[firsts], index[mesh.triangles])


def not_cancelled(triangles: Ints) -> NDArray[np.bool_]:
    """(m,) which triangles are left when, of those on the same three points, each cancels one turned the other way."""
    order = np.sort(triangles, axis=1)
    _, group, counts = np.unique(row_codes(order), return_inverse=True, return_counts=True)
    group = group.reshape(-1)
    left = counts[group] == 1
    doubled = np.flatnonzero(~left)
    if len(doubled) == 0:
        return left
    first = np.argmin(triangles[doubled], axis=1)
    turned = np.take_along_axis(triangles[doubled], (first[:, None] + np.arange(3)) % 3, axis=1)
    sign = np.where(turned[:, 1] < turned[:, 2], 1, -1)
    net = np.bincount(group[doubled], weights=sign, minlength=len(counts)).astype(np.int64)
    # Of each group as many stay as one way outnumbers the other, the first of them.
    rank = np.zeros(len(doubled), dtype=np.int64)
    for way in (1, -1):
        mine = np.flatnonzero(sign == way)
        by_group = mine[np.argsort(group[doubled[mine]], kind="stable")]
        starts = np.searchsorted(group[doubled[by_group]], group[doubled[by_group]], side="left")
        rank[by_group] = np.arange(len(by_group)) - starts
    of_group = net[group[doubled]]
    left[doubled] = (np.sign(of_group) == sign) & (rank < np.abs(of_group))
    return left
