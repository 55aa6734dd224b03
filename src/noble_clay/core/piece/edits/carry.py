"""Carrying parts as rigid bodies: turned, mirrored and moved on the wheel; repeating a step; breaking copies apart."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import Angle, Model, Point
from noble_clay.core.mesh.affine import IDENTITY, about, compose, inverse, rotation, turn_about_line
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import ROUNDING
from noble_clay.core.piece.edits.edit import Edit, Ids, as_new, check_unlocked, fresh_id, names, with_fresh_ids
from noble_clay.core.piece.models import Join, Part, PartId, Piece
from noble_clay.core.piece.placing import copy_matrices
from noble_clay.core.piece.reframe import carried
from noble_clay.core.piece.tree import Change, Put, Splice, find, frame_of, outermost


class Turn(Model):
    """A right-handed turn about the line through `centre` along `axis`, on the wheel."""

    axis: Point
    angle: Angle
    centre: Point = (0.0, 0.0, 0.0)

    def matrix(self) -> Floats:
        return about(turn_about_line(unit(self.axis, "axis"), self.angle), self.centre)


class Mirror(Model):
    """A reflection in the plane through `centre` square to `normal`, on the wheel."""

    normal: Point
    centre: Point = (0.0, 0.0, 0.0)

    def matrix(self) -> Floats:
        normal = unit(self.normal, "normal")
        return about(np.eye(3) - 2 * np.outer(normal, normal), self.centre)


class Carried(Model):
    """How one part is carried: first turned or mirrored, then moved by `by` mm on the wheel."""

    id: PartId
    turn: Turn | None = None
    mirror: Mirror | None = None
    by: Point = (0.0, 0.0, 0.0)

    def matrix(self) -> Floats:
        """(3, 4) on the wheel."""
        found = self.turn.matrix() if self.turn else IDENTITY.copy()
        if self.mirror:
            found = compose(self.mirror.matrix(), found)
        return np.column_stack([found[:, :3], found[:, 3] + np.array(self.by)])


How = Literal["Turned", "Moved", "Seated", "Lined up", "Sank", "Set down", "Centred", "Mirrored"]


class Carry(Edit):
    """Carry parts as rigid bodies; their copies follow. Parts that lie in another part carried go with it."""

    kind: Literal["carry"]
    moves: Annotated[tuple[Carried, ...], Field(min_length=1, max_length=5_000)]
    how: How = "Moved"

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        by_id = {move.id: move for move in self.moves}
        found: list[Change] = []
        for spot in outermost(piece, tuple(by_id)):
            check_unlocked(spot.part)
            frame = frame_of(spot.parents)
            within = compose(inverse(frame), compose(by_id[spot.part.id].matrix(), frame))
            found.append(Put(carried(spot.part, within)))
        return found, tuple(by_id)

    def describe(self, piece: Piece) -> str:
        return f"{self.how} {names([find(piece, m.id).part for m in self.moves])}"


class Again(Edit):
    """Duplicate parts once more by the step that led to them; `before` are what `ids` came from, in order."""

    kind: Literal["again"]
    ids: Ids
    before: Ids

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        if len(self.ids) != len(self.before):
            raise PieceError(Problem("each duplicate needs the part that it came from", field="before"))
        taken, known = {p.id for p in piece.walk()}, {p.name for p in piece.walk()}
        found: list[Change] = []
        chosen = []
        for part_id, before_id in zip(self.ids, self.before, strict=True):
            spot, before = find(piece, part_id), find(piece, before_id).part
            part = spot.part
            new = as_new(carried(part, _step(before, part)), taken, known)
            last = len(find(piece, spot.parent_id).part.children) if spot.parent_id else len(piece.parts)
            earlier = sum(isinstance(c, Splice) and c.parent == spot.parent_id for c in found)
            found.append(Splice(spot.parent_id, last + earlier, 0, (new,)))
            chosen.append(new.id)
        return found, tuple(chosen)

    def describe(self, piece: Piece) -> str:
        return f"Duplicated {names([find(piece, i).part for i in self.ids])} again"


class BreakCopies(Edit):
    """Make every copy of parts a part of its own."""

    kind: Literal["break_copies"]
    ids: Ids

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        taken = {p.id for p in piece.walk()}
        found: list[Change] = []
        chosen: list[str] = []
        for part_id in self.ids:
            spot = find(piece, part_id)
            part = spot.part
            check_unlocked(part)
            if part.copies is None:
                raise PieceError(Problem("this part has no copies", part_id, "copies"))
            alone = part.model_copy(update={"copies": None})
            parts = [alone.model_copy(update={"name": f"{part.name} 1"[-80:]})]
            for number, matrix in enumerate(copy_matrices(part)[1:], 2):
                copy = carried(alone, matrix).model_copy(update={"name": f"{part.name} {number}"[-80:]})
                parts.append(with_fresh_ids(copy, taken))
            chosen += [p.id for p in parts]
            if part.op == "intersection":  # what all copies share with the body, not each in turn
                parts = [p.model_copy(update={"op": "union"}) for p in parts]
                join_id = fresh_id("join", taken)
                parts = [Part(id=join_id, name=part.name, op="intersection", join=Join(parts=tuple(parts)))]
            shift = sum(
                len(c.insert) - c.remove
                for c in found
                if isinstance(c, Splice) and c.parent == spot.parent_id and c.index < spot.index
            )
            found.append(Splice(spot.parent_id, spot.index + shift, 1, tuple(parts)))
        return found, tuple(chosen)

    def describe(self, piece: Piece) -> str:
        return f"Broke the copies of {names([find(piece, i).part for i in self.ids])} apart"


def _step(before: Part, after: Part) -> Floats:
    """(3, 4) in their parent's frame: what took `before` to where `after` is; a plain movement when one is mirrored."""
    turn = np.eye(3)
    if set(before.flip) == set(after.flip):
        turn = rotation(after.place.rotation) @ rotation(before.place.rotation).T
    start, end = np.array(before.place.position), np.array(after.place.position)
    return np.column_stack([turn, end - turn @ start])


def unit(vector: Point, field: str) -> Floats:
    """Raises PieceError for a vector without direction."""
    length = float(np.linalg.norm(vector))
    if length < ROUNDING:
        raise PieceError(Problem("needs a direction", field=field, value=list(vector)))
    found: Floats = np.array(vector) / length
    return found
