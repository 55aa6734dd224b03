"""Boxes around parts that are known without making their solids: never too small, and mostly exact."""

from __future__ import annotations

from typing import Any

import numpy as np
from cachetools import LRUCache

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.boxes import NOTHING, around, through
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Part, widest_radius
from noble_clay.core.piece.placing import standing

MOST_KNOWN = 20_000
"""Boxes remembered."""


class Boxes:
    """(2, 3) boxes around parts, in their parents' frames."""

    def __init__(self, evaluator: Evaluator) -> None:
        self._evaluator = evaluator
        self._known: Any = LRUCache(MOST_KNOWN)

    def of(self, part: Part) -> Floats:
        """Around a part with its copies. Raises PieceError for a shape change that cannot be made."""
        key = self._evaluator.keys.part(part)
        found = self._known.get(key)
        if found is None:
            own = self._own(part)
            found = self._known[key] = around([through(own, m) for m in standing(part)])
        return found

    def _own(self, part: Part) -> Floats:
        """In the part's own frame."""
        if part.changed:
            solid = self._evaluator.geometry(part)
            return NOTHING if solid.empty else solid.bounds
        if part.join is not None:
            radius = widest_radius(part.children, part.join.blend)
            grown = np.array([[-radius], [radius]])
            return around([self.of(p) for p in part.children if p.op == "union" and not p.reference]) + grown
        key = f"own:{self._evaluator.keys.geometry(part)}"
        found = self._known.get(key)
        if found is None:
            try:
                bounds = part.primitive.bounds() if part.primitive else self._evaluator.own_mesh(part).bounds
            except MeshError:  # left out
                return NOTHING
            found = self._known[key] = NOTHING if bounds is None else bounds
        return found
