"""A small part of a mesh, cut loose to try changes in: what is done there costs what the part does, not the whole."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import compiled
from noble_clay.core.mesh.gather import connected_components, distinct
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology

ROOM = 0.25
"""Around what a window is opened about, of its size, within which patches may bulge."""


@dataclass(frozen=True, eq=False)
class Window:
    """The triangles `inside` (m,) of a whole that reach into a box (2, 3).

    mesh: those, over the points `used` of the whole and a last one that only gives its size, so that what is a hair
    there is one here. held: (n,) points that triangles beyond the window use as well.
    """

    whole: Mesh
    box: Floats
    inside: NDArray[np.bool_]
    used: Ints
    mesh: Mesh
    held: NDArray[np.bool_]

    @staticmethod
    def on(whole: Mesh, box: Floats) -> Window:
        inside: NDArray[np.bool_] = _reaching(whole.vertices, whole.triangles, box)
        used, local = np.unique(whole.triangles[inside], return_inverse=True)
        held = _touched(whole.triangles, ~inside, len(whole.vertices))
        points = whole.vertices[np.append(used, _farthest(whole.vertices))]
        return Window(whole, box, inside, used, Mesh(points, local.reshape(-1, 3)), np.append(held[used], True))

    @staticmethod
    def about(whole: Mesh, triangles: NDArray[np.bool_], rings: int) -> Window:
        """On all that a change of some triangles (m,), and so many rings around them, could meet."""
        return Window.on(whole, box_of(whole, with_rings(whole, triangles, rings), ROOM))

    @cached_property
    def _topology(self) -> Topology:
        return Topology(self.mesh)

    def takes(self, found: Mesh) -> bool:
        """Whether another mesh over the same points, and new ones, can stand in the window: nothing has moved at its
        rim or come out of its box, and no more is open, odd or pinched than was.
        """
        number = len(self.mesh.vertices)
        moved = np.any(found.vertices[:number] != self.mesh.vertices, axis=1)
        new = np.concatenate([found.vertices[:number][moved], found.vertices[number:]])
        if (moved & self.held).any() or not np.all((new >= self.box[0]) & (new <= self.box[1])):
            return False
        if found.triangles is self.mesh.triangles:
            return True
        before, after = self._topology, Topology(found)
        code = np.array([1, len(found.vertices)])
        rim, now = before.open_half_edges @ code, after.open_half_edges @ code
        outer = self.held[before.open_half_edges].all(axis=1)
        if not (np.isin(now, rim).all() and np.isin(rim[outer], now).all()):
            return False
        return all(w <= b for w, b in zip(_wrong(after), _wrong(before), strict=True))

    def put_back(self, found: Mesh) -> Mesh:
        """The whole with what the window's mesh became; the window's triangles come last."""
        number = len(self.used)
        points, more = self.whole.vertices.copy(), found.vertices[number + 1 :]
        points[self.used] = found.vertices[:number]
        index = np.concatenate([self.used, [-1], len(points) + np.arange(len(more))])
        triangles = np.concatenate([self.whole.triangles[~self.inside], index[found.triangles]])
        return Mesh(np.concatenate([points, more]), triangles)


@compiled
def _reaching(points: Any, triangles: Any, box: Any) -> Any:
    """(m,) triangles whose boxes meet a box (2, 3)."""
    found = np.ones(len(triangles), dtype=np.bool_)
    for t in range(len(triangles)):
        for k in range(3):
            a, b, c = points[triangles[t, 0], k], points[triangles[t, 1], k], points[triangles[t, 2], k]
            if min(a, b, c) > box[1, k] or max(a, b, c) < box[0, k]:
                found[t] = False
                break
    return found


@compiled
def _touched(triangles: Any, named: Any, number: Any) -> Any:
    """(number,) points that a named triangle (m,) uses."""
    found = np.zeros(number, dtype=np.bool_)
    for t in range(len(triangles)):
        if named[t]:
            for k in range(3):
                found[triangles[t, k]] = True
    return found


@compiled
def _touching(triangles: Any, named: Any) -> Any:
    """(m,) triangles that use a named point (n,)."""
    found = np.zeros(len(triangles), dtype=np.bool_)
    for t in range(len(triangles)):
        found[t] = named[triangles[t, 0]] or named[triangles[t, 1]] or named[triangles[t, 2]]
    return found


@compiled
def _farthest(points: Any) -> Any:
    """Which point has the largest coordinate."""
    found, most = 0, -1.0
    for i in range(len(points)):
        for k in range(3):
            if abs(points[i, k]) > most:
                found, most = i, abs(points[i, k])
    return found


def _wrong(topology: Topology) -> tuple[int, int, int]:
    """How many edges have more than two faces, how many points are pinched, and how many faces do not agree."""
    return int((topology.faces_per_edge > 2).sum()), len(topology.pinched), int((~topology.pairs[1]).sum())


def with_rings(mesh: Mesh, triangles: NDArray[np.bool_], rings: int) -> NDArray[np.bool_]:
    """(m,) some triangles, and so many rings of neighbours, which share a vertex, around them."""
    for _ in range(rings):
        triangles = beside(mesh, triangles)
    return triangles


def beside(mesh: Mesh, triangles: NDArray[np.bool_] | Ints) -> NDArray[np.bool_]:
    """(m,) some triangles, by a mask or their numbers, and all that share a vertex with one of them."""
    named = triangles
    if named.dtype != np.bool_:
        named = np.zeros(len(mesh.triangles), dtype=bool)
        named[triangles] = True
    found: NDArray[np.bool_] = _touching(mesh.triangles, _touched(mesh.triangles, named, len(mesh.vertices)))
    return found


def box_of(mesh: Mesh, triangles: NDArray[np.bool_], around: float = 0.0) -> Floats:
    """(2, 3) the box of some triangles (m,), with so much room around it, of its size."""
    corners = mesh.vertices[mesh.triangles[triangles]]
    box: Floats = np.array([corners.min(axis=(0, 1)), corners.max(axis=(0, 1))])
    return box + np.array([[-around], [around]]) * (box[1] - box[0]).max()


def tangles(mesh: Mesh, pairs: Ints) -> list[Floats]:
    """The box (2, 3) of each, those of few triangles first: triangles of pairs (k, 2), and such as share a vertex."""
    triangles = mesh.triangles[distinct(pairs)]
    ties = np.concatenate([triangles[:, :2], triangles[:, 1:], mesh.triangles[pairs, 0]])
    _, tangle = connected_components(len(mesh.vertices), np.ascontiguousarray(ties))
    named = np.zeros(len(mesh.triangles), dtype=bool)
    named[pairs] = True
    of = np.where(named, tangle[mesh.triangles[:, 0]], -1)
    each, many = np.unique(of[named], return_counts=True)
    return [box_of(mesh, of == one) for one in each[np.argsort(many, kind="stable")]]
