"""Line up: for each axis of the wheel, low sides, middles or high sides level with one part, or even gaps."""

from __future__ import annotations

from typing import Literal

import numpy as np

from noble_clay.core.adjust.adjust import Adjust, movers, tidy_triple, world_box
from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.edits.carry import Carried, Carry
from noble_clay.core.piece.models import PartId, Piece

Level = Literal["low", "middle", "high", "even"]


class LineUp(Adjust):
    """`anchor`, one of the parts, stays where it is; for `even` the two outermost parts along the axis do."""

    kind: Literal["line_up"]
    anchor: PartId
    x: Level | None = None
    y: Level | None = None
    z: Level | None = None

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        ids = movers(piece, (*self.ids, self.anchor))
        if len(ids) < 2:
            raise PieceError(Problem("lining up takes two parts or more", self.anchor))
        boxes = np.array([world_box(piece, [i], evaluator) for i in ids])
        anchor = ids.index(self.anchor) if self.anchor in ids else len(ids) - 1
        shifts = np.zeros((len(ids), 3))
        for axis, level in enumerate((self.x, self.y, self.z)):
            if level is not None:
                shifts[:, axis] = _shifts(boxes[:, :, axis], anchor, level)
        if not np.any(shifts):
            raise PieceError(Problem("they stand like this already"))
        moves = tuple(Carried(id=i, by=tidy_triple(by)) for i, by in zip(ids, shifts, strict=True) if np.any(by))
        return Carry(kind="carry", moves=moves, how="Lined up")


def _shifts(spans: Floats, anchor: int, level: Level) -> Floats:
    """(n,) mm for each of `spans` (n, 2) along one axis."""
    if level == "even":
        return _even(spans)
    where = {"low": spans[:, 0], "middle": spans.mean(axis=1), "high": spans[:, 1]}[level]
    found: Floats = where[anchor] - where
    return found


def _even(spans: Floats) -> Floats:
    """Equal gaps between neighbours, in the order of their middles; negative gaps where there is no room."""
    if len(spans) < 3:
        raise PieceError(Problem("even gaps take three parts or more"))
    order = np.argsort(spans.mean(axis=1), kind="stable")
    widths = (spans[:, 1] - spans[:, 0])[order]
    first, last = spans[order[0]], spans[order[-1]]
    gap = (last[1] - first[0] - widths.sum()) / (len(spans) - 1)
    lows = first[0] + np.concatenate([[0.0], np.cumsum(widths[:-1] + gap)])
    found = np.zeros(len(spans))
    found[order] = lows - spans[order, 0]
    found[order[[0, -1]]] = 0.0
    return found
