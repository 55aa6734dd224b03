"""Mirror in place: parts are reflected about the middle of their common box."""

from __future__ import annotations

from typing import Literal

from noble_clay.core.adjust.adjust import Adjust, movers, tidy_triple, world_box
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.edits.carry import Carried, Carry, Mirror
from noble_clay.core.piece.models import AXES, Axis, Piece


class MirrorInPlace(Adjust):
    """Across the plane square to an axis of the wheel."""

    kind: Literal["mirror"]
    axis: Axis

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        ids = movers(piece, self.ids)
        middle = tidy_triple(world_box(piece, ids, evaluator).mean(axis=0))
        x, y, z = (1.0 if a == self.axis else 0.0 for a in AXES)
        mirror = Mirror(normal=(x, y, z), centre=middle)
        return Carry(kind="carry", moves=tuple(Carried(id=i, mirror=mirror) for i in ids), how="Mirrored")
