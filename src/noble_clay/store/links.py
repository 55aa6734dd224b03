"""Links to a read-only page of a piece: one a piece, given and withdrawn."""

from __future__ import annotations

import secrets

from sqlalchemy import select
from sqlalchemy.orm import Session

from noble_clay.core.errors import ClayError
from noble_clay.store.pieces import StoredPiece, load_piece, row_of
from noble_clay.store.tables import PieceRow


class NoSuchLink(ClayError):
    """The link was withdrawn, or never given."""


def link_of(session: Session, piece_id: str) -> str | None:
    """Raises NoSuchPiece."""
    return row_of(session, piece_id).link


def give_link(session: Session, piece_id: str) -> str:
    """The piece's link: the one that it has, else a new one, which nobody can guess. Raises NoSuchPiece."""
    row = row_of(session, piece_id, lock=True)
    row.link = row.link or secrets.token_urlsafe(24)
    return row.link


def withdraw_link(session: Session, piece_id: str) -> None:
    """The link leads nowhere any more, for good. Raises NoSuchPiece."""
    row_of(session, piece_id, lock=True).link = None


def linked_piece(session: Session, link: str) -> StoredPiece:
    """Raises NoSuchLink, also for a piece in the bin; Unreadable."""
    piece_id = session.scalar(select(PieceRow.id).where(PieceRow.link == link, PieceRow.binned_at.is_(None)))
    if piece_id is None:
        raise NoSuchLink("this link leads nowhere: it was withdrawn by whoever gave it, or is not whole")
    return load_piece(session, piece_id)
