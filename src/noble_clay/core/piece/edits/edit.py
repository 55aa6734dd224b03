"""What every edit is, and what edits have in common: names, fresh ids, locks, bodies."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Annotated, Any

from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import IsNumber, Model
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.piece.limits import SIZE_FIXED
from noble_clay.core.piece.models import MOST_NAME, OWN_FIELDS, Part, PartId, Piece
from noble_clay.core.piece.tree import Change, Put, Splice, apply_changes, children_of

Whole = Annotated[int, IsNumber]
Ids = Annotated[tuple[PartId, ...], Field(min_length=1, max_length=5_000)]


SolidOf = Callable[[Part], Solid]
"""Gives a part's solid in its parent's frame."""


class Edit(Model):
    """One step of a maker's work."""

    @property
    def may_be_impossible(self) -> bool:
        """Whether only the solids of its parts can show that it cannot be made: that is looked at before it is kept."""
        return False

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        """The changes to the tree, in order, and the ids of the parts in hand afterwards."""
        return [], ()

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        """New values of the piece's own fields (`OWN_FIELDS`)."""
        return {}

    def check_solids(self, piece: Piece, solid_of: SolidOf) -> None:
        """Raises PieceError for an edit that only the solids of its parts show to be impossible."""

    def describe(self, piece: Piece) -> str:
        """The edit in a few words, for the history. `piece` is the one before it."""
        raise NotImplementedError


def given_fields(edit: Edit) -> dict[str, Any]:
    """The piece's own fields that an edit gives as its own."""
    return {n: v for n in OWN_FIELDS if (v := getattr(edit, n, None)) is not None}


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


def fresh_name(name: str, taken: set[str]) -> str:
    """`name`, or where it is taken already, the same with the next number; it is added to `taken`."""
    found, number = name, 1
    stem = re.sub(r" \d+$", "", name)
    while found in taken:
        number += 1
        ending = f" {number}"
        found = stem[: MOST_NAME - len(ending)] + ending
    taken.add(found)
    return found


def as_new(part: Part, ids: set[str], known: set[str]) -> Part:
    """The part as one beside those that are there: with fresh ids, and a number where its name is taken."""
    return with_fresh_ids(part, ids).model_copy(update={"name": fresh_name(part.name, known)})


def names(parts: list[Part]) -> str:
    if len(parts) <= 3:
        return ", ".join(p.name for p in parts)
    return f"{parts[0].name} and {len(parts) - 1} more"


def check_unlocked(part: Part, touched: Any = (1,)) -> None:
    if part.locked and touched:
        raise PieceError(Problem("this part is locked; unlock it first", part.id, "locked"))


def check_free(part: Part) -> None:
    if part.fixed_scale:
        raise PieceError(Problem(SIZE_FIXED, part.id, "drawer.scale"))


def keep_bodies(piece: Piece, changes: list[Change]) -> list[Change]:
    """`changes`, followed by what makes the first part of every touched list enter by union again."""
    after, _ = apply_changes(piece, changes)
    present = {p.id for p in after.walk()}
    for parent in {c.parent for c in changes if isinstance(c, Splice)}:
        if parent is not None and parent not in present:
            continue
        body = next((p for p in children_of(after, parent) if not p.reference), None)
        if body is not None and body.op != "union":
            changes = [*changes, Put(body.model_copy(update={"op": "union"}))]
    return changes
