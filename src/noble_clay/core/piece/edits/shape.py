"""The shape changes stacked on a part, and how smoothly a join runs together."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.changes.registry import AnyChange
from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import IsNumber
from noble_clay.core.piece.edits.edit import Edit, check_unlocked
from noble_clay.core.piece.models import MOST_CHANGES, PartId, Piece
from noble_clay.core.piece.tree import Change, Put, find


class SetChanges(Edit):
    """Give a part this stack of shape changes in place of the one it has."""

    @property
    def may_be_impossible(self) -> bool:
        return True

    kind: Literal["set_changes"]
    id: PartId
    stack: Annotated[tuple[AnyChange, ...], Field(max_length=MOST_CHANGES)]

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        check_unlocked(part)
        return [Put(part.model_copy(update={"changes": self.stack}))], (self.id,)

    def describe(self, piece: Piece) -> str:
        part = find(piece, self.id).part
        before = list(part.changes)
        new = [c for c in self.stack if c not in before]
        if len(self.stack) > len(before) and new:
            return f"{new[-1].label}: {part.name}"
        if len(self.stack) < len(before):
            return f"Took a shape change off {part.name}"
        if not new:
            return f"Reordered the shape changes of {part.name}"
        return f"Changed {new[0].label.lower()} of {part.name}"


class SetJoin(Edit):
    """Set the radius over which a join runs together, and the fineness of that run; null lets it follow the radius."""

    @property
    def may_be_impossible(self) -> bool:
        return True

    kind: Literal["set_join"]
    id: PartId
    blend: Annotated[float, Field(ge=0, le=1000), IsNumber] | None = None
    fineness: Annotated[float, Field(ge=0.01, le=100), IsNumber] | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        check_unlocked(part)
        if part.join is None:
            raise PieceError(Problem("only a join can be blended", self.id, "join"))
        given = {n: getattr(self, n) for n in self.model_fields_set & {"blend", "fineness"}}
        if given.get("blend", 0) is None:
            raise PieceError(Problem("must be a number; 0 is sharp", self.id, "join.blend"))
        return [Put(part.model_copy(update={"join": part.join.model_copy(update=given)}))], (self.id,)

    def describe(self, piece: Piece) -> str:
        part = find(piece, self.id).part
        return f"Made {part.name} sharp" if self.blend == 0 else f"Blended {part.name}"
