"""Parts whose own surface runs through itself: what primitives and joins make does not; a mesh that was brought in, or
a part that was bent, may. Each geometry is looked through once.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.crossings import crossing_pairs
from noble_clay.core.mesh import Mesh
from noble_clay.core.piece.models import Part, Piece

if TYPE_CHECKING:
    from noble_clay.core.solid.evaluate import Evaluator

MOST_KNOWN = 20_000


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
    return (part for part in piece.walk() if part.mesh is not None or part.changed)


def crossings_of(mesh: Mesh, part_of: NDArray[np.int64], part_ids: tuple[str, ...], parts: frozenset[str]) -> int:
    """How many pairs of triangles of some parts cross each other."""
    wanted = [i for i, name in enumerate(part_ids) if name in parts]
    return len(crossing_pairs(mesh.keep(np.isin(part_of, wanted)))) if wanted else 0
