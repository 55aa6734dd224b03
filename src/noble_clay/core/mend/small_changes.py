"""Changes too small to be seen that may take two crossing triangles out of each other, the least first."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import lowest_of_components
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.written import not_cancelled

HAIRS = 4.0, 16.0
"""Slacks by which points are moved."""

FLAT = 32.0
"""Slacks: two triangles are in one plane, so that the edge between them may be turned, to so much."""

KNOTS = 32.0, 256.0, 2048.0
"""Slacks: edges so short are contracted, and slivers so high turned; the last is half a thousandth of the size."""


def small_changes(mesh: Mesh, pair: Ints) -> Iterator[Mesh]:
    """Of two triangles (2,) that cross: points moved by hairs, edges and slivers turned, short edges contracted."""
    slack = slack_of(mesh)
    for hair in HAIRS:
        for corners, way in _moves(mesh, pair):
            points = mesh.vertices.copy()
            points[corners] += hair * slack * way
            yield Mesh(points, mesh.triangles)
    edges = Topology(mesh).edges
    yield from _turned(mesh, pair, edges, FLAT * slack)
    near = np.flatnonzero(np.isin(mesh.triangles, mesh.triangles[pair]).any(axis=1))
    for knot in KNOTS:
        turned, done = turn_slivers(mesh, near, knot * slack)
        if done.count:
            yield turned
        short = short_of(mesh, edges[np.isin(edges, mesh.triangles[near]).all(axis=1)], knot * slack)
        yield with_one_point(mesh, lowest_of_components(len(mesh.vertices), short))


def _moves(mesh: Mesh, pair: Ints) -> Iterator[tuple[Ints, Floats]]:
    """Which vertices, and each time the unit vectors along which: one or all that a triangle has alone, off the plane
    of the other, and into their own triangle.
    """
    out = normals(mesh)
    for one, other in (pair, pair[::-1]):
        alone = np.setdiff1d(mesh.triangles[one], mesh.triangles[other])
        for corners in (*alone[:, None], alone):
            for side in (1.0, -1.0):
                yield corners, side * out[other]
        for corner in alone:
            inward = mesh.vertices[mesh.triangles[one]].mean(axis=0) - mesh.vertices[corner]
            yield corner[None], inward / max(float(np.linalg.norm(inward)), SOME)


def _turned(mesh: Mesh, pair: Ints, edges: Ints, flat: float) -> Iterator[Mesh]:
    """Edges of the two, between triangles that are flat to so many mm, laid across the two as seen the other way."""
    out = normals(mesh)
    known = {(int(a), int(b)) for a, b in edges}
    for face in pair:
        for k in range(3):
            start, end, apex = (int(mesh.triangles[face, (k + i) % 3]) for i in range(3))
            back = (mesh.triangles == end) & (np.roll(mesh.triangles, -1, axis=1) == start)
            beside = np.flatnonzero(back.any(axis=1))
            if len(beside) != 1:
                continue
            far = int(mesh.triangles[beside[0]].sum()) - start - end
            if far == apex or (min(apex, far), max(apex, far)) in known:
                continue
            if abs((mesh.vertices[far] - mesh.vertices[start]) @ out[face]) > flat:
                continue
            triangles = mesh.triangles.copy()
            triangles[face], triangles[beside[0]] = (start, far, apex), (far, end, apex)
            yield Mesh(mesh.vertices, triangles)


def short_of(mesh: Mesh, edges: Ints, most: float) -> Ints:
    """(k, 2) those of some edges that are no longer than so many mm."""
    ends = mesh.vertices[edges]
    return np.ascontiguousarray(edges[np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) <= most])


def with_one_point(mesh: Mesh, point: Ints) -> Mesh:
    """The mesh with each vertex made the one that `point` (n,) names, without the triangles which that closes up."""
    triangles = point[mesh.triangles]
    a, b, c = triangles.T
    triangles = triangles[(a != b) & (b != c) & (c != a)]
    return Mesh(mesh.vertices, triangles[not_cancelled(triangles)])
