"""Sink: push parts into another one along their contact direction, by a depth."""

from __future__ import annotations

from typing import Literal

from noble_clay.core.adjust.adjust import Adjust, in_world, movers, tidy_triple
from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.fields import Length
from noble_clay.core.measure.contact import SINK_MM, sink_by
from noble_clay.core.piece.edits.carry import Carried, Carry
from noble_clay.core.piece.models import PartId, Piece


class Sink(Adjust):
    """Each part on its own goes into `into` until they overlap by about `depth` mm."""

    kind: Literal["sink"]
    into: PartId
    depth: Length = SINK_MM

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        target = in_world(piece, self.into, evaluator)
        ids = [i for i in movers(piece, self.ids) if i != self.into]
        if not ids:
            raise PieceError(Problem("pick the part to sink and the part that it sinks into", self.into))
        moves = tuple(
            Carried(id=i, by=tidy_triple(sink_by(target, in_world(piece, i, evaluator), self.depth))) for i in ids
        )
        if all(m.by == (0, 0, 0) for m in moves):
            raise PieceError(Problem("these overlap by that much already", ids[0]))
        return Carry(kind="carry", moves=moves, how="Sank")
