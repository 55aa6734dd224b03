"""Parts whose own surface runs through itself: what primitives and joins make does not; a mesh that was brought in, or
a part that was bent, may. Each geometry is looked through once.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.measure.mass import areas, heights, normals
from noble_clay.core.mend.cross import cross, slack_of
from noble_clay.core.mend.gather import compiled_for
from noble_clay.core.mesh import Ints, Mesh
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.solid.meet import CONTACT

if TYPE_CHECKING:
    from noble_clay.core.solid.evaluate import Evaluator

MOST_KNOWN = 20_000
FEW = 6_000
"""Triangles of a small mesh."""

SLIVER_SLACKS = 16
"""A triangle less high than so many times what counts as touching is a sliver."""

MOST_SUSPECTS = 300
"""Of more triangles than that, the whole is looked through."""

LOOKS = 200
"""What judging a pair of triangles weighs, in points that are gathered."""


class Crossings:
    """What is known of an evaluator's geometries, by their keys."""

    def __init__(self, evaluator: Evaluator) -> None:
        self._evaluator = evaluator
        self._known: dict[str, bool] = {}

    def parts(self, piece: Piece) -> frozenset[str]:
        """The parts, and all in them, whose own surface runs through itself."""
        left_out = self._evaluator.left_out
        crossing = [p for p in _suspects(piece) if p.id not in left_out and self._crosses(p)]
        return frozenset(inner.id for part in crossing for inner in part.walk())

    def quick(self, piece: Piece, most: int) -> bool:
        """Whether `parts` takes a moment only: all are known, or of at most so many triangles."""
        keys = self._evaluator.keys
        return all(
            keys.geometry(p) in self._known or int(self._evaluator.geometry(p).manifold.num_tri()) <= most
            for p in _suspects(piece)
        )

    def of(self, piece: Piece) -> dict[str, bool]:
        """What is known of a piece's parts, for another evaluator to `note`."""
        keys = {self._evaluator.keys.geometry(p) for p in _suspects(piece)}
        return {key: self._known[key] for key in keys if key in self._known}

    def note(self, known: dict[str, bool]) -> None:
        self._known.update(known)

    def _crosses(self, part: Part) -> bool:
        key = self._evaluator.keys.geometry(part)
        if key not in self._known:
            from noble_clay.core.mend.crossings import crossing_pairs

            self._evaluator.watch.go_on()
            found = len(crossing_pairs(self._evaluator.geometry(part).mesh_only())) > 0
            if len(self._known) > MOST_KNOWN:
                self._known.clear()
            self._known[key] = found
        return self._known[key]


def _suspects(piece: Piece) -> Iterator[Part]:
    return (p for p in piece.walk() if p.mesh is not None or any(c.may_cross and not c.off for c in p.changes))


def crossings_anywhere(mesh: Mesh, parts: int = 2) -> int:
    """How many pairs of triangles of a joined skin cross each other, though no part's own surface does. parts: of how
    many it is.

    What the kernel makes of surfaces that coincide but for a hair, and what rounding to float32 makes of those, may:
    where there are slivers, triangles hardly higher than a step of a float32, or layers closer than such steps. Where a
    sliver seems to cross, though it be too thin to tell, the whole is looked through; and so is a small mesh that lies
    so far out that what was not in contact may be now.
    """
    if len(mesh.triangles) == 0:
        return 0
    slack = slack_of(mesh)
    suspects = np.flatnonzero(heights(mesh) < SLIVER_SLACKS * slack)
    whole = len(suspects) > MOST_SUSPECTS
    if parts > 1 and slack > CONTACT and len(mesh.triangles) <= FEW:
        whole |= len(mesh.triangles) > MOST_SUSPECTS
        suspects = np.arange(len(mesh.triangles))
    if not whole and not (len(suspects) and _some_cross(mesh, suspects)):
        return 0
    from noble_clay.core.mend.crossings import crossing_pairs

    return len(crossing_pairs(mesh))


def _some_cross(mesh: Mesh, suspects: Ints) -> bool:
    """Whether any of `suspects` (k,) seems to cross another triangle."""
    pairs = _near(mesh, suspects)
    rule = cross
    if compiled_for(LOOKS * len(pairs)):
        from noble_clay.core.mend import crossings

        rule = crossings.cross
    given = (np.ascontiguousarray(mesh.vertices), np.ascontiguousarray(mesh.triangles), normals(mesh))
    slack, area = slack_of(mesh), areas(mesh)
    first = area[pairs[:, 0]] >= area[pairs[:, 1]]  # the plane of a sliver is hardly told
    ordered = np.where(first[:, None], pairs, pairs[:, ::-1])
    return any(rule(*given, i, j, slack) for i, j in ordered)


def _near(mesh: Mesh, few: Ints) -> Ints:
    """(k, 2) pairs of triangles whose boxes meet, the lower first, no two alike, of which one is among `few`."""
    corners = [
        [axis[c] for c in np.ascontiguousarray(mesh.triangles.T)] for axis in np.ascontiguousarray(mesh.vertices.T)
    ]
    low, high = ([reduce(extreme, axis) for axis in corners] for extreme in (np.minimum, np.maximum))
    found = [np.zeros((0, 2), dtype=np.int64)]
    for i in few:
        near = np.flatnonzero((low[0] <= high[0][i]) & (high[0] >= low[0][i]))
        for axis in (1, 2):
            near = near[(low[axis][near] <= high[axis][i]) & (high[axis][near] >= low[axis][i])]
        found.append(np.column_stack([np.minimum(near, i), np.maximum(near, i)])[near != i])
    return np.unique(np.concatenate(found), axis=0)


def crossings_of(mesh: Mesh, part_of: NDArray[np.int64], part_ids: tuple[str, ...], parts: frozenset[str]) -> int:
    """How many pairs of triangles of some parts cross each other."""
    wanted = [i for i, name in enumerate(part_ids) if name in parts]
    if not wanted:
        return 0
    from noble_clay.core.mend.crossings import crossing_pairs

    return len(crossing_pairs(mesh.keep(np.isin(part_of, wanted))))
