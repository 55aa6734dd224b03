"""Pieces as a whole: list, new, open, duplicate, bin, thumbnails, export."""

from __future__ import annotations

import asyncio
import json
import re
import time
from contextlib import suppress
from dataclasses import asdict
from functools import partial
from typing import TYPE_CHECKING, Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, Path, Query, Request, Response, WebSocket
from pydantic import BaseModel, ValidationError
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnect

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.formats.pictures import PNG, check_picture
from noble_clay.core.formats.pieces import PieceFile, piece_json, piece_pack, read_piece_file
from noble_clay.core.formats.registry import FORMATS, ending_of_several
from noble_clay.core.piece.models import Name, Piece
from noble_clay.solvers.desk import state_key
from noble_clay.solvers.pool import MAKING_PATIENCE
from noble_clay.store import pieces as store
from noble_clay.store import shelf
from noble_clay.store.assets import asset_data, asset_is_kept, keep_asset
from noble_clay.store.history import packed, unpack
from noble_clay.store.pieces import StoredPiece, Unreadable
from noble_clay.web.answers import CountAnswer, PieceCard, PieceState, Soundness
from noble_clay.web.sockets import until_gone
from noble_clay.web.state import AWorkshop, Workshop, answered, state_response

router = APIRouter(prefix="/api/pieces", tags=["pieces"])
PieceId = Annotated[str, Path(pattern=r"^[0-9a-f]{16}$")]
MEDIA = {
    **{f.ending: f.media for f in FORMATS.values() if f.writes},
    "clay.json": "application/json",
    "claypack": "application/zip",
}
if TYPE_CHECKING:
    ExportFormat = str
else:
    ExportFormat = Literal[tuple(MEDIA)]
ASSET_NAMED = re.compile(r'"asset":"([0-9a-f]{64})"')
"""A mesh or picture that a step of the history names."""

NOTE_SECONDS = 0.1
"""Between two looks of a piece's socket at how far its making is."""


class NewPiece(BaseModel):
    name: Name


@router.get("")
def list_pieces(shop: AWorkshop, binned: bool = False) -> list[PieceCard]:
    """The pieces in the room, or those in the bin, the last changed first; also those that cannot be read."""
    with shop.transaction() as session:
        return [card_of(entry) for entry in shelf.list_pieces(session, "bin" if binned else "room")]


def card_of(entry: shelf.ShelfEntry) -> PieceCard:
    soundness = None
    with suppress(ValidationError):  # kept in an older form: the card counts again
        soundness = Soundness.model_validate(entry.soundness)
    return PieceCard.model_validate({**asdict(entry), "soundness": soundness})


@router.post("", status_code=201, response_model=PieceState)
async def new_piece(shop: AWorkshop, new: NewPiece) -> Response:
    """Begin a piece."""
    kept = await shop.stored(lambda session: store.create_piece(session, Piece.new(new.name)))
    return await state_response(shop, kept, status=201)


@router.post(
    "/open",
    status_code=201,
    response_model=PieceState,
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}},
)
async def open_piece(shop: AWorkshop, request: Request) -> Response:
    """Begin a piece from a piece file, `.clay.json` or `.claypack`: the raw body."""
    data = await request.body()
    file = await run_in_threadpool(read_piece_file, data)

    def keep(session: Session) -> StoredPiece:
        keep_assets(session, file)
        kept = store.create_piece(session, file.piece)
        if file.picture is not None:
            store.keep_thumbnail(session, kept.id, 0, file.picture)
        if file.history is None:
            return kept
        unpack(session, kept.id, file.history)
        return store.load_piece(session, kept.id)

    return await state_response(shop, await shop.stored(keep), status=201)


def keep_assets(session: Session, file: PieceFile) -> None:
    """Keep the meshes and pictures of a piece file. Raises PieceError where one that it names is neither in it nor kept
    already, and for a picture that is none.
    """
    for sha256, asset in file.assets.items():
        keep_asset(session, sha256, asset)
    for part in file.piece.walk():
        if part.mesh is not None and not asset_is_kept(session, part.mesh.asset):
            raise PieceError(
                Problem("its mesh is not in the file; open the .claypack of this piece", part.id, "mesh.asset")
            )
    for picture in file.piece.pictures:
        data = asset_data(session, picture.asset)
        if data is None:
            words = f"its picture {picture.name} is not in the file; open the .claypack of this piece"
            raise PieceError(Problem(words, field="pictures"))
        check_picture(data, picture.ending, picture.pixels)


@router.get("/{piece_id}", response_model=PieceState)
async def get_piece(shop: AWorkshop, piece_id: PieceId) -> Response:
    started = time.perf_counter()
    return await state_response(shop, await shop.load(piece_id), started)


@router.get("/{piece_id}/count")
async def count_piece(shop: AWorkshop, piece_id: PieceId) -> CountAnswer:
    """The joined skin of a piece and its soundness, as far as they are known by now; the piece's socket tells when they
    are.
    """
    kept = await shop.load(piece_id)
    document = await run_in_threadpool(kept.piece.dump)
    scene = shop.desk.look(piece_id, state_key(document)).scene
    if scene is None or scene["soundness"] is None or scene["result"] is None:
        return CountAnswer(revision=kept.revision)
    return CountAnswer(revision=kept.revision, result=scene["result"], soundness=scene["soundness"])


@router.post("/{piece_id}/duplicate", status_code=201, response_model=PieceState)
async def duplicate_piece(shop: AWorkshop, piece_id: PieceId) -> Response:
    """A second piece like this one, without its history."""

    def copy(session: Session) -> StoredPiece:
        piece = store.load_piece(session, piece_id).piece
        return store.create_piece(session, piece.model_copy(update={"name": f"{piece.name[:72]} again"}))

    return await state_response(shop, await shop.stored(copy), status=201)


@router.delete("/{piece_id}", status_code=204)
def bin_piece(shop: AWorkshop, piece_id: PieceId) -> None:
    """Put a piece into the bin."""
    with shop.transaction() as session:
        store.bin_piece(session, piece_id)


@router.post("/{piece_id}/restore", status_code=204)
def restore_piece(shop: AWorkshop, piece_id: PieceId) -> None:
    """Take a piece back out of the bin."""
    with shop.transaction() as session:
        store.unbin_piece(session, piece_id)


@router.post("/bin/empty")
def empty_bin(shop: AWorkshop) -> int:
    """Delete what lies in the bin for good; answers how many pieces that were."""
    with shop.transaction() as session:
        return store.empty_bin(session)


@router.get("/{piece_id}/thumbnail", response_class=Response)
def get_thumbnail(shop: AWorkshop, piece_id: PieceId) -> Response:
    with shop.transaction() as session:
        png = store.thumbnail(session, piece_id)
    if png is None:
        return Response(status_code=404)
    return Response(png, media_type="image/png", headers={"cache-control": "no-cache"})


@router.put("/{piece_id}/thumbnail", status_code=204, openapi_extra={"requestBody": {"content": {"image/png": {}}}})
async def put_thumbnail(
    shop: AWorkshop, piece_id: PieceId, request: Request, revision: Annotated[int, Query(ge=0, le=2**31 - 1)]
) -> None:
    """Keep the page's own picture of a revision."""
    png = await request.body()
    if not png.startswith(PNG):
        raise PieceError(Problem("the picture is not a PNG"))

    def keep() -> None:
        with shop.transaction() as session:
            store.keep_thumbnail(session, piece_id, revision, png)

    await run_in_threadpool(keep)


@router.get("/{piece_id}/export", response_class=Response)
async def export_piece(
    shop: AWorkshop,
    piece_id: PieceId,
    file_format: Annotated[ExportFormat, Query(alias="format")],
    coarser: Annotated[float, Query(ge=0, le=10)] = 0.0,
    apart: bool = False,
    history: bool = True,
) -> Response:
    """The piece as a file to take away. One that cannot be read goes as a piece file, as it is kept.

    coarser: mm by which the surface in a mesh file may be elsewhere, so that it has fewer triangles. apart: a body for
    each line of the recipe, which fill the piece between them; formats that hold one only come in a ZIP. history:
    whether a pack tells how the piece was made.
    """
    try:
        kept = await shop.load(piece_id)
    except Unreadable as error:
        if file_format != "clay.json":
            raise
        document = await shop.stored(lambda session: store.raw_document(session, piece_id))
        return _as_file(error.broken.name, file_format, json.dumps(document, indent=1).encode())
    if file_format in ("clay.json", "claypack"):
        data = await run_in_threadpool(_piece_file, shop, kept, file_format, history)
    else:
        document = await run_in_threadpool(kept.piece.dump)
        question = shop.pool.ask(piece_id, "export", document, file_format, coarser, apart, patience=MAKING_PATIENCE)
        data = await answered(question)
        if apart:
            return _as_file(f"{kept.piece.name} apart", ending_of_several(file_format), data)
    return _as_file(kept.piece.name, file_format, data)


def _piece_file(shop: Workshop, kept: StoredPiece, file_format: str, with_history: bool) -> bytes:
    if file_format == "clay.json":
        return piece_json(kept.piece)
    with shop.transaction() as session:
        steps = packed(session, kept.id) if with_history else None
        used = {*kept.piece.assets, *(ASSET_NAMED.findall(steps.text()) if steps else ())}
        assets = {sha: data for sha in used if (data := asset_data(session, sha)) is not None}
        picture = store.thumbnail(session, kept.id)
    return piece_pack(PieceFile(kept.piece, assets, steps, picture))


def _as_file(name: str, file_format: str, data: bytes) -> Response:
    disposition = (
        f"attachment; filename=\"{plain_name(name)}.{file_format}\"; filename*=UTF-8''{quote(name)}.{file_format}"
    )
    media = MEDIA.get(file_format, "application/zip")
    return Response(data, media_type=media, headers={"content-disposition": disposition})


@router.websocket("/{piece_id}/socket")
async def piece_socket(socket: WebSocket, piece_id: PieceId) -> None:
    """How far the piece's newest state is, as JSON, whenever that has changed: `revision`, `made`, `counted`, `share`,
    `part`; and `kept`, the newest revision that is kept, whoever made it. What is made or counted is then asked for.
    """
    await socket.accept()
    shop: Workshop = socket.app.state.workshop
    gone = asyncio.create_task(until_gone(socket))
    changes = shop.pieces.join()
    told, kept = None, 0
    try:
        while not gone.done():
            kept = await _newest(shop, piece_id, changes, kept)
            note = {**shop.desk.note(piece_id), "kept": kept}
            if note != told:
                told = note
                await socket.send_json(note)
            await asyncio.wait({gone}, timeout=NOTE_SECONDS)
    except (WebSocketDisconnect, RuntimeError):
        pass
    finally:
        gone.cancel()
        shop.pieces.leave(changes)


async def _newest(shop: Workshop, piece_id: str, changes: asyncio.Queue[str], known: int) -> int:
    """The newest kept revision of a piece, by what was told since it was `known`."""
    while not changes.empty():
        told, _, revision = changes.get_nowait().partition(" ")
        if told == piece_id:
            known = max(known, int(revision))
        elif not told:  # something may have been missed
            with suppress(SQLAlchemyError):
                found = await shop.stored(partial(store.revision_of, piece_id=piece_id))
                known = max(known, found or 0)
    return known
