"""Set down: move parts together until their lowest point touches the floor."""

from __future__ import annotations

from typing import Literal

import numpy as np

from noble_clay.core.adjust.adjust import Adjust, Floor, movers, tidy_triple, world_points
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.fields import Coordinate
from noble_clay.core.piece.edits.carry import Carried, Carry, unit
from noble_clay.core.piece.models import Piece


class SetDown(Adjust):
    """Onto the wheel, or onto the face that is the floor for now; or so high above it."""

    kind: Literal["set_down"]
    floor: Floor = Floor()
    height: Coordinate = 0.0

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        up, ids = unit(self.floor.normal, "floor"), movers(piece, self.ids)
        points = world_points(piece, ids, evaluator)
        lowest = float(((points - np.array(self.floor.point)) @ up).min())
        return Carry(
            kind="carry",
            moves=tuple(Carried(id=i, by=tidy_triple((self.height - lowest) * up)) for i in ids),
            how="Set down",
        )
