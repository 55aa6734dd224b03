"""Joining parts into one, taking a join apart, and choosing its body."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import IsNumber
from noble_clay.core.piece.edits.edit import Edit, check_unlocked, fresh_id, fresh_name, keep_bodies, names
from noble_clay.core.piece.models import MOST_NAME, Join, Name, Op, Part, PartId, Piece, Place
from noble_clay.core.piece.reframe import out_of, shifted, tidy
from noble_clay.core.piece.tree import Change, Splice, children_of, find, outermost


class JoinParts(Edit):
    """Join parts into one, in the order given: the first `bodies` are the body, `op` says how the others enter.

    The new join stands where the first body stood in the recipe, its origin in that body's middle.
    """

    kind: Literal["join"]
    ids: Annotated[tuple[PartId, ...], Field(min_length=2, max_length=5_000)]
    op: Op
    bodies: Annotated[int, Field(ge=1), IsNumber] = 1
    name: Name | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        if self.bodies >= len(self.ids):
            raise PieceError(Problem(f"of {len(self.ids)} parts at most {len(self.ids) - 1} can be bodies"))
        by_id = one_list(piece, self.ids)
        body = by_id[self.ids[0]]
        parts = [by_id[i].part for i in self.ids]
        known = {p.name for p in piece.walk()}
        name = fresh_name((self.name or named_after(parts, self.op))[:MOST_NAME], known)
        taken = {p.id for p in piece.walk()}
        join = joined(parts[0], parts[1:], self.op, name, taken, self.bodies)
        found: list[Change] = [
            Splice(s.parent_id, s.index, 1, ()) for s in sorted(by_id.values(), key=lambda s: s.index, reverse=True)
        ]
        earlier = sum(1 for s in by_id.values() if s.index < body.index)
        found.append(Splice(body.parent_id, body.index - earlier, 0, (join,)))
        return keep_bodies(piece, found), (join.id,)

    def describe(self, piece: Piece) -> str:
        word = {"union": "United", "difference": "Cut", "intersection": "Kept what is shared by"}[self.op]
        return f"{word} {names([find(piece, i).part for i in self.ids])}"


def named_after(parts: list[Part], op: Op) -> str:
    """What a join of these is called: `Cylinder + Cone`, of more than two `Cylinder + 3`; of a cut, `Cylinder cut`."""
    first, *others = (p.name for p in parts)
    if op == "difference":
        return f"{first[: MOST_NAME - 4]} cut"
    second = others[0] if len(others) == 1 else str(len(others))
    room = (MOST_NAME - 3) // 2
    return f"{first[:room]} {'+' if op == 'union' else '∩'} {second[:room]}"


def one_list(piece: Piece, ids: tuple[str, ...]) -> dict[str, Any]:
    """The spots of parts that are to be joined, by id. Raises PieceError when they do not stand in one list, or the
    first cannot be a body.
    """
    by_id = {s.part.id: s for s in outermost(piece, ids)}
    if len(by_id) < len(set(ids)):
        raise PieceError(Problem("a part and the join that holds it cannot be joined with each other"))
    if len({s.parent_id for s in by_id.values()}) > 1:
        raise PieceError(Problem("these parts stand in different joins; take them into one list first"))
    if by_id[ids[0]].part.reference:
        raise PieceError(Problem("a reference is no body; pick another part first", ids[0]))
    return by_id


def joined(body: Part, others: list[Part], op: Op, name: str, taken: set[str], bodies: int = 1) -> Part:
    """A join of parts of one list, in the same spots: `bodies` of them united, the rest entering by `op`.

    It enters as the body did, its origin in the body's; its id is made from none of `taken`, and added to them.
    """
    origin = np.array(body.place.position)
    parts = [
        shifted(part, -origin).model_copy(update={"op": "union" if i < bodies else op})
        for i, part in enumerate([body, *others])
    ]
    return Part(
        id=fresh_id("join", taken),
        name=name[:80],
        op=body.op,
        join=Join(parts=tuple(parts)),
        place=Place(position=tuple(tidy(origin))),  # type: ignore[arg-type]
    )


class Ungroup(Edit):
    """Put the parts of a join into its parent's list, each where it is."""

    kind: Literal["ungroup"]
    id: PartId

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        spot = find(piece, self.id)
        join = spot.part
        check_unlocked(join)
        if join.join is None:
            raise PieceError(Problem("only a join can be ungrouped", self.id))
        if join.copies is not None:
            raise PieceError(Problem("this join has copies; take them away before ungrouping it", self.id, "copies"))
        if join.changed:
            raise PieceError(Problem("this join has shape changes; take them off or bake it first", self.id, "changes"))
        parts = tuple(out_of(join, child) for child in join.children)
        parts = tuple(p.model_copy(update={"colour": p.colour or join.colour}) for p in parts)
        body = next((i for i, p in enumerate(parts) if not p.reference), None)
        if body is not None:
            parts = (*parts[:body], parts[body].model_copy(update={"op": join.op}), *parts[body + 1 :])
        if join.reference:
            parts = tuple(p.model_copy(update={"reference": True}) for p in parts)
        found: list[Change] = [Splice(spot.parent_id, spot.index, 1, parts)]
        return keep_bodies(piece, found), tuple(p.id for p in parts)

    def describe(self, piece: Piece) -> str:
        return f"Ungrouped {find(piece, self.id).part.name}"


class SwapBody(Edit):
    """In a join of parts, make another part the body; the old body enters as the new one did."""

    kind: Literal["swap_body"]
    id: PartId
    body: PartId

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        parts = list(children_of(piece, self.id))
        index = next((i for i, p in enumerate(parts) if p.id == self.body), None)
        old = next((i for i, p in enumerate(parts) if not p.reference), None)
        if index is None or old is None or parts[index].reference:
            raise PieceError(Problem("this part is not in the join", self.body))
        if index == old:
            return [], (self.id,)
        new_body = parts[index].model_copy(update={"op": "union"})
        new_tool = parts[old].model_copy(update={"op": parts[index].op})
        parts[old], parts[index] = new_body, new_tool
        return [Splice(self.id, 0, len(parts), tuple(parts))], (self.id,)

    def describe(self, piece: Piece) -> str:
        return f"Made {find(piece, self.body).part.name} the body"
