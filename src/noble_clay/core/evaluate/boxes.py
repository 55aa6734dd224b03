"""Boxes around parts that are known without making their solids: never too small, and mostly exact."""

from __future__ import annotations

from itertools import product
from typing import Any

import numpy as np
from cachetools import LRUCache

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.affine import compose
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Part, widest_radius
from noble_clay.core.piece.placing import place_matrix

NOTHING = np.array([[np.inf] * 3, [-np.inf] * 3])
"""The box around nothing."""

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
            place = place_matrix(part.place, part.flip)
            matrices = [compose(m, place) for m in part.copies.matrices()] if part.copies else [place]
            own = self._own(part)
            found = self._known[key] = around([through(own, m) for m in matrices])
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


def around(boxes: list[Floats]) -> Floats:
    """The box around boxes."""
    every = np.array([NOTHING, *boxes])
    return np.array([every[:, 0].min(axis=0), every[:, 1].max(axis=0)])


def longest_side(boxes: list[Floats]) -> float:
    """Of the box around boxes."""
    low, high = around(boxes)
    return float((high - low).max())


def through(box: Floats, matrix: Floats) -> Floats:
    """The box around a box seen through a (3, 4) matrix."""
    if box[0, 0] == np.inf:
        return box
    corners = np.array(list(product(*box.T))) @ matrix[:, :3].T + matrix[:, 3]
    return np.array([corners.min(axis=0), corners.max(axis=0)])


def holds(outer: Floats, inner: Floats) -> bool:
    return bool(np.all(outer[0] <= inner[0]) and np.all(inner[1] <= outer[1]))
