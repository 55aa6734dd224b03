"""Plain changes to the tree as an edit: what every inverse is."""

from __future__ import annotations

from typing import Literal

from noble_clay.core.fields import Model
from noble_clay.core.piece.edits.edit import Change, Edit
from noble_clay.core.piece.models import Name, Part, Piece
from noble_clay.core.piece.tree import Put, Splice


class SpliceStep(Model):
    kind: Literal["splice"]
    parent: str | None
    index: int
    remove: int
    insert: tuple[Part, ...]


class PutStep(Model):
    kind: Literal["put"]
    part: Part


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


def step(change: Change) -> SpliceStep | PutStep:
    if isinstance(change, Put):
        return PutStep(kind="put", part=change.part)
    return SpliceStep(
        kind="splice", parent=change.parent, index=change.index, remove=change.remove, insert=change.insert
    )
