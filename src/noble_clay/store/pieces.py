"""Pieces and their edits: every change of a piece is one transaction, and one revision."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ColumnElement, delete, func, select, update
from sqlalchemy.orm import Session

from noble_clay.core.errors import ClayError, PieceError, Problem
from noble_clay.core.piece.edits import AnyEdit, apply, edit_from_values
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.raw import taken_back
from noble_clay.store.reading import note_document, read_document, unreadable_why
from noble_clay.store.tables import EditRow, PieceRow

CHANNEL = "noble_clay_pieces"
"""On which every new revision of a piece is told: its id and the revision."""

KEPT_EVERY = 50
"""With every so many steps the whole document is kept, so that no step is far from one."""


class NoSuchPiece(ClayError):
    """There is no piece of that id, or it lies in the bin."""


class StaleRevision(ClayError):
    """The piece has changed since, and the edit no longer makes sense on what it is now."""


@dataclass(frozen=True)
class StoredPiece:
    """A piece as the store has it. undo and redo: what they would take back or do again, in words, or None. soundness:
    as `keep_soundness` kept it for this revision.
    """

    id: str
    piece: Piece
    revision: int
    undo: str | None
    redo: str | None
    demo: bool
    changed_at: datetime
    chosen: tuple[str, ...] = ()
    soundness: dict[str, Any] | None = None


@dataclass(frozen=True)
class Broken:
    """A piece whose document cannot be read. why: in words. undo: what taking a step back would take back, or None.
    steps_back: how many steps lead to a document that can be read; None where none does.
    """

    id: str
    name: str
    revision: int
    why: str
    undo: str | None
    steps_back: int | None


class Unreadable(ClayError):
    """A piece cannot be read; it can be taken back, taken away as a file, and put into the bin."""

    def __init__(self, broken: Broken) -> None:
        self.broken = broken
        super().__init__(f'"{broken.name}" cannot be read as it is kept: {broken.why}')


def create_piece(session: Session, piece: Piece, demo: bool = False, piece_id: str | None = None) -> StoredPiece:
    """Keep a new piece, under an id of its own unless one is given."""
    own_id = piece_id or secrets.token_hex(8)
    row = PieceRow(id=own_id, name=piece.name, document=piece.dump(), revision=0, position=0, demo=demo)
    session.add(row)
    session.flush()
    session.refresh(row)
    return _kept(row, piece, undo=None, redo=None)


def load_piece(session: Session, piece_id: str) -> StoredPiece:
    """Raises NoSuchPiece, and Unreadable for a document that cannot be read."""
    found = _looked_up(session, row_of(session, piece_id))
    if isinstance(found, Broken):
        raise Unreadable(found)
    return found


def raw_document(session: Session, piece_id: str) -> dict[str, Any]:
    """The document as it is kept, readable or not. Raises NoSuchPiece."""
    return row_of(session, piece_id).document


def apply_edit(session: Session, piece_id: str, base: int, request_id: str, edit: AnyEdit) -> StoredPiece:
    """Apply an edit that was made on revision `base`.

    A request that was accepted before is answered again and not done twice. On a stale base the edit is tried on the
    piece as it is now. Raises StaleRevision where it makes no sense there, PieceError where it never would.
    """
    row = row_of(session, piece_id, lock=True)
    if (done := _done_before(session, row, request_id)) is not None:
        return done
    piece = _read(session, row)
    try:
        outcome = apply(piece, edit)
    except PieceError as error:
        if base != row.revision:
            raise StaleRevision(f"the piece has changed since: {error}") from error
        raise
    before = _step_id(session, row, row.position)
    row.revision += 1
    row.position += 1
    description = edit.describe(piece)
    overtaken = EditRow.piece_id == piece_id, EditRow.live, EditRow.number >= row.position
    session.execute(update(EditRow).where(*overtaken).values(live=False))
    document = outcome.piece.dump()
    session.add(
        EditRow(
            piece_id=piece_id,
            number=row.position,
            revision=row.revision,
            request_id=request_id,
            edit=edit.model_dump(mode="json", exclude_unset=True),
            inverse=outcome.inverse.model_dump(mode="json", exclude_defaults=True),
            description=description,
            chosen=list(outcome.chosen),
            live=True,
            before_id=before,
            document=document if row.position % KEPT_EVERY == 0 else None,
        )
    )
    keep_document(session, row, outcome.piece, document)
    session.flush()
    return _kept(row, outcome.piece, undo=description, redo=None, chosen=outcome.chosen)


def done_before(session: Session, piece_id: str, request_id: str) -> StoredPiece | None:
    """The piece, where a request was accepted before; else None."""
    return _done_before(session, row_of(session, piece_id), request_id)


def undo(session: Session, piece_id: str, base: int) -> StoredPiece | Broken:
    """Take the last applied edit back, also of a piece that cannot be read. Raises StaleRevision when the piece is not
    at `base` any more.
    """
    row = row_at(session, piece_id, base)
    if unreadable_why(row.id, row.document) is None:
        return _step(session, row, back=True)
    return _take_back(session, row, 1)


def go_back(session: Session, piece_id: str, base: int) -> StoredPiece | Broken:
    """Take a piece that cannot be read back to the last of its states that can be, as one revision."""
    row = row_at(session, piece_id, base)
    if unreadable_why(row.id, row.document) is None:
        raise PieceError(Problem("this piece can be read; there is nothing to go back from"))
    steps, _ = _way_back(session, row)
    if steps is None:
        raise PieceError(Problem("none of its earlier states can be read; download it, and put it into the bin"))
    return _take_back(session, row, steps)


def redo(session: Session, piece_id: str, base: int) -> StoredPiece:
    """Do the last undone edit again. Raises StaleRevision when the piece is not at `base` any more."""
    return _step(session, row_at(session, piece_id, base), back=False)


def row_at(session: Session, piece_id: str, base: int) -> PieceRow:
    """The row, locked. Raises NoSuchPiece; StaleRevision when the piece is not at `base` any more."""
    row = row_of(session, piece_id, lock=True)
    if row.revision != base:
        raise StaleRevision("the piece has changed since; look at it and try again")
    return row


def _step(session: Session, row: PieceRow, back: bool) -> StoredPiece:
    edit = _edit_at(session, row, row.position if back else row.position + 1)
    if edit is None:
        raise PieceError(Problem("there is nothing to undo" if back else "there is nothing to redo"))
    values = edit.inverse if back else edit.edit
    outcome = apply(_read(session, row), edit_from_values(values))
    row.revision += 1
    row.position += -1 if back else 1
    keep_document(session, row, outcome.piece, outcome.piece.dump())
    session.flush()
    found = _looked_up(session, row, outcome.chosen)
    assert isinstance(found, StoredPiece)
    return found


def _take_back(session: Session, row: PieceRow, steps: int) -> StoredPiece | Broken:
    """Take the last steps back, whatever can be read of them."""
    for _ in range(steps):
        edit = _edit_at(session, row, row.position)
        if edit is None:
            raise PieceError(Problem("there is nothing to undo"))
        row.document = taken_back(row.document, edit.inverse)
        row.position -= 1
    row.revision += 1
    row.changed_at = datetime.now(UTC)
    if isinstance(name := row.document.get("name"), str):
        row.name = name
    _tell(session, row)
    session.flush()
    return _looked_up(session, row)


def _way_back(session: Session, row: PieceRow) -> tuple[int | None, str | None]:
    """How many steps back the first document is that can be read, or None; and what the first step takes back."""
    document, number, description = row.document, row.position, None
    while (edit := _edit_at(session, row, number)) is not None:
        description = description or edit.description
        try:
            document = taken_back(document, edit.inverse)
        except PieceError:
            return None, description
        number -= 1
        if unreadable_why(row.id, document) is None:
            return row.position - number, description
    return None, description


def bin_piece(session: Session, piece_id: str) -> None:
    row_of(session, piece_id).binned_at = func.now()


def unbin_piece(session: Session, piece_id: str) -> None:
    row = session.get(PieceRow, piece_id)
    if row is None:
        raise NoSuchPiece("this piece is not in the bin any more")
    row.binned_at = None


def empty_bin(session: Session) -> int:
    """Delete what lies in the bin for good; returns how many pieces that were."""
    gone = session.scalars(delete(PieceRow).where(PieceRow.binned_at.is_not(None)).returning(PieceRow.id))
    return len(gone.all())


def keep_thumbnail(session: Session, piece_id: str, revision: int, png: bytes) -> None:
    """Keep a picture of a revision, unless a newer one is there."""
    row = row_of(session, piece_id)
    if row.thumbnail_revision is None or revision >= row.thumbnail_revision:
        row.thumbnail, row.thumbnail_revision = png, revision


def thumbnail(session: Session, piece_id: str) -> bytes | None:
    return session.scalar(select(PieceRow.thumbnail).where(PieceRow.id == piece_id))


def keep_soundness(session: Session, piece_id: str, revision: int, values: dict[str, Any]) -> None:
    """Keep what a revision measures, for the cards; a newer one stays."""
    newer = (PieceRow.soundness_revision.is_(None)) | (PieceRow.soundness_revision < revision)
    session.execute(
        update(PieceRow).where(PieceRow.id == piece_id, newer).values(soundness=values, soundness_revision=revision)
    )


def has_demo(session: Session) -> bool:
    return session.scalar(select(func.count()).where(PieceRow.demo)) != 0


def row_of(session: Session, piece_id: str, lock: bool = False) -> PieceRow:
    """Raises NoSuchPiece."""
    # Others may go on to refer to the row, as a job does that is being written: only its changes wait for each other.
    row = session.get(PieceRow, piece_id, with_for_update={"key_share": True} if lock else None)
    if row is None or row.binned_at is not None:
        raise NoSuchPiece("this piece is not here; it may lie in the bin")
    return row


def _read(session: Session, row: PieceRow) -> Piece:
    """Raises Unreadable."""
    found = _looked_up(session, row)
    if isinstance(found, Broken):
        raise Unreadable(found)
    return found.piece


def keep_document(session: Session, row: PieceRow, piece: Piece, document: dict[str, Any]) -> None:
    """The piece is this from now on; its document is given as well."""
    row.document, row.name, row.changed_at = document, piece.name, datetime.now(UTC)
    note_document(row.id, row.document, piece)
    _tell(session, row)


def _tell(session: Session, row: PieceRow) -> None:
    """Every window that has the piece open hears of its new revision, once this is kept."""
    session.execute(select(func.pg_notify(CHANNEL, f"{row.id} {row.revision}")))


def revision_of(session: Session, piece_id: str) -> int | None:
    """None for a piece that is not there."""
    return session.scalar(select(PieceRow.revision).where(PieceRow.id == piece_id))


def _step_id(session: Session, row: PieceRow, number: int) -> int | None:
    return session.scalar(select(EditRow.id).where(*_on_line(row, number)))


def _edit_at(session: Session, row: PieceRow, number: int) -> EditRow | None:
    return session.scalar(select(EditRow).where(*_on_line(row, number)))


def _on_line(row: PieceRow, number: int) -> tuple[ColumnElement[bool], ...]:
    """Which step has that number, of those that undo and redo go along."""
    return EditRow.piece_id == row.id, EditRow.live.is_(True), EditRow.number == number


def _done_before(session: Session, row: PieceRow, request_id: str) -> StoredPiece | None:
    before = session.scalar(select(EditRow).where(EditRow.piece_id == row.id, EditRow.request_id == request_id))
    found = None if before is None else _looked_up(session, row, tuple(before.chosen))
    if isinstance(found, Broken):
        raise Unreadable(found)
    return found


def _looked_up(session: Session, row: PieceRow, chosen: tuple[str, ...] = ()) -> StoredPiece | Broken:
    """The piece of a row, and what undo and redo would do, from the edits around its position."""
    try:
        piece = read_document(row.id, row.document)
    except PieceError as error:
        steps, undo = _way_back(session, row)
        return Broken(row.id, row.name, row.revision, str(error), undo, steps)
    near = session.execute(
        select(EditRow.number, EditRow.description).where(
            EditRow.piece_id == row.id, EditRow.live, EditRow.number.in_((row.position, row.position + 1))
        )
    )
    description = {int(number): str(words) for number, words in near}
    return _kept(row, piece, description.get(row.position), description.get(row.position + 1), chosen)


def _kept(row: PieceRow, piece: Piece, undo: str | None, redo: str | None, chosen: tuple[str, ...] = ()) -> StoredPiece:
    return StoredPiece(
        id=row.id,
        piece=piece,
        revision=row.revision,
        undo=undo,
        redo=redo,
        demo=row.demo,
        changed_at=row.changed_at,
        chosen=chosen,
        soundness=row.soundness if row.soundness_revision == row.revision else None,
    )
