"""Points that lie within a hair of each other, though no edge links them, moved apart or made one: the mesh, once moved
or rounded elsewhere, would be stuck together there.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from noble_clay.core.mend.known_crossings import crossings_since
from noble_clay.core.mend.small_changes import KNOTS, short_of, with_one_point
from noble_clay.core.mend.window import Window
from noble_clay.core.mesh.close_points import DIRECTION, near_pairs
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import distinct, lowest_of_components, unique_rows
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology

APART, FARTHER = 8.0, 12.0
"""Slacks: points nearer than the first would be stuck, and are moved by the second in all."""

MOST = 200
"""Pairs that are worth being parted, one after the other."""


def held_apart(mesh: Mesh) -> tuple[Mesh, bool]:
    """The mesh with such points apart, and whether they all are. Nothing is done that would make it cross itself, open
    or pinch it.
    """
    near = _near(mesh)
    if len(near) == 0 or len(near) > MOST:
        return mesh, len(near) == 0
    for pair in near:
        at = np.any(np.isin(mesh.triangles, pair), axis=1)
        if not np.isin(pair, mesh.triangles[at]).all():
            continue  # one of them is of a knot that is one point now
        window = Window.about(mesh, at, 0)
        found = _parted(window, np.searchsorted(window.used, pair))
        mesh = mesh if found is None else window.put_back(found)
    return mesh.compact(), len(_near(mesh)) == 0


def _parted(window: Window, pair: Ints) -> Mesh | None:
    """The window's mesh with the least change that leaves fewer such pairs in it and crosses nothing; None for none."""
    before, crossed = len(_near(window.mesh)), crossing_pairs(window.mesh)
    for found in _changes(window.mesh, pair):
        better = len(_near(found)) < before and window.takes(found)
        if better and len(crossings_since(window.mesh, crossed, found)) <= len(crossed):
            return found
    return None


def _near(mesh: Mesh) -> Ints:
    """(k, 2) vertices of triangles so near each other, without an edge."""
    used = distinct(mesh.triangles)
    points = mesh.vertices[used]
    near = near_pairs(points, points @ DIRECTION, APART * slack_of(mesh))
    if len(near) == 0:
        return near
    near = unique_rows(np.sort(used[near], axis=1))
    code = len(mesh.vertices)
    low, high = Topology(mesh).edges.T
    return near[~np.isin(near[:, 0] * code + near[:, 1], low * code + high)]


def _changes(mesh: Mesh, pair: Ints) -> Iterator[Mesh]:
    """The two moved, or one of them, so far in all that they are apart; then those with all that hangs on them one."""
    off = mesh.vertices[pair] - mesh.vertices[pair[::-1]]
    for ways in (off, -_around(mesh, pair, normals(mesh)[:, None, :]), _around(mesh, pair, _inward(mesh))):
        ways = ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), SOME)
        for moved in ([0, 1], [0], [1]):
            points = mesh.vertices.copy()
            points[pair[moved]] += FARTHER / len(moved) * slack_of(mesh) * ways[moved]
            yield Mesh(points, mesh.triangles)
    edges = Topology(mesh).edges
    for most in KNOTS:
        ties = np.concatenate([short_of(mesh, edges, most * slack_of(mesh)), pair[None]])
        knot = lowest_of_components(len(mesh.vertices), ties)
        yield with_one_point(mesh, np.where(knot == knot[pair[0]], pair[0], np.arange(len(knot))))


def _around(mesh: Mesh, pair: Ints, ways: Floats) -> Floats:
    """(2, 3) the sums, over the corners of triangles at each of two vertices, of ways (m, 3, 3), or (m, 1, 3)."""
    at = mesh.triangles[:, :, None] == pair
    return np.einsum("mkp,mki->pi", at, np.broadcast_to(ways, mesh.corners.shape))


def _inward(mesh: Mesh) -> Floats:
    """(m, 3, 3) from every corner to the middle of its triangle: at the tip of a thorn into the thorn."""
    corners = mesh.corners
    found: Floats = corners.mean(axis=1, keepdims=True) - corners
    return found
