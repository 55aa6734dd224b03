"""Bringing a mesh in: its file sent block by block, read by a job, and put on the wheel as a part."""

from __future__ import annotations

from pathlib import PurePath
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.formats.mesh_file import UNITS
from noble_clay.core.formats.read import READERS, check_bytes, check_head
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import MeshAsset, Part, Place
from noble_clay.store import jobs
from noble_clay.store import pieces as store
from noble_clay.store.tables import JobRow
from noble_clay.web.answers import JobAnswer, PieceState
from noble_clay.web.edits import RequestId, applied
from noble_clay.web.jobs import JobId, job_answer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, document_of

router = APIRouter(prefix="/api/pieces/{piece_id}/bring-in", tags=["bring in"])
BLOCK = 4_000_000


class PutMesh(BaseModel):
    """A mesh that was read becomes a part. unit: of its numbers, where the file does not say."""

    base_revision: int
    request_id: RequestId
    unit: Literal["micron", "millimeter", "centimeter", "inch", "foot", "meter"] | None = None


@router.post("", status_code=202, openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}})
async def post_bring_in(
    shop: AWorkshop, piece_id: PieceId, request: Request, name: Annotated[str, Query(min_length=1, max_length=200)]
) -> JobAnswer:
    """Read a mesh file, the raw body, named `name`. What is sent is kept block by block; nothing of it stays when it
    breaks off.
    """
    ending = PurePath(name).suffix.lower().lstrip(".")
    if ending not in READERS:
        raise MeshError(f"meshes are read from .{', .'.join(READERS)} files; this is a .{ending or '?'} file")
    size = int(request.headers.get("content-length", "0"))
    check_bytes(size, ending)
    session = shop.sessions()
    try:
        row = await run_in_threadpool(_new_job, session, piece_id, "bring_in", PurePath(name).stem, {"ending": ending})
        held, block = bytearray(), 0
        async for chunk in request.stream():
            held += chunk
            if block == 0:
                check_head(bytes(held[:84]), size, ending)
            while len(held) >= BLOCK:
                await run_in_threadpool(jobs.add_block, session, row.id, "input", block, bytes(held[:BLOCK]))
                del held[:BLOCK]
                block += 1
        if block == 0 and not held:
            raise MeshError("the file is empty")
        await run_in_threadpool(jobs.add_block, session, row.id, "input", block, bytes(held))
        answer = job_answer(row)
        await run_in_threadpool(session.commit)
    finally:
        await run_in_threadpool(session.close)
    await run_in_threadpool(shop.put_into_queue, answer.id)
    return answer


def _new_job(session: Session, piece_id: str, kind: str, name: str, asked: dict[str, Any]) -> JobRow:
    store.load_piece(session, piece_id)  # there must be one
    return jobs.create_job(session, kind, name[:80] or "Mesh", piece_id, asked)


@router.post("/{job_id}/put")
def put_mesh(shop: AWorkshop, piece_id: PieceId, job_id: JobId, request: PutMesh) -> PieceState:
    """A mesh that was read as a part, standing on the wheel beside what is there."""
    with shop.transaction() as session:
        job = jobs.load_job(session, job_id)
        result, name = job.result, job.name
    if job.kind != "bring_in" or job.state != "done" or result is None or job.piece_id != piece_id:
        raise MeshError("this mesh has not been read, or not for this piece; bring it in again")
    unit = result["unit"] or request.unit
    if unit is None:
        raise PieceError(Problem("say which unit the file's numbers are in", field="unit"))
    scale = UNITS[unit]
    size = [(high - low) * scale for low, high in zip(result["low"], result["high"], strict=True)]
    x, y = shop.pool.ask(piece_id, "spot_beside", document_of(shop, piece_id), size)
    foot = round(-result["low"][2] * scale, 6)
    part = Part(
        id="mesh",
        name=name,
        mesh=MeshAsset(asset=result["sha256"]),
        place=Place(position=(x, y, foot if size[2] > 0 else 0.0), scale=(scale, scale, scale)),
        colour=result["colour"],
    )
    edit = AddParts(kind="add_parts", parts=(part,))
    return applied(shop, piece_id, request.base_revision, request.request_id, edit)
