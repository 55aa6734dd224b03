"""Steady: a mesh that is sound where it is may be so by hairs only, and cross itself or stick together once it is
moved, turned and rounded elsewhere. What would do so is moved, turned or contracted by hairs.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.draw_apart import drawn
from noble_clay.core.mend.hairs import without_hairs
from noble_clay.core.mend.hold_apart import held_apart
from noble_clay.core.mend.known_crossings import crossings_since
from noble_clay.core.mend.small_changes import small_changes
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.window import Window, tangles
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import distinct, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
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

MANY, FEWER, TOO_MANY = 50_000, 3, 100_000
"""Triangles of a mesh that is looked at in the first few of those only, and of one for which it would take too long."""

MOST = 60
"""Tangles that are worth being looked at, one after the other."""

MOST_PAIRS, MOST_TRIES = 24, 400
"""In one tangle, and changes that are tried in all."""

HAIRS = 4.0, 8.0, 16.0
"""Slacks by which layers are drawn apart."""


def steady(mesh: Mesh, given: Mesh) -> tuple[Mesh, Done]:
    """Hairs that mending made taken out; what crosses in any of `PLACES` changed by hairs, so that it does in none; and
    points that lie all but together parted. Nothing is done that would make the mesh cross itself where it is.

    given: before it was mended.
    """
    if len(mesh.triangles) > TOO_MANY:
        return mesh, Done("steady", 0)
    now = without_hairs(mesh, given)
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


def _steadied(mesh: Mesh, box: Floats, size: float, tries: Iterator[int]) -> tuple[Mesh, int]:
    """The mesh without what would cross elsewhere in a box (2, 3), as far as that goes, and how many pairs that was."""
    there = Window.on(mesh, box)
    within = np.all((there.mesh.corners >= box[0]) & (there.mesh.corners <= box[1]), axis=(1, 2))
    pairs = np.flatnonzero(there.inside)[_Placed.of(there.mesh, size, within).pairs()]
    if len(pairs) == 0:
        return mesh, 0
    some = np.zeros(len(mesh.triangles), dtype=bool)
    some[pairs] = True
    window = Window.about(mesh, some, 1)
    now, parted = _Placed.of(window.mesh, size, some[window.inside]), 0
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
    def of(mesh: Mesh, size: float, fresh: NDArray[np.bool_] | None = None) -> _Placed:
        """fresh: (m,) as for `crossing_pairs`."""
        places = PLACES if len(mesh.triangles) < MANY else PLACES[:FEWER]
        there = [_at(mesh, size, *place) for place in places]
        return _Placed(mesh, size, there, [crossing_pairs(placed, fresh=fresh) for placed in there])

    def pairs(self) -> Ints:
        """(k, 2) triangles that cross anywhere, the lower first, sorted."""
        return unique_rows(np.sort(np.concatenate(self.crossed), axis=1))

    def better(self, mesh: Mesh) -> _Placed | None:
        """What this became, if fewer pairs cross in all, and no more where the mesh is."""
        there, crossed = self.there.copy(), self.crossed.copy()
        left, most = 0, sum(map(len, self.crossed))
        for i in sorted(range(len(there)), key=lambda i: (i > 0, -len(self.crossed[i]))):  # most are told by the first
            there[i] = _at(mesh, self.size, *PLACES[i])
            crossed[i] = crossings_since(self.there[i], self.crossed[i], there[i])
            left += len(crossed[i])
            if left >= most or len(crossed[0]) > len(self.crossed[0]):
                return None
        return _Placed(mesh, self.size, there, crossed)


def _at(mesh: Mesh, size: float, degrees: tuple[float, ...], moved: tuple[float, ...]) -> Mesh:
    return in_float32(Mesh(mesh.vertices @ rotation(degrees).T + size * np.array(moved), mesh.triangles))
