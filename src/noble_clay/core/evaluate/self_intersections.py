"""Parts whose own surface runs through itself: what primitives and joins make does not (soft lists are drawn apart when
they are made, `mesh/untangle.py`, and say where that did not help); a mesh that was brought in, or a part that was
bent, may. Each geometry is looked through once.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from cachetools import LRUCache

from noble_clay.core.evaluate.keys import Keys
from noble_clay.core.evaluate.watch import Watch
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.piece.models import Part, Piece

MOST_KNOWN = 20_000
"""Geometries of which it is remembered."""


class Crossings:
    """What is known of an evaluator's geometries, by their keys. geometry: gives a part's solid in its own frame."""

    def __init__(self, keys: Keys, geometry: Callable[[Part], Solid], watch: Watch) -> None:
        self._keys, self._geometry, self._watch = keys, geometry, watch
        self._known: Any = LRUCache(MOST_KNOWN)

    def parts(self, piece: Piece) -> frozenset[str]:
        """The parts, and all in them, whose own surface runs through itself."""
        crossing = [*filter(self._crosses, _suspects(piece)), *filter(self._left, _soft(piece))]
        return frozenset(inner.id for part in crossing for inner in part.walk())

    def quick(self, piece: Piece, most: int) -> bool:
        """Whether `parts` takes a moment only: all are known, or of at most so many triangles."""
        return all(
            self._keys.geometry(p) in self._known or self._geometry(p).triangles <= most for p in _suspects(piece)
        )

    def of(self, piece: Piece) -> dict[str, bool]:
        """What is known of a piece's parts, for another evaluator to `note`."""
        keys = {self._keys.geometry(p) for p in (*_suspects(piece), *_soft(piece))}
        return {key: self._known[key] for key in keys if key in self._known}

    def note(self, known: dict[str, bool]) -> None:
        self._known.update(known)

    def left_crossing(self, part: Part) -> None:
        """A soft join was made, and runs through itself still."""
        self._known[self._keys.geometry(part)] = True

    def _left(self, part: Part) -> bool:
        return bool(self._known.get(self._keys.geometry(part)))

    def _crosses(self, part: Part) -> bool:
        key = self._keys.geometry(part)
        if key not in self._known:
            from noble_clay.core.mesh.crossings import crossing_pairs

            self._watch.go_on()
            solid = self._geometry(part)
            if solid.empty:  # left out, and not for ever: a mesh that is missing may come yet
                return False
            self._known[key] = len(crossing_pairs(solid.mesh_only())) > 0
        return bool(self._known[key])


def _soft(piece: Piece) -> Iterator[Part]:
    return (p for p in piece.walk() if p.join is not None and p.join.soft)


def _suspects(piece: Piece) -> Iterator[Part]:
    return (p for p in piece.walk() if p.mesh is not None or any(c.may_cross and not c.off for c in p.changes))
