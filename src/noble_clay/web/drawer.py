"""The parts drawer: what the maker keeps for other pieces, under a name, with tags and notes."""

from __future__ import annotations

import hashlib
import secrets
from functools import partial
from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import ClayError
from noble_clay.core.formats.pieces import read_piece_file
from noble_clay.core.piece.drawer import in_middle, noted, to_keep, uses, whole_of
from noble_clay.core.piece.edits.drawer import FollowDrawer, TakeIn
from noble_clay.core.piece.edits.edit import Ids
from noble_clay.core.piece.edits.fields import PartFields, SetPart, SetPiece
from noble_clay.core.piece.models import FromDrawer, InDrawer, Name, Notes, PartId
from noble_clay.core.piece.tree import find
from noble_clay.store import drawer
from noble_clay.store import pieces as store
from noble_clay.store.pieces import StoredPiece
from noble_clay.web.answers import PieceCard, PieceState
from noble_clay.web.edits import RequestId
from noble_clay.web.pieces import PieceId, card_of, keep_assets
from noble_clay.web.state import AWorkshop, state_response

router = APIRouter(tags=["drawer"])


class UsedInAnswer(BaseModel):
    """A piece that has copies of a part of the drawer. behind: how many of them could follow what it is now. changed:
    how many were changed there by themselves.
    """

    piece_id: str
    name: str
    parts: int
    behind: int
    changed: int


class KeptCard(PieceCard):
    """A part of the drawer."""

    notes: str
    tags: tuple[str, ...]
    fixed: bool
    used: list[UsedInAnswer]


class KeptFields(InDrawer):
    """What is written beside a part of the drawer."""

    name: Name
    notes: Notes = ""


class KeepRequest(BaseModel):
    """Parts of revision `base_revision` to be kept; one alone is from then on a copy of what lies in the drawer."""

    base_revision: int
    request_id: RequestId
    ids: Ids
    fields: KeptFields


class CopyRequest(BaseModel):
    """A part of a piece that was taken out of the drawer."""

    base_revision: int
    request_id: RequestId
    id: PartId


class SetKeptRequest(BaseModel):
    request_id: RequestId
    fields: KeptFields


class FollowRequest(BaseModel):
    request_id: RequestId
    pieces: Annotated[list[PieceId], Field(min_length=1, max_length=500)]


class Followed(BaseModel):
    """What came of letting a piece follow. parts: how many copies did. problem: why none could."""

    piece_id: str
    parts: int
    problem: str | None = None


class CopyNote(BaseModel):
    """What the drawer knows of a part of a piece. name: in the drawer; none where it lies there no more. behind: the
    drawer has another by now. changed: the part was changed here.
    """

    id: str
    kept_id: str
    name: str | None
    fixed: bool
    behind: bool
    changed: bool


@router.get("/api/drawer")
def list_drawer(shop: AWorkshop) -> list[KeptCard]:
    """What lies in the drawer, the last changed first, and where copies of it are."""
    with shop.transaction() as session:
        return [_kept_card(kept) for kept in drawer.list_kept(session)]


def _kept_card(kept: drawer.KeptPart) -> KeptCard:
    used = [UsedInAnswer(**vars(u)) for u in kept.used]
    card = card_of(kept.entry).model_dump()
    return KeptCard(**card, notes=kept.notes, tags=kept.noted.tags, fixed=kept.noted.fixed, used=used)


@router.post("/api/pieces/{piece_id}/keep", response_model=PieceState)
async def keep(shop: AWorkshop, piece_id: PieceId, request: KeepRequest) -> Response:
    """Put a copy of parts into the drawer, standing on the middle of its wheel."""
    piece = (await shop.load(piece_id)).piece
    fields = request.fields
    beside = InDrawer(tags=fields.tags, fixed=fields.fixed)
    kept = to_keep(piece, request.ids, fields.name, fields.notes, beside)
    low, high = await shop.answer(piece_id, "standing", kept.dump())
    kept = in_middle(kept, low, high)
    kept_id = hashlib.sha256(request.request_id.encode()).hexdigest()[:16]

    def put(session: Session) -> StoredPiece:
        drawer.keep_part(session, kept, kept_id)
        if len(kept.parts) > 1:
            return store.load_piece(session, piece_id)
        part = find(piece, request.ids[0]).part
        edit = _noting(part.id, noted(part, kept_id, fields.fixed).drawer)
        return store.apply_edit(session, piece_id, request.base_revision, request.request_id, edit)

    return await state_response(shop, await shop.stored(put))


def _noting(part_id: str, note: FromDrawer | None) -> SetPart:
    return SetPart(kind="set_part", ids=(part_id,), fields=PartFields(drawer=note))


@router.post(
    "/api/drawer/take-in",
    status_code=201,
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}},
)
async def take_in_file(shop: AWorkshop, request: Request) -> KeptCard:
    """Put what a piece file holds into the drawer: the raw body, `.clay.json` or `.claypack`."""
    file = await run_in_threadpool(read_piece_file, await request.body())
    whole_of(file.piece, "kept")
    kept = file.piece.model_copy(update={"drawer": file.piece.drawer or InDrawer()})
    kept_id = secrets.token_hex(8)

    def put(session: Session) -> KeptCard:
        keep_assets(session, file)
        drawer.keep_part(session, kept, kept_id)
        return _card(session, kept_id)

    return await shop.stored(put)


@router.put("/api/drawer/{kept_id}")
async def set_kept(shop: AWorkshop, kept_id: PieceId, request: SetKeptRequest) -> KeptCard:
    """Name, tags and notes, and whether copies that are taken out from now on keep their size."""
    fields = request.fields
    noted = InDrawer(tags=fields.tags, fixed=fields.fixed)
    edit = SetPiece(kind="set_piece", name=fields.name, notes=fields.notes, drawer=noted)

    def put(session: Session) -> KeptCard:
        base = store.load_piece(session, kept_id).revision
        store.apply_edit(session, kept_id, base, request.request_id, edit)
        return _card(session, kept_id)

    return await shop.stored(put)


def _card(session: Session, kept_id: str) -> KeptCard:
    return next(_kept_card(kept) for kept in drawer.list_kept(session) if kept.entry.id == kept_id)


@router.post("/api/drawer/{kept_id}/follow")
async def follow(shop: AWorkshop, kept_id: PieceId, request: FollowRequest) -> list[Followed]:
    """Let the copies in some pieces follow what lies in the drawer now: one step in each piece, which can undo it. What
    was changed there, or is locked, stays as it is; where one piece cannot, the others still do.
    """
    found = []
    for piece_id in request.pieces:
        work = partial(drawer.follow, kept_id=kept_id, piece_id=piece_id, request_id=request.request_id)
        try:
            found.append(Followed(piece_id=piece_id, parts=await shop.stored(work)))
        except ClayError as error:
            found.append(Followed(piece_id=piece_id, parts=0, problem=str(error)))
    return found


@router.get("/api/pieces/{piece_id}/drawer")
def copies_here(shop: AWorkshop, piece_id: PieceId) -> list[CopyNote]:
    """What the drawer knows of the parts of a piece that were taken out of it."""
    with shop.transaction() as session:
        piece = store.load_piece(session, piece_id).piece
        names = drawer.names_now(session, {p.drawer.part for p in piece.walk() if p.drawer})
    return [
        CopyNote(
            id=use.part.id,
            kept_id=use.kept_id,
            name=names[use.kept_id][0] if use.kept_id in names else None,
            fixed=use.part.fixed_scale is not None,
            behind=use.behind,
            changed=use.changed,
        )
        for use in uses(piece, {kept_id: mark for kept_id, (_, mark) in names.items()})
    ]


@router.post("/api/pieces/{piece_id}/follow", response_model=PieceState)
async def follow_here(shop: AWorkshop, piece_id: PieceId, request: CopyRequest) -> Response:
    """Make one copy as the drawer has it now, whatever was changed of it here."""

    def edit(session: Session) -> StoredPiece:
        part = find(store.load_piece(session, piece_id).piece, request.id).part
        follow = FollowDrawer(kind="follow_drawer", ids=(part.id,), part=drawer.fresh_copy(session, part))
        return store.apply_edit(session, piece_id, request.base_revision, request.request_id, follow)

    return await state_response(shop, await shop.stored(edit))


@router.post("/api/pieces/{piece_id}/put-back", response_model=PieceState)
async def put_back(shop: AWorkshop, piece_id: PieceId, request: CopyRequest) -> Response:
    """Let the drawer have what was made of a copy here; other copies may follow it then."""

    def edit(session: Session) -> StoredPiece:
        part = find(store.load_piece(session, piece_id).piece, request.id).part
        kept_id = drawer.kept_id_of(part)
        base = store.load_piece(session, kept_id).revision
        store.apply_edit(session, kept_id, base, request.request_id, TakeIn(kind="take_in", part=part))
        now = drawer.fresh_copy(session, part).drawer
        return store.apply_edit(session, piece_id, request.base_revision, request.request_id, _noting(part.id, now))

    return await state_response(shop, await shop.stored(edit))
