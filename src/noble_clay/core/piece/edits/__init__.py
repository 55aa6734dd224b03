"""Edits as data: each is a pure function from a piece to the next, and its inverse is an edit too."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from pydantic import ConfigDict, TypeAdapter, ValidationError

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import Model
from noble_clay.core.piece.edits.bake import Bake
from noble_clay.core.piece.edits.beside import DropMeasures, DropPicture, KeepMeasure, KeepPicture
from noble_clay.core.piece.edits.carry import Again, BreakCopies, Carry
from noble_clay.core.piece.edits.cutters import CutInside, CutWithCopy
from noble_clay.core.piece.edits.drawer import FollowDrawer, TakeIn
from noble_clay.core.piece.edits.edit import Edit
from noble_clay.core.piece.edits.fields import Move, Resize, SetChordError, SetPart, SetPiece, SetPrimitive
from noble_clay.core.piece.edits.follow import followings
from noble_clay.core.piece.edits.joins import JoinParts, SwapBody, Ungroup
from noble_clay.core.piece.edits.mended import Mended
from noble_clay.core.piece.edits.parts import AddParts, Arrange, RemoveParts
from noble_clay.core.piece.edits.restore import Restore, step
from noble_clay.core.piece.edits.several import Several
from noble_clay.core.piece.edits.shape import SetChanges, SetJoin
from noble_clay.core.piece.edits.split import Split
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import check_readable, problems_of, validated
from noble_clay.core.piece.tree import apply_changes
from noble_clay.core.registry import any_of, by_kind, extended

EDITS: dict[str, type[Edit]] = by_kind(
    extended(
        "EDITS",
        [
            AddParts,
            RemoveParts,
            SetPart,
            SetPrimitive,
            SetChordError,
            Resize,
            Move,
            Carry,
            Again,
            BreakCopies,
            Arrange,
            JoinParts,
            Ungroup,
            SwapBody,
            Split,
            CutWithCopy,
            CutInside,
            SetChanges,
            SetJoin,
            Bake,
            Mended,
            FollowDrawer,
            TakeIn,
            Several,
            SetPiece,
            KeepPicture,
            DropPicture,
            KeepMeasure,
            DropMeasures,
            Restore,
        ],
    )
)
"""Kind to class: a new edit is a new class and one line here."""

if TYPE_CHECKING:
    AnyEdit = Edit
else:
    AnyEdit = any_of(EDITS.values())

EDIT: TypeAdapter[AnyEdit] = TypeAdapter(AnyEdit, config=ConfigDict(defer_build=True))


class Outcome(Model):
    """What an edit did: the new piece, the edit that takes it back, and the parts a maker would now have in hand."""

    piece: Piece
    inverse: Restore
    chosen: tuple[str, ...]


def edit_from_values(raw: Any) -> AnyEdit:
    """An edit from JSON values. Raises PieceError."""
    return validated(EDIT.validate_python, raw)


def apply(piece: Piece, edit: AnyEdit) -> Outcome:
    """The piece after an edit, and the edit that takes it back exactly. Raises PieceError and changes nothing.

    What is returned will be read back as it is: `check_readable` sees to that.
    """
    try:
        changes, chosen = edit.changes(piece)
        after, back = apply_changes(piece, changes)
        if not isinstance(edit, Restore):
            after, more = apply_changes(after, followings(after))
            back = [*more, *back]
    except ValidationError as error:  # a part that the edit makes is none
        raise PieceError(problems_of(error.errors(include_url=False), {})) from None
    except (ArithmeticError, np.linalg.LinAlgError):
        raise PieceError(Problem("the sizes and scales in this come to no place that can be worked out")) from None
    own = edit.own_fields(piece)
    after, was = after.model_copy(update=own), {n: getattr(piece, n) for n in own}
    check_readable(piece, after)
    inverse = Restore(kind="restore", steps=tuple(step(s) for s in back), **was)
    return Outcome(piece=after, inverse=inverse, chosen=chosen)
