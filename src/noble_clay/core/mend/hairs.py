"""What a union leaves where faces met at a hair's angle: edges no longer than a few hairs are contracted, and slivers
no higher turned.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.small_changes import short_of, with_one_point
from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import equal_corners, lowest_of_components
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.topology import Topology

SHORT, THIN, ROUNDS = 24.0, 8.0, 6
"""Slacks: edges shorter than that are contracted, and triangles less high are turned; and times that it is tried with
less, each a quarter as long, where it does harm.
"""


def without_hairs(mesh: Mesh, given: Mesh) -> Mesh:
    """The mesh without short edges and slivers that mending made, but for those where that would do harm. Such as have
    all their corners among the points of what was given stay.
    """
    return _without_slivers(_without_short_edges(mesh, given), given)


def _without_short_edges(mesh: Mesh, given: Mesh) -> Mesh:
    edges = Topology(mesh).edges
    short = short_of(mesh, edges[~_are_given(mesh, given)[edges].all(axis=1)], SHORT * slack_of(mesh))
    length = np.linalg.norm(mesh.vertices[short[:, 0]] - mesh.vertices[short[:, 1]], axis=1)
    most, before = np.full(len(short), SHORT * slack_of(mesh)), _wrong(mesh) if len(short) else []
    for _ in range(ROUNDS):
        now = np.ascontiguousarray(short[length <= most])
        if len(now) == 0:
            break
        knot = lowest_of_components(len(mesh.vertices), now)
        found = with_one_point(mesh, knot)
        harmed = _harmed(found, before)
        if len(harmed) == 0:
            return found
        most[np.isin(knot[short[:, 0]], harmed)] /= 4
    return mesh


def _without_slivers(mesh: Mesh, given: Mesh) -> Mesh:
    new = ~_are_given(mesh, given)[mesh.triangles].all(axis=1)
    before = _wrong(mesh)
    for _ in range(ROUNDS):
        found, done = turn_slivers(mesh, np.flatnonzero(new), THIN * slack_of(mesh))
        if done.count == 0:
            break
        harmed = _harmed(found, before)
        if len(harmed) == 0:
            return found
        new &= ~np.isin(mesh.triangles, harmed).any(axis=1)
    return mesh


def _are_given(mesh: Mesh, given: Mesh) -> NDArray[np.bool_]:
    """(n,) which vertices are points of what was given."""
    index, _ = equal_corners(np.concatenate([given.vertices, mesh.vertices]))
    return np.isin(index[len(given.vertices) :], index[: len(given.vertices)])


def _harmed(mesh: Mesh, before: list[Ints]) -> Ints:
    """The points where something is wrong with a mesh, of kinds of which there was less `before` (as of `_wrong`)."""
    more = [w for w, was in zip(_wrong(mesh), before, strict=True) if len(w) > len(was)]
    return np.concatenate(more) if more else np.zeros(0, dtype=np.int64)


def _wrong(mesh: Mesh) -> list[Ints]:
    """Points of triangles that cross, of edges that are open or have more than two faces, and pinched ones."""
    topology = Topology(mesh)
    odd = topology.edges[topology.faces_per_edge != 2]
    return [mesh.triangles[known_crossings(mesh)].reshape(-1), odd.reshape(-1), topology.pinched]
