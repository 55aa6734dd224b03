"""The history in a pack: `history.json`, every step of the piece's tree of them, and where on it the piece stands."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import Model, Storable
from noble_clay.core.piece.edits import edit_from_values
from noble_clay.core.piece.edits.restore import Restore
from noble_clay.core.piece.models import Name, Piece
from noble_clay.core.piece.raw import taken_back
from noble_clay.core.piece.read import piece_from_values, validated

MOST_STEPS = 100_000


class PackedStep(Model):
    """before: the number, in the list, of the step that it was made after; None for the first. live: on the line that
    undo and redo go along. inverse: takes it back, an edit of the kind `restore`.
    """

    edit: dict[str, Any]
    inverse: dict[str, Any]
    words: Annotated[str, Field(max_length=400), Storable]
    chosen: tuple[str, ...] = ()
    before: Annotated[int, Field(ge=0)] | None = None
    live: bool
    version: Name | None = None
    at: datetime


class PackedHistory(Model):
    """The steps, each after the one it was made after. position: how many of the live ones are applied."""

    format: Literal["noble-clay-history"]
    version: Literal[1]
    position: Annotated[int, Field(ge=0)]
    steps: Annotated[tuple[PackedStep, ...], Field(max_length=MOST_STEPS)]

    def text(self) -> str:
        return self.model_dump_json(exclude_defaults=True)


def history_from_json(text: bytes, piece: Piece) -> PackedHistory:
    """The history of a piece. Raises PieceError for one that does not hold together, or does not lead to the piece."""
    try:
        found = validated(PackedHistory.model_validate_json, text)
        _check_tree(found)
        for step in found.steps:
            edit_from_values(step.edit)
            if not isinstance(edit_from_values(step.inverse), Restore):
                raise PieceError(Problem("a step has no inverse that takes it back"))
        beginning = piece.dump()
        for step in reversed([s for s in found.steps if s.live][: found.position]):
            beginning = taken_back(beginning, step.inverse)
        piece_from_values(beginning)
    except PieceError as error:
        words = f"the history in the pack cannot be read ({error}); without its history.json the piece opens alone"
        raise PieceError(Problem(words)) from None
    return found


def _check_tree(history: PackedHistory) -> None:
    last_live = None
    for number, step in enumerate(history.steps):
        if step.before is not None and step.before >= number:
            raise PieceError(Problem("a step stands before the one it was made after", field=f"steps[{number}].before"))
        if step.live:
            if step.before != last_live:
                raise PieceError(Problem("the steps of its line do not follow each other", field=f"steps[{number}]"))
            last_live = number
    if history.position > sum(s.live for s in history.steps):
        raise PieceError(Problem("it stands beyond its last step", field="position"))
