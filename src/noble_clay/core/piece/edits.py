"""Edits as data: each is a pure function from a piece to the next, and its inverse is an edit too."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, TypeAdapter

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import IsNumber, Length, Model, Point
from noble_clay.core.piece.copies import AnyCopies
from noble_clay.core.piece.limits import check_limits
from noble_clay.core.piece.models import Colour, Join, MeshAsset, Name, Op, Part, PartId, Piece, Place
from noble_clay.core.piece.placing import rotation
from noble_clay.core.piece.read import validated
from noble_clay.core.piece.reframe import out_of, shifted, tidy
from noble_clay.core.piece.tree import Put, Splice, children_of, find, into_frame, spots
from noble_clay.core.primitives.registry import AnyPrimitive

Whole = Annotated[int, IsNumber]
Ids = Annotated[tuple[PartId, ...], Field(min_length=1, max_length=5_000)]
Change = Splice | Put


class Outcome(Model):
    """What an edit did: the new piece, the edit that takes it back, and the parts a maker would now have in hand."""

    piece: Piece
    inverse: AnyEdit
    chosen: tuple[str, ...]


class Edit(Model):
    """One step of a maker's work."""

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        """The changes to the tree, in order, and the ids of the parts in hand afterwards."""
        raise NotImplementedError

    def said(self, piece: Piece) -> str:
        """The edit in a few words, for the history. `piece` is the one before it."""
        raise NotImplementedError


class AddParts(Edit):
    """Put parts into a list, at its end unless `index` says where. Ids already taken are replaced by fresh ones."""

    kind: Literal["add_parts"]
    parts: Annotated[tuple[Part, ...], Field(min_length=1, max_length=5_000)]
    parent: PartId | None = None
    index: Whole | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        siblings = children_of(piece, self.parent)
        index = len(siblings) if self.index is None else max(0, min(self.index, len(siblings)))
        taken = {p.id for p in piece.walk()}
        parts = tuple(with_fresh_ids(part, taken) for part in self.parts)
        return [Splice(self.parent, index, 0, parts)], tuple(p.id for p in parts)

    def said(self, piece: Piece) -> str:
        return f"Put down {_names(list(self.parts))}"


class RemoveParts(Edit):
    """Take parts, with all in them, out of the piece."""

    kind: Literal["remove_parts"]
    ids: Ids

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for spot in reversed(outermost(piece, self.ids)):
            found.append(Splice(spot.parent_id, spot.index, 1, ()))
        return _keep_bodies(piece, found), ()

    def said(self, piece: Piece) -> str:
        return f"Removed {_names([find(piece, i).part for i in self.ids])}"


class PartFields(Model):
    """New values of some of a part's fields; what is not given stays."""

    name: Name | None = None
    op: Op | None = None
    place: Place | None = None
    flip: tuple[Literal["x", "y", "z"], ...] | None = None
    copies: AnyCopies | None = None
    colour: Colour | None = None
    opacity: Annotated[float, Field(ge=0, le=1)] | None = None
    hidden: bool | None = None
    reference: bool | None = None
    locked: bool | None = None
    mesh: MeshAsset | None = None


class SetPart(Edit):
    """Change fields of parts; `copies` and `colour` given as null are taken away."""

    kind: Literal["set_part"]
    ids: Ids
    fields: PartFields

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        given = {name: getattr(self.fields, name) for name in self.fields.model_fields_set}
        for name, value in given.items():
            if value is None and name not in ("copies", "colour"):
                raise PieceError(Problem("cannot be taken away", field=name))
        found: list[Change] = []
        for part_id in self.ids:
            part = find(piece, part_id).part
            _check_unlocked(part, given.keys() - {"locked", "hidden", "name"})
            found.append(Put(_revalidated(part.model_copy(update=given))))
        return found, self.ids

    def said(self, piece: Piece) -> str:
        names = _names([find(piece, i).part for i in self.ids])
        words = {
            "name": "Renamed",
            "op": "Changed how {} enters",
            "place": "Placed",
            "copies": "Copies of",
            "colour": "Glazed",
            "hidden": "Showed or hid",
        }
        first = next(iter(self.fields.model_fields_set), "")
        word = words.get(first, "Changed")
        return word.format(names) if "{}" in word else f"{word} {names}"


class SetPrimitive(Edit):
    """Give a primitive other fields; its foot stays where it was."""

    kind: Literal["set_primitive"]
    id: PartId
    primitive: AnyPrimitive

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        _check_unlocked(part)
        if part.primitive is None:
            raise PieceError(Problem("only a primitive has such fields", self.id))
        return [Put(_on_its_foot(part, part.model_copy(update={"primitive": self.primitive})))], (self.id,)

    def said(self, piece: Piece) -> str:
        return f"Shaped {find(piece, self.id).part.name}"


class Resize(Edit):
    """Make a part so wide, deep and high in its own frame; `was` is the size it is seen to have now, mm.

    A primitive whose own fields can say the new size gets them; any other part is scaled. The foot of a primitive
    stays where it was.
    """

    kind: Literal["resize"]
    id: PartId
    size: tuple[Length, Length, Length]
    was: tuple[Length, Length, Length]

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        _check_unlocked(part)
        factors = tuple(
            1.0 if abs(new - old) < 1e-9 else new / old for new, old in zip(self.size, self.was, strict=True)
        )
        stretched = part.primitive.stretched(factors) if part.primitive else None  # type: ignore[arg-type]
        if stretched is not None:
            values = _tidy_values(stretched.model_dump(exclude_none=True))
            new = part.model_copy(update={"primitive": type(stretched).model_validate(values)})
        else:
            scale = tidy(np.multiply(part.place.scale, factors))
            new = part.model_copy(update={"place": part.place.model_copy(update={"scale": tuple(scale)})})
        return [Put(_revalidated(_on_its_foot(part, new)))], (self.id,)

    def said(self, piece: Piece) -> str:
        return f"Resized {find(piece, self.id).part.name}"


class Move(Edit):
    """Move parts by a way on the wheel, mm."""

    kind: Literal["move"]
    ids: Ids
    by: Point

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for spot in outermost(piece, self.ids):
            _check_unlocked(spot.part)
            step = into_frame(spot.parents, np.array(self.by))
            position = tuple(tidy(np.add(spot.part.place.position, step)))
            place = spot.part.place.model_copy(update={"position": position})
            found.append(Put(_revalidated(spot.part.model_copy(update={"place": place}))))
        return found, self.ids

    def said(self, piece: Piece) -> str:
        return f"Moved {_names([find(piece, i).part for i in self.ids])}"


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
                _reparent(piece, s.part, s.parents, self.parent) if s in moving_out else s.part for s in moving
            )
        else:
            parts = tuple(s.part for s in moving)
        before = sum(1 for s in moving if s.parent_id == self.parent and s.index < self.index)
        index = max(0, min(self.index, len(target))) - before
        found: list[Change] = [Splice(s.parent_id, s.index, 1, ()) for s in reversed(moving)]
        found.append(Splice(self.parent, index, 0, parts))
        return _keep_bodies(piece, found), tuple(s.part.id for s in moving)

    def said(self, piece: Piece) -> str:
        return f"Moved {_names([find(piece, i).part for i in self.ids])} in the recipe"


class JoinParts(Edit):
    """Join parts into one, in the order given: the first is the body, `op` says how the others enter.

    The new join stands where the body stood in the recipe, its origin in the body's middle.
    """

    kind: Literal["join"]
    ids: Annotated[tuple[PartId, ...], Field(min_length=2, max_length=5_000)]
    op: Op
    name: Name | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        by_id = {s.part.id: s for s in outermost(piece, self.ids)}
        if len(by_id) < len(set(self.ids)):
            raise PieceError(Problem("a part and the join that holds it cannot be joined with each other"))
        body = by_id[self.ids[0]]
        if len({s.parent_id for s in by_id.values()}) > 1:
            raise PieceError(Problem("these parts stand in different joins; take them into one list first"))
        if body.part.reference:
            raise PieceError(Problem("a reference is no body; pick another part first", body.part.id))
        origin = np.array(body.part.place.position)
        parts = []
        for i, part_id in enumerate(self.ids):
            part = by_id[part_id].part
            op = "union" if i == 0 else self.op
            parts.append(shifted(part, -origin).model_copy(update={"op": op}))
        taken = {p.id for p in piece.walk()}
        join = Part(
            id=fresh_id("join", taken),
            name=self.name or f"{body.part.name} {'with' if self.op == 'union' else 'cut'}"[:80],
            op=body.part.op,
            join=Join(parts=tuple(parts)),
            place=Place(position=tuple(tidy(origin))),  # type: ignore[arg-type]
            colour=None,
        )
        found: list[Change] = [
            Splice(s.parent_id, s.index, 1, ()) for s in sorted(by_id.values(), key=lambda s: s.index, reverse=True)
        ]
        earlier = sum(1 for s in by_id.values() if s.index < body.index)
        found.append(Splice(body.parent_id, body.index - earlier, 0, (join,)))
        return _keep_bodies(piece, found), (join.id,)

    def said(self, piece: Piece) -> str:
        word = {"union": "United", "difference": "Cut", "intersection": "Kept what is shared by"}[self.op]
        return f"{word} {_names([find(piece, i).part for i in self.ids])}"


class Ungroup(Edit):
    """Put the parts of a join into its parent's list, each where it is."""

    kind: Literal["ungroup"]
    id: PartId

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        spot = find(piece, self.id)
        join = spot.part
        _check_unlocked(join)
        if join.join is None:
            raise PieceError(Problem("only a join can be ungrouped", self.id))
        if join.copies is not None:
            raise PieceError(Problem("this join has copies; take them away before ungrouping it", self.id, "copies"))
        parts = tuple(out_of(join, child) for child in join.children)
        parts = tuple(p.model_copy(update={"colour": p.colour or join.colour}) for p in parts)
        body = next((i for i, p in enumerate(parts) if not p.reference), None)
        if body is not None:
            parts = (*parts[:body], parts[body].model_copy(update={"op": join.op}), *parts[body + 1 :])
        if join.reference:
            parts = tuple(p.model_copy(update={"reference": True}) for p in parts)
        found: list[Change] = [Splice(spot.parent_id, spot.index, 1, parts)]
        return _keep_bodies(piece, found), tuple(p.id for p in parts)

    def said(self, piece: Piece) -> str:
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

    def said(self, piece: Piece) -> str:
        return f"Made {find(piece, self.body).part.name} the body"


class SetPiece(Edit):
    """Rename the piece or write its notes."""

    kind: Literal["set_piece"]
    name: Name | None = None
    notes: Annotated[str, Field(max_length=20_000)] | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        return [], ()

    def said(self, piece: Piece) -> str:
        return "Renamed the piece" if self.name else "Wrote notes"


class Restore(Edit):
    """Plain changes to the tree, in order: the inverse of any edit is one of these."""

    kind: Literal["restore"]
    steps: tuple[SpliceStep | PutStep, ...]
    name: Name | None = None
    notes: str | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for step in self.steps:
            if isinstance(step, SpliceStep):
                found.append(Splice(step.parent, step.index, step.remove, step.insert))
            else:
                found.append(Put(step.part))
        touched = [s.part.id for s in self.steps if isinstance(s, PutStep)]
        touched += [p.id for s in self.steps if isinstance(s, SpliceStep) for p in s.insert]
        return found, tuple(touched)

    def said(self, piece: Piece) -> str:
        return "Took back an edit"


class SpliceStep(Model):
    kind: Literal["splice"]
    parent: str | None
    index: int
    remove: int
    insert: tuple[Part, ...]


class PutStep(Model):
    kind: Literal["put"]
    part: Part


AnyEdit = Annotated[
    AddParts
    | RemoveParts
    | SetPart
    | SetPrimitive
    | Resize
    | Move
    | Arrange
    | JoinParts
    | Ungroup
    | SwapBody
    | SetPiece
    | Restore,
    Field(discriminator="kind"),
]
Outcome.model_rebuild()
Restore.model_rebuild()
EDIT: TypeAdapter[AnyEdit] = TypeAdapter(AnyEdit)


def edit_from_values(raw: Any) -> AnyEdit:
    """An edit from JSON values. Raises PieceError."""
    return validated(EDIT, raw)


def apply(piece: Piece, edit: AnyEdit) -> Outcome:
    """The piece after an edit, and the edit that takes it back exactly. Raises PieceError and changes nothing."""
    changes, chosen = edit.changes(piece)
    after, steps = piece, []
    for change in changes:
        after, back = change.apply(after)
        steps.append(back)
    name, notes = None, None
    if isinstance(edit, SetPiece | Restore):
        if edit.name is not None:
            after, name = after.model_copy(update={"name": edit.name}), piece.name
        if edit.notes is not None:
            after, notes = after.model_copy(update={"notes": edit.notes}), piece.notes
    check_limits(after)
    inverse = Restore(kind="restore", steps=tuple(_step(s) for s in reversed(steps)), name=name, notes=notes)
    return Outcome(piece=after, inverse=inverse, chosen=chosen)


def _step(change: Change) -> SpliceStep | PutStep:
    if isinstance(change, Put):
        return PutStep(kind="put", part=change.part)
    return SpliceStep(
        kind="splice", parent=change.parent, index=change.index, remove=change.remove, insert=change.insert
    )


def outermost(piece: Piece, ids: tuple[str, ...]) -> list[Any]:
    """The spots of the parts named, in recipe order, without those that lie in another one named.

    Raises PieceError when one is not in the piece.
    """
    wanted = set(ids)
    found = [s for s in spots(piece) if s.part.id in wanted]
    missing = wanted - {s.part.id for s in found}
    if missing:
        raise PieceError(Problem("this part is not in the piece any more", min(missing)))
    return [s for s in found if not any(p.id in wanted for p in s.parents)]


def fresh_id(stem: str, taken: set[str]) -> str:
    """An id not in `taken`, made from `stem`; it is added to `taken`."""
    stem = re.sub(r"-\d+$", "", re.sub(r"[^A-Za-z0-9_-]", "-", stem))[:34] or "part"
    found, number = stem, 1
    while found in taken:
        number += 1
        found = f"{stem}-{number}"
    taken.add(found)
    return found


def with_fresh_ids(part: Part, taken: set[str]) -> Part:
    """The part, with new ids where its own or its children's are taken already."""
    part_id = part.id if part.id not in taken else fresh_id(part.id, taken)
    taken.add(part_id)
    update: dict[str, Any] = {"id": part_id}
    if part.join:
        children = tuple(with_fresh_ids(c, taken) for c in part.children)
        update["join"] = part.join.model_copy(update={"parts": children})
    return part.model_copy(update=update)


def _names(parts: list[Part]) -> str:
    if len(parts) <= 3:
        return ", ".join(p.name for p in parts)
    return f"{parts[0].name} and {len(parts) - 1} more"


def _check_unlocked(part: Part, touched: Any = (1,)) -> None:
    if part.locked and touched:
        raise PieceError(Problem("this part is locked; unlock it first", part.id, "locked"))


def _revalidated(part: Part) -> Part:
    """The part with every field checked again: a copy with new values is not checked by itself."""
    return validated(TypeAdapter(Part), part.model_dump(exclude_defaults=True))


def _tidy_values(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _tidy_values(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [_tidy_values(v) for v in value]
    return round(value, 9) if isinstance(value, float) else value


def _on_its_foot(before: Part, after: Part) -> Part:
    """`after` moved so that the middle of its underside, in its own frame, stays where `before` had it."""
    if before.primitive is None or after.primitive is None:
        return after
    feet = []
    for part in (before, after):
        assert part.primitive is not None
        bounds = part.primitive.mesh().bounds
        assert bounds is not None
        low = bounds[0, 2] if "z" not in part.flip else -bounds[1, 2]
        feet.append(low * part.place.scale[2])
    if abs(feet[0] - feet[1]) < 1e-9:
        return after
    shift = rotation(after.place.rotation) @ np.array([0.0, 0.0, feet[0] - feet[1]])
    position = tuple(tidy(np.add(after.place.position, shift)))
    return after.model_copy(update={"place": after.place.model_copy(update={"position": position})})


def _reparent(piece: Piece, part: Part, parents: tuple[Part, ...], target: str | None) -> Part:
    """The part in another join's frame, in the same spot; out of its own joins, then into the target's."""
    for join in reversed(parents):
        part = out_of(join, part)
    if target is None:
        return part
    spot = find(piece, target)
    for join in (*spot.parents, spot.part):
        place = join.place
        if place.rotation != (0, 0, 0) or place.scale != (1, 1, 1) or join.flip:
            raise PieceError(Problem(f'"{join.name}" is turned or scaled, so parts cannot be taken into it', part.id))
        part = shifted(part, -np.array(place.position))
    return part


def _keep_bodies(piece: Piece, changes: list[Change]) -> list[Change]:
    """`changes`, followed by what makes the first part of every touched list enter by union again."""
    after = piece
    for change in changes:
        after, _ = change.apply(after)
    present = {p.id for p in after.walk()}
    for parent in {c.parent for c in changes if isinstance(c, Splice)}:
        if parent is not None and parent not in present:
            continue
        body = next((p for p in children_of(after, parent) if not p.reference), None)
        if body is not None and body.op != "union":
            changes = [*changes, Put(body.model_copy(update={"op": "union"}))]
    return changes
