"""The parts drawer: pieces whose documents say that they lie in it, and the pieces that have copies of them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from sqlalchemy import String, cast, func, literal_column, select
from sqlalchemy.orm import Session

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.drawer import Use, content_mark, taken_out, uses, whole_of
from noble_clay.core.piece.edits.drawer import FollowDrawer
from noble_clay.core.piece.models import InDrawer, Part, Piece
from noble_clay.store.pieces import StoredPiece, apply_edit, create_piece, load_piece
from noble_clay.store.reading import read_document
from noble_clay.store.shelf import ShelfEntry, list_pieces
from noble_clay.store.tables import PieceRow

MOST_KEPT = 2_000


@dataclass(frozen=True)
class UsedIn:
    """A piece that has copies of a part of the drawer. behind: so many of them could follow what it is now. changed: so
    many were changed there by themselves.
    """

    piece_id: str
    name: str
    parts: int
    behind: int
    changed: int


@dataclass(frozen=True)
class KeptPart:
    """A part of the drawer. noted, notes: none and empty for one that cannot be read."""

    entry: ShelfEntry
    notes: str
    noted: InDrawer
    used: tuple[UsedIn, ...]


_USERS: dict[str, tuple[str, tuple[str, ...]]] = {}
"""By piece: the version of its row that was looked at, and the parts of the drawer that it has copies of."""


def keep_part(session: Session, kept: Piece, kept_id: str) -> StoredPiece:
    """Put a piece into the drawer; one that is there already under that id is answered again."""
    if session.get(PieceRow, kept_id) is not None:
        return load_piece(session, kept_id)
    there = session.scalar(select(func.count()).where(PieceRow.in_drawer, PieceRow.binned_at.is_(None)))
    if there is not None and there >= MOST_KEPT:
        raise PieceError(Problem(f"the drawer holds at most {MOST_KEPT:,} parts; take some out of it first"))
    return create_piece(session, kept, piece_id=kept_id)


def list_kept(session: Session) -> list[KeptPart]:
    """All parts of the drawer, the last changed first, and where copies of each are."""
    entries = list_pieces(session, "drawer")
    read = _read_entries(session, entries)
    marks = {i: r.mark for i, r in read.items() if r.mark is not None}
    used: dict[str, list[UsedIn]] = defaultdict(list)
    for row_id, name, piece in _users(session, set(marks)):
        found: dict[str, list[Use]] = defaultdict(list)
        for use in uses(piece, marks):
            found[use.kept_id].append(use)
        for kept_id, those in found.items():
            behind = sum(_may_follow(u) for u in those)
            used[kept_id].append(UsedIn(row_id, name, len(those), behind, sum(u.changed for u in those)))
    nothing = _Read(0, "", InDrawer(), None)
    return [
        KeptPart(entry=e, notes=(r := read.get(e.id, nothing)).notes, noted=r.noted, used=tuple(used[e.id]))
        for e in entries
    ]


@dataclass(frozen=True)
class _Read:
    """What a revision of a part of the drawer says. mark: of its content; None where there is nothing to take out."""

    revision: int
    notes: str
    noted: InDrawer
    mark: str | None


_KEPT: dict[str, _Read] = {}
"""By part of the drawer: its revision that was read last."""


def _read_entries(session: Session, entries: list[ShelfEntry]) -> dict[str, _Read]:
    """What can be read of the parts, by id; of each revision once."""
    there = {e.id: e.revision for e in entries if e.problem is None}
    missing = [i for i, revision in there.items() if i not in _KEPT or _KEPT[i].revision != revision]
    rows = session.execute(select(PieceRow.id, PieceRow.revision, PieceRow.document).where(PieceRow.id.in_(missing)))
    for kept_id, revision, document in rows:
        piece = read_document(kept_id, document)
        try:
            mark = content_mark(whole_of(piece, "kept"))
        except PieceError:
            mark = None
        _KEPT[kept_id] = _Read(revision, piece.notes, piece.drawer or InDrawer(), mark)
    return {i: _KEPT[i] for i in there if i in _KEPT}


def names_now(session: Session, wanted: set[str]) -> dict[str, tuple[str, str]]:
    """Name and content mark of the parts of the drawer that are there and can be read, by id."""
    there = select(PieceRow.id, PieceRow.document).where(PieceRow.id.in_(wanted), PieceRow.binned_at.is_(None))
    found = {}
    for kept_id, document in session.execute(there):
        try:
            kept = read_document(kept_id, document)
            found[kept_id] = kept.name, content_mark(whole_of(kept, "kept"))
        except PieceError:
            continue
    return found


def follow(session: Session, kept_id: str, piece_id: str, request_id: str) -> int:
    """Let all copies in a piece that were not changed there follow the drawer, as one step; how many did.

    Raises NoSuchPiece, Unreadable, PieceError.
    """
    fresh = taken_out(load_piece(session, kept_id).piece, kept_id)
    stored = load_piece(session, piece_id)
    marks = {kept_id: content_mark(fresh)}
    ids = tuple(u.part.id for u in uses(stored.piece, marks) if u.kept_id == kept_id and _may_follow(u))
    if ids:
        edit = FollowDrawer(kind="follow_drawer", ids=ids, part=fresh)
        apply_edit(session, piece_id, stored.revision, request_id, edit)
    return len(ids)


def _may_follow(use: Use) -> bool:
    return use.behind and not use.changed and not use.part.locked


def fresh_copy(session: Session, part: Part) -> Part:
    """What the drawer has now of a part that was taken out of it. Raises NoSuchPiece, PieceError."""
    kept_id = kept_id_of(part)
    return taken_out(load_piece(session, kept_id).piece, kept_id)


def kept_id_of(part: Part) -> str:
    """Raises PieceError for a part that is not from the drawer."""
    if part.drawer is None:
        raise PieceError(Problem("this part is not from the drawer", part.id))
    return part.drawer.part


def _users(session: Session, kept: set[str]) -> list[tuple[str, str, Piece]]:
    """The pieces that have copies of parts of the drawer: id, name, and the piece. Each is looked at once a version."""
    version = cast(literal_column("pieces.xmin"), String)
    rows = session.execute(select(PieceRow.id, version, PieceRow.name).where(PieceRow.binned_at.is_(None)))
    found = []
    for piece_id, seen, name in rows.all():
        known = _USERS.get(piece_id)
        if known is not None and known[0] == seen and not kept.intersection(known[1]):
            continue
        document = session.scalar(select(PieceRow.document).where(PieceRow.id == piece_id))
        try:
            piece = read_document(piece_id, document or {})
        except PieceError:
            _USERS[piece_id] = seen, ()
            continue
        taken = tuple({p.drawer.part for p in piece.walk() if p.drawer})
        _USERS[piece_id] = seen, taken
        if kept.intersection(taken):
            found.append((piece_id, name, piece))
    return found
