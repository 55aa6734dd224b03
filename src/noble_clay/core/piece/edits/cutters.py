"""Cutting with copies: a part that leaves room for itself in another, and a part cut out by a thinner one like it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.changes.base import Side
from noble_clay.core.changes.grow import Grow
from noble_clay.core.changes.registry import AnyChange
from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.field_kinds import MM
from noble_clay.core.fields import IsNumber, Length
from noble_clay.core.piece.edits.edit import Edit, check_unlocked, with_fresh_ids
from noble_clay.core.piece.edits.joins import joined, one_list
from noble_clay.core.piece.models import Part, PartId, Piece
from noble_clay.core.piece.tree import Change, Splice, find

Clearance = Annotated[float, MM, Field(ge=0, le=100), IsNumber]


class CutWithCopy(Edit):
    """Cut `body` with a copy of `tool` that is larger by `clearance` all round; the tool itself stays as it is."""

    kind: Literal["cut_with_copy"]
    body: PartId
    tool: PartId
    clearance: Clearance

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        if self.body == self.tool:
            raise PieceError(Problem("a part cannot be cut with a copy of itself; pick two", self.body))
        by_id = one_list(piece, (self.body, self.tool))
        spot, tool = by_id[self.body], by_id[self.tool].part
        grown = Grow(kind="grow", by=self.clearance) if self.clearance else None
        join, copy = _cut_by(piece, spot.part, tool, grown, f"{tool.name} with room")
        return [Splice(spot.parent_id, spot.index, 1, (join,))], (copy,)

    def describe(self, piece: Piece) -> str:
        return f"Cut {find(piece, self.body).part.name} with a copy of {find(piece, self.tool).part.name}"


class CutInside(Edit):
    """Cut a part out by its own shape, thinner by `wall` all round and going out at the side `open`."""

    kind: Literal["cut_inside"]
    id: PartId
    wall: Length
    open: Side

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        spot = find(piece, self.id)
        thinner = Grow(kind="grow", by=-self.wall, open=self.open)
        join, copy = _cut_by(piece, spot.part, spot.part, thinner, f"Inside of {spot.part.name}")
        return [Splice(spot.parent_id, spot.index, 1, (join,))], (copy,)

    def describe(self, piece: Piece) -> str:
        return f"Cut the inside out of {find(piece, self.id).part.name}"


def _cut_by(piece: Piece, body: Part, model: Part, change: AnyChange | None, name: str) -> tuple[Part, str]:
    """A join of `body` cut by a copy of `model`, changed; and the copy's id. Copies of a body are the join's."""
    check_unlocked(body)
    taken = {p.id for p in piece.walk()}
    changes = (*model.changes, change) if change else model.changes
    plain = {"name": name[:80], "changes": changes, "reference": False, "locked": False, "colour": None}
    copy = with_fresh_ids(model, taken).model_copy(update=plain)
    if body is model:
        copy = copy.model_copy(update={"copies": None})
    inner = body.model_copy(update={"copies": None}) if body is model else body
    join = joined(inner, [copy], "difference", f"{body.name} cut", taken)
    return join.model_copy(update={"copies": body.copies, "colour": body.colour}) if body is model else join, copy.id
