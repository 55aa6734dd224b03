"""Centre on the wheel: the middle of the parts' common box comes over the wheel's middle; heights stay."""

from __future__ import annotations

from typing import Literal

import numpy as np

from noble_clay.core.adjust.adjust import Adjust, movers, tidy_triple, world_box
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.edits.carry import Carried, Carry
from noble_clay.core.piece.models import Piece


class Centre(Adjust):
    """The parts keep their places to one another."""

    kind: Literal["centre"]

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        ids = movers(piece, self.ids)
        middle = world_box(piece, ids, evaluator).mean(axis=0)
        by = tidy_triple(middle * np.array([-1.0, -1.0, 0.0]))
        return Carry(kind="carry", moves=tuple(Carried(id=i, by=by) for i in ids), how="Centred")
