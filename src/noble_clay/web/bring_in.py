"""Bringing a mesh in: its file sent block by block, read by a job, and put on the wheel as a part."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from pathlib import PurePath
from tempfile import TemporaryFile
from typing import IO, Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import ClayError, MeshError, PieceError, Problem
from noble_clay.core.fields import Storable
from noble_clay.core.formats.mesh_file import UNITS
from noble_clay.core.formats.read import check_head
from noble_clay.core.formats.registry import check_bytes, ending, endings, is_read
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import MeshAsset, Part, Place
from noble_clay.store import jobs
from noble_clay.web.answers import JobAnswer, PieceState
from noble_clay.web.edits import RequestId, applied
from noble_clay.web.jobs import JobId, job_answer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop

router = APIRouter(prefix="/api/pieces/{piece_id}/bring-in", tags=["bring in"])
BLOCK = 4_000_000
STALL_SECONDS = 20.0
"""Without a byte, after which an upload is ended."""


class UploadStalled(ClayError):
    """A file that was being sent did not go on."""


class PutMesh(BaseModel):
    """A mesh that was read becomes a part. unit: of its numbers, where the file does not say."""

    base_revision: int
    request_id: RequestId
    unit: Literal["micron", "millimeter", "centimeter", "inch", "foot", "meter"] | None = None


@router.post("", status_code=202, openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}}})
async def post_bring_in(
    shop: AWorkshop,
    piece_id: PieceId,
    request: Request,
    name: Annotated[str, Query(min_length=1, max_length=200), Storable],
) -> JobAnswer:
    """Read a mesh file, the raw body, named `name`. While it comes, it lies in a file and holds nothing else up;
    nothing of it stays when it breaks off.
    """
    kind = ending(name)
    if not is_read(kind):
        raise MeshError(f"meshes are read from .{endings(writing=False)} files; this is a .{kind or '?'} file")
    size = int(request.headers.get("content-length", "0"))
    check_bytes(size, kind)
    await shop.load(piece_id)  # there must be one
    with TemporaryFile() as file:
        await _received(request, file, lambda head: check_head(head, size, kind))
        answer = await shop.stored(lambda session: _kept(session, piece_id, PurePath(name).stem, kind, file))
    await run_in_threadpool(shop.put_into_queue, answer.id)
    return answer


async def _received(request: Request, file: IO[bytes], check: Callable[[bytes], None]) -> None:
    """The body into a file. check: is given its first bytes. Raises UploadStalled when it does not go on."""
    head = b""
    chunks = request.stream().__aiter__()
    while True:
        try:
            chunk = await asyncio.wait_for(anext(chunks), STALL_SECONDS)
        except StopAsyncIteration:
            break
        except TimeoutError:
            raise UploadStalled(f"nothing more came for {STALL_SECONDS:.0f} seconds; send the file again") from None
        if len(head) < 84:
            head += chunk[:84]
            check(head[:84])
        await run_in_threadpool(file.write, chunk)
    if not head:
        raise MeshError("the file is empty")


def _kept(session: Session, piece_id: str, name: str, ending: str, file: IO[bytes]) -> JobAnswer:
    """A job that reads the file, and the file with it."""
    row = jobs.create_job(session, "bring_in", name[:80] or "Mesh", piece_id, {"ending": ending})
    file.seek(0)
    for number, block in enumerate(iter(lambda: file.read(BLOCK), b"")):
        jobs.add_block(session, row.id, "input", number, block)
    return job_answer(row)


@router.post("/{job_id}/leave", status_code=204)
def leave_mesh(shop: AWorkshop, piece_id: PieceId, job_id: JobId) -> None:
    """A mesh that was read is not wanted after all."""
    with shop.transaction() as session:
        jobs.settle_job(session, job_id)


@router.post("/{job_id}/put", response_model=PieceState)
async def put_mesh(shop: AWorkshop, piece_id: PieceId, job_id: JobId, request: PutMesh) -> Response:
    """A mesh that was read as a part, standing on the wheel beside what is there."""
    job = await shop.stored(lambda session: jobs.load_job(session, job_id))
    result, name = job.result, job.name
    if job.kind != "bring_in" or job.state != "done" or result is None or job.piece_id != piece_id:
        raise MeshError("this mesh has not been read, or not for this piece; bring it in again")
    unit = result["unit"] or request.unit
    if unit is None:
        raise PieceError(Problem("say which unit the file's numbers are in", field="unit"))
    scale = UNITS[unit]
    size = [(high - low) * scale for low, high in zip(result["low"], result["high"], strict=True)]
    x, y = await shop.answer(piece_id, "spot_beside", await shop.document(piece_id), size)
    foot = round(-result["low"][2] * scale, 6)
    part = Part(
        id="mesh",
        name=name,
        mesh=MeshAsset(asset=result["sha256"]),
        place=Place(position=(x, y, foot if size[2] > 0 else 0.0), scale=(scale, scale, scale)),
        colour=result["colour"],
    )
    edit = AddParts(kind="add_parts", parts=(part,))
    answer = await applied(shop, piece_id, request.base_revision, request.request_id, edit)
    await shop.stored(lambda session: jobs.settle_job(session, job_id))
    return answer
