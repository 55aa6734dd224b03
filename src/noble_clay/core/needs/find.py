"""Looking a joined piece over for everything that it needs."""

from __future__ import annotations

from dataclasses import dataclass

from noble_clay.core.evaluate.result import Result
from noble_clay.core.evaluate.view import Views
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.needs.almost_flush import almost_flush
from noble_clay.core.needs.loose_bodies import loose_bodies
from noble_clay.core.needs.need import InspectionContext, Need
from noble_clay.core.needs.pinches import pinches
from noble_clay.core.needs.thin_walls import thin_walls
from noble_clay.core.needs.touching import touching
from noble_clay.core.piece.models import Piece


@dataclass(frozen=True)
class Needs:
    """found: what keeps the piece from being one body that prints as it looks. all_compared: whether every pair of
    neighbours was.
    """

    found: tuple[Need, ...]
    all_compared: bool

    def of(self, kind: str) -> tuple[Need, ...]:
        return tuple(n for n in self.found if n.kind == kind)


def find_needs(piece: Piece, result: Result, neighbours: Neighbours, views: Views) -> Needs:
    """Everything, kind by kind: bodies first, then contacts, walls, steps."""
    context = InspectionContext(piece, result, neighbours, views)
    loose = list(loose_bodies(context))
    touches, all_compared = touching(context)
    # What is loose is not told again as touching.
    moving = {remedy.part for body in loose for remedy in body.remedies}
    touches = [t for t in touches if not moving & {*t.parts, t.other}]
    told = {frozenset((*n.parts, n.other)) for n in touches}
    found = [*loose, *touches, *pinches(context, told), *thin_walls(context), *almost_flush(context)]
    return Needs(tuple(found), all_compared)
