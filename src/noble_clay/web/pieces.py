"""Pieces as a whole: list, new, open, duplicate, bin, thumbnails, export."""

from __future__ import annotations

import re
import time
from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, Path, Query, Request, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.formats.pieces import PieceFile, piece_json, piece_pack, read_piece_file
from noble_clay.core.piece.models import Name, Piece
from noble_clay.store import pieces as store
from noble_clay.store.assets import asset_data, keep_asset
from noble_clay.web.answers import CountAnswer, PieceCard, PieceState
from noble_clay.web.state import AWorkshop, state_of

router = APIRouter(prefix="/api/pieces", tags=["pieces"])
PieceId = Annotated[str, Path(pattern=r"^[0-9a-f]{16}$")]
ExportFormat = Literal["stl", "3mf", "clay.json", "claypack"]
MEDIA = {"stl": "model/stl", "3mf": "model/3mf", "clay.json": "application/json", "claypack": "application/zip"}


class NewPiece(BaseModel):
    name: Name


@router.get("")
def list_pieces(shop: AWorkshop, binned: bool = False) -> list[PieceCard]:
    """The pieces in the room, or those in the bin, the last changed first."""
    with shop.transaction() as session:
        return [
            PieceCard(
                id=row.id,
                name=row.name,
                revision=row.revision,
                demo=row.demo,
                changed_at=row.changed_at,
                binned_at=row.binned_at,
                parts=sum(1 for _ in Piece.model_validate(row.document).walk()),
                thumbnail_revision=row.thumbnail_revision,
                soundness=row.soundness,  # type: ignore[arg-type]
            )
            for row in store.list_pieces(session, binned)
        ]


@router.post("", status_code=201)
def new_piece(shop: AWorkshop, new: NewPiece) -> PieceState:
    """Begin a piece."""
    with shop.transaction() as session:
        kept = store.create_piece(session, Piece.new(new.name))
    return state_of(shop, kept)


@router.post("/open", status_code=201, openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}})
async def open_piece(shop: AWorkshop, request: Request) -> PieceState:
    """Begin a piece from a piece file, `.clay.json` or `.claypack`: the raw body."""
    data = await request.body()

    def keep() -> PieceState:
        file = read_piece_file(data)
        with shop.transaction() as session:
            for sha256, asset in file.assets.items():
                keep_asset(session, sha256, asset)
            _check_assets_there(session, file.piece)
            kept = store.create_piece(session, file.piece)
        return state_of(shop, kept)

    return await run_in_threadpool(keep)


def _check_assets_there(session: Session, piece: Piece) -> None:
    for part in piece.walk():
        if part.mesh is not None and asset_data(session, part.mesh.asset) is None:
            raise PieceError(
                Problem("its mesh is not in the file; open the .claypack of this piece", part.id, "mesh.asset")
            )


@router.get("/{piece_id}")
def get_piece(shop: AWorkshop, piece_id: PieceId) -> PieceState:
    started = time.perf_counter()
    with shop.transaction() as session:
        kept = store.load_piece(session, piece_id)
    return state_of(shop, kept, started)


@router.get("/{piece_id}/count")
def count_piece(shop: AWorkshop, piece_id: PieceId) -> CountAnswer:
    """The whole joined skin of a piece that was shown before it was counted. Answers when it is there, or when the
    piece has changed meanwhile, and is to be asked for again.
    """
    with shop.transaction() as session:
        kept = store.load_piece(session, piece_id)

    document = kept.piece.dump()
    found = shop.pool.count(piece_id, document, lambda: shop.still_at(kept))
    if found is None or not shop.still_at(kept):
        return CountAnswer(revision=kept.revision)
    shop.pool.ask(piece_id, "adopt", piece_id, document, found)
    answer = CountAnswer(revision=kept.revision, result=found["result"], soundness=found["soundness"])
    assert answer.soundness is not None
    shop.note_soundness(kept, answer.soundness)
    return answer


@router.post("/{piece_id}/duplicate", status_code=201)
def duplicate_piece(shop: AWorkshop, piece_id: PieceId) -> PieceState:
    """A second piece like this one, without its history."""
    with shop.transaction() as session:
        piece = store.load_piece(session, piece_id).piece
        copy = piece.model_copy(update={"name": f"{piece.name[:72]} again"})
        kept = store.create_piece(session, copy)
    return state_of(shop, kept)


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
    shop: AWorkshop, piece_id: PieceId, request: Request, revision: Annotated[int, Query(ge=0)]
) -> None:
    """Keep the page's own picture of a revision."""
    png = await request.body()
    if not png.startswith(b"\x89PNG\r\n\x1a\n"):
        raise PieceError(Problem("the picture is not a PNG"))

    def keep() -> None:
        with shop.transaction() as session:
            store.keep_thumbnail(session, piece_id, revision, png)

    await run_in_threadpool(keep)


@router.get("/{piece_id}/export", response_class=Response)
def export_piece(
    shop: AWorkshop, piece_id: PieceId, file_format: Annotated[ExportFormat, Query(alias="format")]
) -> Response:
    """The piece as a file to take away."""
    with shop.transaction() as session:
        piece = store.load_piece(session, piece_id).piece
        if file_format in ("clay.json", "claypack"):
            used = {p.mesh.asset for p in piece.walk() if p.mesh}
            assets = {sha: data for sha in used if (data := asset_data(session, sha)) is not None}
    if file_format == "clay.json":
        data = piece_json(piece)
    elif file_format == "claypack":
        data = piece_pack(PieceFile(piece, assets))
    else:
        data = shop.pool.ask(piece_id, "export", piece.dump(), file_format)
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", piece.name).strip("-.") or "piece"
    disposition = f"attachment; filename=\"{plain}.{file_format}\"; filename*=UTF-8''{quote(piece.name)}.{file_format}"
    return Response(data, media_type=MEDIA[file_format], headers={"content-disposition": disposition})
