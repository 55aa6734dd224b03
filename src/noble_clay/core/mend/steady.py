"""Steady: a mesh that is sound where it is may be so by hairs only, and cross itself or stick together once it is
moved, turned and rounded elsewhere. What would do so is moved, turned or contracted by hairs.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from noble_clay.core.mend.draw_apart import drawn
from noble_clay.core.mend.hold_apart import held_apart
from noble_clay.core.mend.known_crossings import crossings_since, known_crossings
from noble_clay.core.mend.small_changes import short_of, small_changes, with_one_point
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.window import Window, tangles
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import distinct, equal_corners, lowest_of_components, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.written import in_float32

PLACES = (
    ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0)),
    ((20.0, -10.0, 15.0), (1.0, 2.0, 0.5)),
    ((55.0, 35.0, -25.0), (0.0, 0.0, 0.0)),
    ((0.0, 0.0, 0.0), (-2.0, 0.5, 0.7)),
    ((-75.0, 15.0, 50.0), (0.4, -0.3, 0.5)),
    ((-40.0, 30.0, 70.0), (0.3, -1.4, 0.9)),
    ((120.0, -65.0, 10.0), (-0.2, 0.6, -0.1)),
)
"""Where a mesh is looked at: turned by so many degrees, and moved by such shares of its diagonal."""

MOST = 60
"""Tangles that are worth being looked at, one after the other."""

MOST_PAIRS, MOST_TRIES = 24, 1000
"""In one tangle, and changes that are tried in all."""


HAIRS = 4.0, 8.0, 16.0
"""Slacks by which layers are drawn apart."""

SHORT, ROUNDS = 24.0, 4
"""Slacks: edges shorter than that are contracted, where one end is a point that mending made; and times that those
which do harm are left out.
"""

NONE = np.zeros(0, dtype=np.int64)


def steady(mesh: Mesh, given: Mesh) -> tuple[Mesh, Done]:
    """Short edges that mending made contracted; what crosses in any of `PLACES` changed by hairs, so that it does in
    none; and points that lie all but together parted. Nothing is done that would make the mesh cross itself where it
    is. given: before it was mended.
    """
    now = _contracted(mesh, _short_and_new(mesh, given))
    mended = len(distinct(mesh.triangles)) - len(distinct(now.triangles))
    size = diagonal(mesh.vertices)
    found = tangles(now, _Placed.of(now, size).pairs())
    tries = iter(range(MOST_TRIES))
    for box in found if len(found) <= MOST else []:
        now, count = _steadied(now, box, size, tries)
        mended += count
    held, _ = held_apart(now)
    mended += held is not now
    return held.compact(), Done("steady", mended)


def _short_and_new(mesh: Mesh, given: Mesh) -> Ints:
    """(k, 2) short edges of which one end at least is no point of what was given."""
    index, _ = equal_corners(np.concatenate([given.vertices, mesh.vertices]))
    old = np.isin(index[len(given.vertices) :], index[: len(given.vertices)])
    edges = Topology(mesh).edges
    return short_of(mesh, edges[~old[edges].all(axis=1)], SHORT * slack_of(mesh))


def _contracted(mesh: Mesh, short: Ints) -> Mesh:
    """The mesh with the ends of short edges made one, but for those where that would do harm."""
    for _ in range(ROUNDS):
        if len(short) == 0:
            break
        knot = lowest_of_components(len(mesh.vertices), short)
        found = with_one_point(mesh, knot)
        harmed = _harmed(found, mesh)
        if len(harmed) == 0:
            return found
        short = np.ascontiguousarray(short[~np.isin(knot[short[:, 0]], harmed)])
    return mesh


def _harmed(mesh: Mesh, before: Mesh) -> Ints:
    """The points where something is wrong with a mesh, of kinds of which there was less before."""
    return np.concatenate(
        [w for w, was in zip(_wrong(mesh), _wrong(before), strict=True) if len(w) > len(was)] or [NONE]
    )


def _wrong(mesh: Mesh) -> list[Ints]:
    """Points of triangles that cross, of edges that are open or have more than two faces, and pinched ones."""
    topology = Topology(mesh)
    odd = topology.edges[topology.faces_per_edge != 2]
    return [mesh.triangles[known_crossings(mesh)].reshape(-1), odd.reshape(-1), topology.pinched]


def _steadied(mesh: Mesh, box: Floats, size: float, tries: Iterator[int]) -> tuple[Mesh, int]:
    """The mesh without what would cross elsewhere in a box (2, 3), as far as that goes, and how many pairs that was."""
    there = Window.on(mesh, box)
    pairs = np.flatnonzero(there.inside)[_Placed.of(there.mesh, size).pairs()]
    if len(pairs) == 0:
        return mesh, 0
    some = np.zeros(len(mesh.triangles), dtype=bool)
    some[pairs] = True
    window = Window.about(mesh, some, 1)
    now, parted = _Placed.of(window.mesh, size), 0
    if len(now.crossed[0]):
        return mesh, 0  # it is not sound here either: no work for hairs
    while (found := _steadier(window, now, tries)) is not None:
        parted += len(now.pairs()) - len(found.pairs())
        now = found
    return (window.put_back(now.mesh), max(parted, 1)) if now.mesh is not window.mesh else (mesh, 0)


def _steadier(window: Window, now: _Placed, tries: Iterator[int]) -> _Placed | None:
    """What stands in a window after the first small change that helps."""
    tried = (change for change, _ in zip(_changes(now), tries, strict=False) if window.takes(change))
    return next(filter(None, map(now.better, tried)), None)


def _changes(now: _Placed) -> Iterator[Mesh]:
    """All layers drawn apart at once, and then small changes of each pair, if there are not too many."""
    pairs, mesh = now.pairs(), now.mesh
    for hairs in HAIRS:
        hair = hairs * slack_of(mesh)
        yield Mesh(mesh.vertices + hair * drawn(mesh, pairs, hair)[0], mesh.triangles)
    for pair in pairs if len(pairs) <= MOST_PAIRS else []:
        yield from small_changes(mesh, pair)


@dataclass(frozen=True, eq=False)
class _Placed:
    """A mesh, as it is at each of `PLACES`, and the triangles that cross there, (k, 2) each. size: mm, of the whole
    mesh.
    """

    mesh: Mesh
    size: float
    there: list[Mesh]
    crossed: list[Ints]

    @staticmethod
    def of(mesh: Mesh, size: float) -> _Placed:
        there = [_at(mesh, size, *place) for place in PLACES]
        return _Placed(mesh, size, there, [crossing_pairs(placed) for placed in there])

    def pairs(self) -> Ints:
        """(k, 2) triangles that cross anywhere, the lower first, sorted."""
        return unique_rows(np.sort(np.concatenate(self.crossed), axis=1))

    def better(self, mesh: Mesh) -> _Placed | None:
        """What this became, if fewer pairs cross in all, and no more where the mesh is."""
        there, crossed = [self.mesh] * len(PLACES), [self.crossed[0]] * len(PLACES)
        left, most = 0, sum(map(len, self.crossed))
        for i in sorted(range(len(PLACES)), key=lambda i: (i > 0, -len(self.crossed[i]))):  # most are told by the first
            there[i] = _at(mesh, self.size, *PLACES[i])
            crossed[i] = crossings_since(self.there[i], self.crossed[i], there[i])
            left += len(crossed[i])
            if left >= most or len(crossed[0]) > len(self.crossed[0]):
                return None
        return _Placed(mesh, self.size, there, crossed)


def _at(mesh: Mesh, size: float, degrees: tuple[float, ...], moved: tuple[float, ...]) -> Mesh:
    return in_float32(Mesh(mesh.vertices @ rotation(degrees).T + size * np.array(moved), mesh.triangles))
