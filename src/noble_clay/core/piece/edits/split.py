"""Splitting a part by others: what lies outside them and what lies inside, both kept as parts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.coincidence import snap_coincident
from noble_clay.core.mesh.tolerances import CONTACT, SHARE
from noble_clay.core.piece.edits.edit import Edit, SolidOf, check_unlocked, names, with_fresh_ids
from noble_clay.core.piece.edits.joins import joined, one_list
from noble_clay.core.piece.models import Part, PartId, Piece
from noble_clay.core.piece.tree import Change, Splice, find


class Split(Edit):
    """The first of `ids` less the others, and beside it in the recipe what it shares with them.

    Both are joins that keep the tools, so that the split can still be moved; several tools act as one.
    """

    @property
    def may_be_impossible(self) -> bool:
        return True

    kind: Literal["split"]
    ids: Annotated[tuple[PartId, ...], Field(min_length=2, max_length=5_000)]

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        by_id = one_list(piece, self.ids)
        body = by_id[self.ids[0]]
        tools = [by_id[i].part for i in self.ids[1:]]
        for part in (body.part, *tools):
            check_unlocked(part)
        taken = {p.id for p in piece.walk()}
        outside = joined(body.part, tools, "difference", f"{body.part.name} outside", taken)
        taken |= {p.id for p in outside.walk()}
        copies = [with_fresh_ids(p, taken) for p in (body.part, *tools)]
        inside = joined(copies[0], _as_one(copies[1:], taken), "intersection", f"{body.part.name} inside", taken)
        found: list[Change] = [
            Splice(s.parent_id, s.index, 1, ()) for s in sorted(by_id.values(), key=lambda s: s.index, reverse=True)
        ]
        earlier = sum(1 for s in by_id.values() if s.index < body.index)
        inside = inside.model_copy(update={"op": body.part.op if body.part.op != "intersection" else "union"})
        found.append(Splice(body.parent_id, body.index - earlier, 0, (outside, inside)))
        return found, (outside.id, inside.id)

    def check_solids(self, piece: Piece, solid_of: SolidOf) -> None:
        """Raises PieceError where the tools miss the body, or leave nothing of it outside."""
        body, *tools = snap_coincident([solid_of(find(piece, i).part) for i in self.ids])
        name = find(piece, self.ids[0]).part.name
        inside = boolean("intersection", [body, boolean("union", tools)])
        if inside.empty or inside.volume < CONTACT:
            raise PieceError(Problem(f"the split misses {name}: move the tool into it first", self.ids[1]))
        if inside.volume >= body.volume * (1 - SHARE):
            raise PieceError(Problem(f"all of {name} lies inside the tool, so nothing would be split off", self.ids[1]))

    def describe(self, piece: Piece) -> str:
        body, *tools = (find(piece, i).part for i in self.ids)
        return f"Split {body.name} by {names(tools)}"


def _as_one(tools: list[Part], taken: set[str]) -> list[Part]:
    """Several tools as one join: what lies in any of them, not in all."""
    if len(tools) == 1:
        return tools
    if any(t.reference for t in tools):
        raise PieceError(Problem("a reference cannot split anything"))
    return [joined(tools[0], tools[1:], "union", "Tools", taken)]
