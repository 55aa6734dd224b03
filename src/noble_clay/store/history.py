"""The history of a piece: a tree of steps, of which one line is the one that undo and redo go along.

Nothing is lost by going back and working on: what was there before is another way on from the same step, and going to
any step of it makes that way the line again.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, insert, select, update
from sqlalchemy.orm import Session

from noble_clay.core.errors import ClayError, PieceError, Problem
from noble_clay.core.formats.steps import PackedHistory, PackedStep
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.raw import taken_back
from noble_clay.core.piece.read import piece_from_values
from noble_clay.store.pieces import KEPT_EVERY, StoredPiece, create_piece, keep_document, load_piece, row_at, row_of
from noble_clay.store.tables import EditRow, PieceRow

BEGINNING = 0
"""The id that stands for the piece before its first step."""


class NoSuchStep(ClayError):
    """The piece has no such step."""


@dataclass(frozen=True)
class Step:
    """id; number: how many steps lead to it. before: the id of the step it was made after, or BEGINNING. live: on the
    line of undo and redo. version: what the maker calls what it left.
    """

    id: int
    number: int
    before: int
    live: bool
    words: str
    at: datetime
    version: str | None


@dataclass(frozen=True)
class Way:
    """Another way on from a step: its newest end, and how many steps lead there from where it parts."""

    end: Step
    steps: int


class History:
    """All steps of a piece, as they are now. position: the number of the one that the piece stands at."""

    def __init__(self, session: Session, row: PieceRow) -> None:
        e = EditRow
        columns = e.id, e.number, func.coalesce(e.before_id, BEGINNING), e.live, e.description, e.at, e.version
        rows = session.execute(select(*columns).where(e.piece_id == row.id).order_by(e.id))
        steps = [Step(*values) for values in rows]
        self.position = row.position
        self.steps = {s.id: s for s in steps}
        self.line = sorted((s for s in steps if s.live), key=lambda s: s.number)
        self._after: dict[int, list[Step]] = defaultdict(list)
        for s in steps:
            self._after[s.before].append(s)

    @property
    def here(self) -> int:
        """The id of the step that the piece stands at."""
        return self.line[self.position - 1].id if self.position else BEGINNING

    def way_to(self, step_id: int) -> list[Step]:
        """The steps from the beginning to one, itself last. Raises NoSuchStep."""
        found: list[Step] = []
        while step_id != BEGINNING:
            step = self.steps.get(step_id)
            if step is None:
                raise NoSuchStep("this step is not in the piece's history")
            found.append(step)
            step_id = step.before
        return found[::-1]

    def on_from(self, step_id: int) -> list[Step]:
        """The way on from a step: at each fork the newest."""
        found: list[Step] = []
        while after := self._after[found[-1].id if found else step_id]:
            found.append(after[-1])
        return found

    def other_ways(self, step_id: int) -> list[Way]:
        """The ways on from a step that are not the line, the newest first."""
        found = []
        for first in reversed(self._after[step_id]):
            if not first.live:
                further = self.on_from(first.id)
                found.append(Way((further or [first])[-1], 1 + len(further)))
        return found


def history(session: Session, piece_id: str) -> History:
    """Raises NoSuchPiece."""
    return History(session, row_of(session, piece_id))


def document_at(session: Session, piece_id: str, step_id: int) -> dict[str, Any]:
    """The document as a step left it. Raises NoSuchPiece, NoSuchStep, PieceError."""
    row = row_of(session, piece_id)
    return _document(session, row, History(session, row), step_id)


def go_to(session: Session, piece_id: str, base: int, step_id: int) -> StoredPiece:
    """Bring the piece to where a step left it, as one revision; undo and redo then go along the way to it, and on.

    Raises NoSuchPiece, NoSuchStep; StaleRevision when the piece is not at `base` any more.
    """
    row = row_at(session, piece_id, base)
    known = History(session, row)
    way = known.way_to(step_id)
    document = _document(session, row, known, step_id)
    piece = piece_from_values(document)
    if not all(step.live for step in way):
        line = {s.id for s in [*way, *known.on_from(step_id)]}
        _set_live(session, [s.id for s in known.line if s.id not in line], False)
        _set_live(session, [i for i in line if not known.steps[i].live], True)
    row.revision += 1
    row.position = len(way)
    keep_document(session, row, piece, piece.dump())
    session.flush()
    return load_piece(session, piece_id)


def name_version(session: Session, piece_id: str, step_id: int, name: str | None) -> None:
    """Call what a step left by a name, or by none. Raises NoSuchPiece, NoSuchStep."""
    row_of(session, piece_id)
    mine = EditRow.piece_id == piece_id, EditRow.id == step_id
    if session.scalar(update(EditRow).where(*mine).values(version=name).returning(EditRow.id)) is None:
        raise NoSuchStep("this step is not in the piece's history")


def copy_of(session: Session, piece_id: str, step_id: int, name: str) -> StoredPiece:
    """A new piece, as a step left this one. Raises NoSuchPiece, NoSuchStep, PieceError."""
    piece = piece_from_values(document_at(session, piece_id, step_id))
    return create_piece(session, piece.model_copy(update={"name": name}))


def packed(session: Session, piece_id: str) -> PackedHistory:
    """All steps of a piece, as a pack has them. Raises NoSuchPiece."""
    row = row_of(session, piece_id)
    rows = session.scalars(select(EditRow).where(EditRow.piece_id == piece_id).order_by(EditRow.id)).all()
    numbers = {e.id: number for number, e in enumerate(rows)}
    steps = tuple(
        PackedStep(
            edit=e.edit,
            inverse=e.inverse,
            words=e.description,
            chosen=tuple(e.chosen),
            before=None if e.before_id is None else numbers[e.before_id],
            live=e.live,
            version=e.version,
            at=e.at,
        )
        for e in rows
    )
    return PackedHistory(format="noble-clay-history", version=1, position=row.position, steps=steps)


def unpack(session: Session, piece_id: str, history: PackedHistory) -> None:
    """Give a piece that was just begun the steps that led to it."""
    row = row_of(session, piece_id, lock=True)
    kept = _kept_on_the_way(row.document, history)
    depths: list[int] = []
    values = []
    for number, step in enumerate(history.steps):
        depths.append(1 if step.before is None else depths[step.before] + 1)
        values.append(
            {
                "piece_id": piece_id,
                "number": depths[-1],
                "revision": number + 1,
                "request_id": f"unpacked-{number}",
                "edit": step.edit,
                "inverse": step.inverse,
                "description": step.words,
                "chosen": list(step.chosen),
                "live": step.live,
                "document": kept.get(number),
                "version": step.version,
                "at": step.at,
            }
        )
    if values:
        ids = session.scalars(insert(EditRow).returning(EditRow.id, sort_by_parameter_order=True), values).all()
        after = [(i, step.before) for i, step in zip(ids, history.steps, strict=True) if step.before is not None]
        if after:
            session.execute(update(EditRow), [{"id": i, "before_id": ids[before]} for i, before in after])
    row.position, row.revision = history.position, len(values)
    session.flush()


def _kept_on_the_way(document: dict[str, Any], history: PackedHistory) -> dict[int, dict[str, Any]]:
    """What every so many steps of the line left, by their number in the pack; as edits keep it when they are made."""
    found = {}
    line = [(number, step) for number, step in enumerate(history.steps) if step.live][: history.position]
    for depth, (number, step) in reversed(list(enumerate(line, 1))):
        if depth % KEPT_EVERY == 0:
            found[number] = document
        document = taken_back(document, step.inverse)
    return found


def picture_of(session: Session, piece_id: str, step_id: int) -> bytes | None:
    """The picture of what a step left, where one was kept. Raises NoSuchStep."""
    mine = EditRow.piece_id == piece_id, EditRow.id == step_id
    found = session.execute(select(EditRow.picture).where(*mine)).one_or_none()
    if found is None:
        raise NoSuchStep("this step is not in the piece's history")
    return found[0]


def keep_picture(session: Session, step_id: int, picture: bytes) -> None:
    session.execute(update(EditRow).where(EditRow.id == step_id).values(picture=picture))


def _set_live(session: Session, ids: list[int], live: bool) -> None:
    if ids:
        session.execute(update(EditRow).where(EditRow.id.in_(ids)).values(live=live))


def _document(session: Session, row: PieceRow, known: History, step_id: int) -> dict[str, Any]:
    """From the piece as it is now, back to where the ways part; or from a document that was kept nearer; and on."""
    way, here = known.way_to(step_id), known.way_to(known.here)
    shared = sum(1 for a, b in zip(way, here, strict=False) if a.id == b.id)
    kept = select(EditRow.id, EditRow.document).where(
        EditRow.id.in_([s.id for s in way[shared:]]), EditRow.document.is_not(None)
    )
    newest = session.execute(kept.order_by(EditRow.number.desc()).limit(1)).one_or_none()
    if newest is None:
        document, done = row.document, shared
        back = [s.id for s in here[shared:]]
        inverses = _values(session, EditRow.inverse, back)
        for i in reversed(back):
            document = taken_back(document, inverses[i])
    else:
        document, done = newest[1], known.steps[newest[0]].number
    on = [s.id for s in way[done:]]
    if not on:
        return document
    edits = _values(session, EditRow.edit, on)
    piece = piece_from_values(document)
    for i in on:
        try:
            piece = apply(piece, edit_from_values(edits[i])).piece
        except PieceError as error:
            words = f"the way to this step cannot be gone again: {error}"
            raise PieceError(Problem(words)) from error
    return piece.dump()


def _values(session: Session, column: Any, ids: list[int]) -> dict[int, dict[str, Any]]:
    """A column of some steps, by their ids."""
    found = session.execute(select(EditRow.id, column).where(EditRow.id.in_(ids)))
    return {row[0]: row[1] for row in found}
