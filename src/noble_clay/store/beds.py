"""How each piece lies on the bed, and what was found out about it there."""

from __future__ import annotations

from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from noble_clay.store.jobs import ENDED, cancel_job
from noble_clay.store.pieces import NoSuchPiece
from noble_clay.store.tables import JobRow, PieceRow


def load_bed(session: Session, piece_id: str) -> dict[str, Any] | None:
    """None where nothing was said yet. Raises NoSuchPiece."""
    return _row(session, piece_id).bed


def keep_bed(session: Session, piece_id: str, bed: dict[str, Any]) -> None:
    """Raises NoSuchPiece."""
    _row(session, piece_id).bed = bed


def _row(session: Session, piece_id: str) -> PieceRow:
    row = session.get(PieceRow, piece_id)
    if row is None or row.binned_at is not None:
        raise NoSuchPiece("this piece is not here any more; it may lie in the bin")
    return row


def newest_of(session: Session, piece_id: str, kind: str) -> JobRow | None:
    """The last job of a kind about a piece that was not stopped."""
    wanted = select(JobRow).where(JobRow.piece_id == piece_id, JobRow.kind == kind, JobRow.state != "cancelled")
    return session.scalars(wanted.order_by(JobRow.created_at.desc(), JobRow.id).limit(1)).first()


def forget_before(session: Session, piece_id: str, kind: str) -> None:
    """Stop what goes on of a kind about a piece, and throw away what came of it earlier: a newer one is asked for."""
    for job in session.scalars(select(JobRow).where(JobRow.piece_id == piece_id, JobRow.kind == kind)):
        if job.state not in ENDED:
            cancel_job(session, job.id)
    session.execute(delete(JobRow).where(JobRow.piece_id == piece_id, JobRow.kind == kind, JobRow.state.in_(ENDED)))
