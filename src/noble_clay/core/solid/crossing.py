"""Parts whose own surface runs through itself: what primitives and joins make does not; a mesh that was brought in, or
a part that was bent, may. Each geometry is looked through once.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.crossings import crossing_pairs
from noble_clay.core.mesh import Floats, Mesh
from noble_clay.core.piece.models import Part, Piece

if TYPE_CHECKING:
    from noble_clay.core.solid.evaluate import Evaluator

MOST_KNOWN = 20_000
FEW = 6_000
"""Triangles of a mesh that is looked through whole."""

SLIVER_STEPS = 16
"""A triangle less high than so many steps of a float32 is a sliver."""

MOST_SLIVERS = 300
"""Around more of them than that, the whole is looked through."""


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
            self._evaluator.watch.go_on()
            found = len(crossing_pairs(self._evaluator.geometry(part).mesh_only())) > 0
            if len(self._known) > MOST_KNOWN:
                self._known.clear()
            self._known[key] = found
        return self._known[key]


def _suspects(piece: Piece) -> Iterator[Part]:
    return (p for p in piece.walk() if p.mesh is not None or any(c.may_cross and not c.off for c in p.changes))


def crossings_anywhere(mesh: Mesh) -> int:
    """How many pairs of triangles of a joined skin cross each other, though no part's own surface does.

    What the kernel makes of surfaces that coincide but for a hair, and what rounding to float32 makes of those, may. A
    small mesh is looked through whole; a large one around its slivers, triangles hardly higher than a step of a
    float32.
    """
    if len(mesh.triangles) > FEW:
        least = SLIVER_STEPS * float(np.spacing(np.float32(np.abs(mesh.vertices).max())))
        slivers = np.flatnonzero(_heights(mesh) < least)
        if len(slivers) == 0:
            return 0
        if len(slivers) <= MOST_SLIVERS:
            low, high = (f(mesh.corners, axis=1) for f in (np.min, np.max))
            near = np.zeros(len(low), dtype=bool)
            for i in slivers:
                near |= np.all((low <= high[i]) & (high >= low[i]), axis=1)
            mesh = mesh.keep(near)
    return len(crossing_pairs(mesh))


def _heights(mesh: Mesh) -> Floats:
    """(m,) the least height of each triangle, mm."""
    corners = mesh.corners
    sides = corners - np.roll(corners, 1, axis=1)
    longest = np.sqrt((sides * sides).sum(axis=2).max(axis=1))
    across = np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1)
    found: Floats = across / np.maximum(longest, 1e-300)
    return found


def crossings_of(mesh: Mesh, part_of: NDArray[np.int64], part_ids: tuple[str, ...], parts: frozenset[str]) -> int:
    """How many pairs of triangles of some parts cross each other."""
    wanted = [i for i, name in enumerate(part_ids) if name in parts]
    return len(crossing_pairs(mesh.keep(np.isin(part_of, wanted)))) if wanted else 0
