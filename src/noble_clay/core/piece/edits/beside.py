"""What is kept beside the parts: reference pictures and measures, put there, changed and taken away."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.beside import MOST_MEASURES, MOST_PICTURES, Measure, OwnId, ReferencePicture
from noble_clay.core.piece.edits.edit import Edit
from noble_clay.core.piece.models import Piece

UNLOCKED = frozenset({"locked", "hidden", "name"})
"""Fields of a reference picture that may change while it is locked."""


class KeepPicture(Edit):
    """Stand a reference picture in the piece, or change the one of that id."""

    kind: Literal["keep_picture"]
    picture: ReferencePicture

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        was = _picture(piece, self.picture.id)
        if was is None and len(piece.pictures) >= MOST_PICTURES:
            raise PieceError(Problem(f"a piece has at most {MOST_PICTURES} reference pictures", field="pictures"))
        if was is not None:
            _check_unlocked(was, self.picture)
        others = [self.picture if p.id == self.picture.id else p for p in piece.pictures]
        return {"pictures": tuple(others if was is not None else [*others, self.picture])}

    def describe(self, piece: Piece) -> str:
        was, name = _picture(piece, self.picture.id), self.picture.name
        if was is None:
            return f"Stood the picture {name}"
        fields = [f for f in type(was).model_fields if getattr(was, f) != getattr(self.picture, f)]
        words = {
            "width": "Scaled",
            "name": "Renamed",
            "opacity": "Dimmed",
            "hidden": "Hid" if self.picture.hidden else "Showed",
            "locked": "Locked" if self.picture.locked else "Unlocked",
        }
        return f"{next((words[f] for f in words if f in fields), 'Placed')} the picture {name}"


class DropPicture(Edit):
    """Take a reference picture away."""

    kind: Literal["drop_picture"]
    id: OwnId

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        was = _picture(piece, self.id)
        if was is None:
            raise PieceError(Problem("this picture is not in the piece any more", field="id", value=self.id))
        if was.locked:
            raise PieceError(Problem(f"the picture {was.name} is locked; unlock it first", field="locked"))
        return {"pictures": tuple(p for p in piece.pictures if p.id != self.id)}

    def describe(self, piece: Piece) -> str:
        was = _picture(piece, self.id)
        return f"Took away the picture {was.name if was else ''}".rstrip()


class KeepMeasure(Edit):
    """Keep what was measured; of too many, the oldest goes."""

    kind: Literal["keep_measure"]
    measure: Measure

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        others = tuple(m for m in piece.measures if m.id != self.measure.id)
        return {"measures": (*others, self.measure)[-MOST_MEASURES:]}

    def describe(self, piece: Piece) -> str:
        start, end = self.measure.start, self.measure.end
        if end is None:
            return f"Measured at a {start.kind}"
        return f"Measured {np.linalg.norm(np.subtract(end.point, start.point)):.4g} mm"


class DropMeasures(Edit):
    """Take measures away; those that are gone already do no harm."""

    kind: Literal["drop_measures"]
    ids: Annotated[tuple[OwnId, ...], Field(min_length=1, max_length=MOST_MEASURES)]

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        return {"measures": tuple(m for m in piece.measures if m.id not in self.ids)}

    def describe(self, piece: Piece) -> str:
        return "Took a measure away" if len(self.ids) == 1 else f"Took {len(self.ids)} measures away"


def _picture(piece: Piece, picture_id: str) -> ReferencePicture | None:
    return next((p for p in piece.pictures if p.id == picture_id), None)


def _check_unlocked(was: ReferencePicture, now: ReferencePicture) -> None:
    changed = {f for f in type(was).model_fields if getattr(was, f) != getattr(now, f)}
    if was.locked and now.locked and changed - UNLOCKED:
        raise PieceError(Problem(f"the picture {was.name} is locked; unlock it first", field="locked"))
