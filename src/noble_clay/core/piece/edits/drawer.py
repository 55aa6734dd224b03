"""What passes between a piece and the maker's parts drawer, where a piece must change for it."""

from __future__ import annotations

from typing import Any, Literal

from noble_clay.core.piece.drawer import CONTENT
from noble_clay.core.piece.edits.edit import Edit, Ids, check_unlocked, names, with_fresh_ids
from noble_clay.core.piece.edits.fields import on_its_foot
from noble_clay.core.piece.models import Join, Part, Piece, Place
from noble_clay.core.piece.tree import Change, Splice, find, outermost


class FollowDrawer(Edit):
    """Copies of what lies in the drawer become as a fresh copy is. part: that, as it was taken out."""

    kind: Literal["follow_drawer"]
    ids: Ids
    part: Part

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        taken = {p.id for p in piece.walk()}
        for spot in outermost(piece, self.ids):
            check_unlocked(spot.part)
            new = followed(spot.part, self.part, taken - {p.id for p in spot.part.walk()} | {spot.part.id})
            taken |= {p.id for p in new.walk()}
            found.append(Splice(spot.parent_id, spot.index, 1, (new,)))
        return found, self.ids

    def describe(self, piece: Piece) -> str:
        return f"Let {names([find(piece, i).part for i in self.ids])} follow the drawer"


class TakeIn(Edit):
    """A piece that lies in the drawer becomes what a copy of it was made into. part: that copy."""

    kind: Literal["take_in"]
    part: Part

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        return [Splice(None, 0, len(piece.parts), put_back(piece, self.part))], ()

    def describe(self, piece: Piece) -> str:
        return f"Put {self.part.name} back, changed"


def followed(part: Part, fresh: Part, taken: set[str]) -> Part:
    """A copy with the content, size where that is fixed, and note of a fresh one. taken: ids that others have."""
    update: dict[str, Any] = {n: getattr(with_fresh_ids(fresh, set(taken)), n) for n in (*CONTENT, "drawer")}
    if fresh.fixed_scale:
        update["place"] = part.place.model_copy(update={"scale": fresh.place.scale})
    for own in ("copies", "colour"):
        if getattr(part, own) is None:
            update[own] = getattr(fresh, own)
    return on_its_foot(part, part.model_copy(update=update))


def put_back(kept: Piece, part: Part) -> tuple[Part, ...]:
    """The parts that the drawer has of a piece once a changed copy is put back into it."""
    if len(kept.parts) == 1:
        (only,) = kept.parts
        new = followed(only, part.model_copy(update={"copies": None}), {only.id})
        scale = part.place.scale if kept.drawer and kept.drawer.fixed else only.place.scale
        place = new.place.model_copy(update={"scale": scale})
        return (new.model_copy(update={"place": place, "drawer": None, "colour": part.colour or only.colour}),)
    if part.join is not None and not part.changed and part.join == Join(parts=part.join.parts):
        return part.join.parts
    stands = {"op": "union", "place": Place(), "flip": (), "copies": None, "blend": None}
    shown = {"hidden": False, "locked": False, "reference": False}
    return (part.model_copy(update={**stands, **shown, "drawer": None, "name": kept.name}),)
