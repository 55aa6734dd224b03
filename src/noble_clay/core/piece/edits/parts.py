"""Putting parts down, taking them away, and moving them in the recipe."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.edits.edit import Edit, Ids, Whole, as_new, keep_bodies, names
from noble_clay.core.piece.models import Part, PartId, Piece
from noble_clay.core.piece.reframe import into, out_of
from noble_clay.core.piece.tree import Change, Splice, children_of, find, outermost


class AddParts(Edit):
    """Put parts into a list, at its end unless `index` says where. Ids already taken are replaced by fresh ones; a part
    whose name is taken, though not those within it, gets a number.
    """

    kind: Literal["add_parts"]
    parts: Annotated[tuple[Part, ...], Field(min_length=1, max_length=5_000)]
    parent: PartId | None = None
    index: Whole | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        siblings = children_of(piece, self.parent)
        index = len(siblings) if self.index is None else max(0, min(self.index, len(siblings)))
        taken = {p.id for p in piece.walk()}
        known = {p.name for p in piece.walk()}
        parts = tuple(as_new(part, taken, known) for part in self.parts)
        return [Splice(self.parent, index, 0, parts)], tuple(p.id for p in parts)

    def describe(self, piece: Piece) -> str:
        return f"Put down {names(list(self.parts))}"


class RemoveParts(Edit):
    """Take parts, with all in them, out of the piece."""

    kind: Literal["remove_parts"]
    ids: Ids

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for spot in reversed(outermost(piece, self.ids)):
            found.append(Splice(spot.parent_id, spot.index, 1, ()))
        return keep_bodies(piece, found), ()

    def describe(self, piece: Piece) -> str:
        return f"Removed {names([find(piece, i).part for i in self.ids])}"


class Arrange(Edit):
    """Take parts of one list to another place in the recipe, into `parent`, before the part now at `index`."""

    kind: Literal["arrange"]
    ids: Ids
    parent: PartId | None = None
    index: Whole

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        moving = outermost(piece, self.ids)
        target = children_of(piece, self.parent)
        if self.parent is not None:
            above = find(piece, self.parent)
            if any(p.id in self.ids for p in (*above.parents, above.part)):
                raise PieceError(Problem("a join cannot go into itself", self.parent))
        if any(s.parent_id != self.parent for s in moving):
            moving_out = [s for s in moving if s.parent_id != self.parent]
            parts = tuple(
                reparent(piece, s.part, s.parents, self.parent) if s in moving_out else s.part for s in moving
            )
        else:
            parts = tuple(s.part for s in moving)
        before = sum(1 for s in moving if s.parent_id == self.parent and s.index < self.index)
        index = max(0, min(self.index, len(target))) - before
        found: list[Change] = [Splice(s.parent_id, s.index, 1, ()) for s in reversed(moving)]
        found.append(Splice(self.parent, index, 0, parts))
        return keep_bodies(piece, found), tuple(s.part.id for s in moving)

    def describe(self, piece: Piece) -> str:
        return f"Moved {names([find(piece, i).part for i in self.ids])} in the recipe"


def reparent(piece: Piece, part: Part, parents: tuple[Part, ...], target: str | None) -> Part:
    """The part in another join's frame, in the same spot; out of its own joins, then into the target's."""
    for join in reversed(parents):
        part = out_of(join, part)
    if target is None:
        return part
    spot = find(piece, target)
    for join in (*spot.parents, spot.part):
        part = into(join, part)
    return part
