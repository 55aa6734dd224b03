"""The shelf: every piece in short, also one that cannot be read."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import String, cast, literal_column, select
from sqlalchemy.orm import Session

from noble_clay.core.piece.raw import count_parts
from noble_clay.store.reading import unreadable_why
from noble_clay.store.tables import PieceRow


@dataclass(frozen=True)
class ShelfEntry:
    """A piece in short. soundness: of this revision, or None. problem: why its document cannot be read, or None.
    in_drawer: it is a part of the maker's drawer.
    """

    id: str
    name: str
    revision: int
    demo: bool
    changed_at: datetime
    binned_at: datetime | None
    in_drawer: bool
    thumbnail_revision: int | None
    soundness: dict[str, Any] | None
    parts: int
    problem: str | None


Where = Literal["room", "bin", "drawer"]

_LOOKED_AT: dict[str, tuple[str, int, str | None]] = {}
"""By piece: the version of its row that was looked at, how many parts it has, and why it cannot be read."""

_SHORT = (
    PieceRow.id,
    PieceRow.name,
    PieceRow.revision,
    PieceRow.demo,
    PieceRow.changed_at,
    PieceRow.binned_at,
    PieceRow.in_drawer,
    PieceRow.thumbnail_revision,
    PieceRow.soundness,
    PieceRow.soundness_revision,
)


def list_pieces(session: Session, where: Where) -> list[ShelfEntry]:
    """The pieces in the room, the bin or the drawer, the last changed first. A document is looked at once a version."""
    there = {
        "room": (PieceRow.binned_at.is_(None), ~PieceRow.in_drawer),
        "bin": (PieceRow.binned_at.is_not(None),),
        "drawer": (PieceRow.binned_at.is_(None), PieceRow.in_drawer),
    }[where]
    version = cast(literal_column("pieces.xmin"), String)  # PostgreSQL gives a row another with every change
    rows = session.execute(
        select(version, *_SHORT).where(*there).order_by(PieceRow.changed_at.desc(), PieceRow.id)
    ).all()
    found = []
    for seen, *values in rows:
        short = dict(zip((c.key for c in _SHORT), values, strict=True))
        if short.pop("soundness_revision") != short["revision"]:
            short["soundness"] = None
        known = _LOOKED_AT.get(short["id"])
        if known is None or known[0] != seen:
            document = session.scalar(select(PieceRow.document).where(PieceRow.id == short["id"]))
            why = unreadable_why(short["id"], document) if isinstance(document, dict) else "it is no document"
            known = _LOOKED_AT[short["id"]] = seen, count_parts(document), why
        found.append(ShelfEntry(**short, parts=known[1], problem=known[2]))
    return found
