"""Plain changes to the tree as an edit: what every inverse is."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from noble_clay.core.fields import Flag, IsNumber, Model
from noble_clay.core.piece.beside import Measure, ReferencePicture
from noble_clay.core.piece.edits.edit import Edit, given_fields
from noble_clay.core.piece.limits import MAX_PARTS
from noble_clay.core.piece.models import InDrawer, Name, Notes, Part, PartId, Piece
from noble_clay.core.piece.tree import Change, Put, Splice

Position = Annotated[int, Field(ge=0, le=MAX_PARTS), IsNumber]


class SpliceStep(Model):
    kind: Literal["splice"]
    parent: PartId | None
    index: Position
    remove: Position
    insert: tuple[Part, ...]


class PutStep(Model):
    """own: the list of the join that stands there stays, and `part` comes without one."""

    kind: Literal["put"]
    part: Part
    own: Flag = False


class Restore(Edit):
    """Plain changes to the tree, in order: the inverse of any edit is one of these."""

    kind: Literal["restore"]
    steps: tuple[SpliceStep | PutStep, ...]
    name: Name | None = None
    notes: Notes | None = None
    drawer: InDrawer | None = None
    pictures: tuple[ReferencePicture, ...] | None = None
    measures: tuple[Measure, ...] | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for step in self.steps:
            if isinstance(step, SpliceStep):
                found.append(Splice(step.parent, step.index, step.remove, step.insert))
            else:
                found.append(Put(step.part, step.own))
        touched = [s.part.id for s in self.steps if isinstance(s, PutStep)]
        touched += [p.id for s in self.steps if isinstance(s, SpliceStep) for p in s.insert]
        return found, tuple(touched)

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        return given_fields(self)

    def describe(self, piece: Piece) -> str:
        return "Took back an edit"


def step(change: Change) -> SpliceStep | PutStep:
    if isinstance(change, Put):
        return PutStep(kind="put", part=change.part, own=change.own)
    return SpliceStep(
        kind="splice", parent=change.parent, index=change.index, remove=change.remove, insert=change.insert
    )
