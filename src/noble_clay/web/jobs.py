"""Jobs: what long work there is, how far it is, stopping it, and a socket that tells of every change."""

from __future__ import annotations

import asyncio
import json
from typing import Annotated

from fastapi import APIRouter, Path, Response, WebSocket
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnect

from noble_clay.core.errors import MeshError
from noble_clay.core.field_kinds import fields_of
from noble_clay.jobs.registry import JOBS
from noble_clay.store import jobs as store
from noble_clay.store.pieces import load_piece
from noble_clay.store.tables import JobRow, PieceRow
from noble_clay.web.answers import CompareAnswer, JobAnswer, JobKindAnswer
from noble_clay.web.report import report_page
from noble_clay.web.sockets import until_gone
from noble_clay.web.state import AWorkshop, Workshop

router = APIRouter(prefix="/api/jobs", tags=["jobs"])
JobId = Annotated[str, Path(pattern=r"^[0-9a-f]{16}$")]


def job_answer(row: JobRow, piece_name: str | None = None) -> JobAnswer:
    values = {c.name: getattr(row, c.name) for c in JobRow.__table__.columns}
    kind = JOBS.get(row.kind)
    outcome = kind.outcome(row.result) if kind is not None and row.result is not None else ""
    return JobAnswer.model_validate({**values, "outcome": outcome, "piece_name": piece_name})


@router.get("")
def list_jobs(shop: AWorkshop) -> list[JobAnswer]:
    """The newest first."""
    with shop.transaction() as session:
        rows = store.list_jobs(session)
        names = {i: row.name for i in {r.piece_id for r in rows if r.piece_id} if (row := session.get(PieceRow, i))}
        return [job_answer(r, names.get(r.piece_id or "")) for r in rows]


@router.get("/kinds")
def list_job_kinds() -> list[JobKindAnswer]:
    """All kinds of long work. quiet: not listed once it has ended well; of_piece: may be asked for about a piece."""
    return [
        JobKindAnswer(
            kind=job.kind,
            label=job.label,
            quiet=job.quiet,
            of_piece=job.of_piece,
            fields=list(fields_of(job.params)) if job.of_piece else [],
        )
        for job in JOBS.values()
    ]


@router.get("/{job_id}")
def get_job(shop: AWorkshop, job_id: JobId) -> JobAnswer:
    with shop.transaction() as session:
        return job_answer(store.load_job(session, job_id))


@router.post("/{job_id}/cancel")
def cancel_job(shop: AWorkshop, job_id: JobId) -> JobAnswer:
    """Stop a job. What it has done so far is thrown away; one that has ended stays ended."""
    with shop.transaction() as session:
        return job_answer(store.cancel_job(session, job_id))


@router.get("/{job_id}/compare")
async def compare(shop: AWorkshop, job_id: JobId) -> list[CompareAnswer]:
    """Every part that a job mended, before and after."""
    job = await shop.stored(lambda session: store.load_job(session, job_id))
    params, result, piece_id = job.params, job.result, job.piece_id
    if job.kind != "mend" or result is None or piece_id is None:
        raise MeshError("there is nothing to compare: this job mended nothing")
    found = []
    for number, (part, values) in enumerate(result.items()):
        shas = params["meshes"][part]["sha256"], values["sha256"]
        before, after = [await shop.answer(piece_id, "asset_key", sha) for sha in shas]
        found.append(
            CompareAnswer(
                part=part,
                before=before,
                after=after,
                moved=f"/api/jobs/{job_id}/moved/{number}",
                largest_mm=values["report"]["deviation_mm"],
            )
        )
    return found


@router.get("/{job_id}/moved/{number}", response_class=Response)
def get_moved(shop: AWorkshop, job_id: JobId, number: Annotated[int, Path(ge=0)]) -> Response:
    """How far the middle of each triangle of a mended mesh is from the mesh before, mm: float32, little-endian."""
    with shop.transaction() as session:
        data = b"".join(store.job_file(session, job_id, f"moved-{number}"))
    return Response(data, media_type="application/octet-stream", headers={"cache-control": "private, max-age=3600"})


@router.get("/{job_id}/report.json", response_class=Response)
def report_json(shop: AWorkshop, job_id: JobId) -> Response:
    """What a mending job found and did, as JSON."""
    with shop.transaction() as session:
        job = _mended(session, job_id)
        assert job.result is not None
        parts = {part: values["report"] for part, values in job.result.items()}
        data = json.dumps({"job": job_id, "name": job.name, "parts": parts}, indent=1)
    return Response(data, media_type="application/json", headers=_as_file(f"mending-{job_id}.json"))


@router.get("/{job_id}/report.html", response_class=Response)
def report_html(shop: AWorkshop, job_id: JobId) -> Response:
    """The same as a page to read or print."""
    with shop.transaction() as session:
        job = _mended(session, job_id)
        piece = load_piece(session, job.piece_id or "").piece
        page = report_page(job, {p.id: p.name for p in piece.walk()}, piece.name)
    return Response(page, media_type="text/html", headers=_as_file(f"mending-{job_id}.html"))


def _as_file(name: str) -> dict[str, str]:
    return {"content-disposition": f'attachment; filename="{name}"'}


def _mended(session: Session, job_id: str) -> JobRow:
    job = store.load_job(session, job_id)
    if job.kind != "mend" or job.result is None:
        raise MeshError("this job has no report: it mended nothing")
    return job


@router.websocket("/socket")
async def job_socket(socket: WebSocket) -> None:
    """Every job that changes, as JSON; an empty object says: look at all of them again."""
    await socket.accept()
    shop: Workshop = socket.app.state.workshop
    queue = shop.jobs.join()
    gone = asyncio.create_task(until_gone(socket))
    try:
        while not gone.done():
            getting = asyncio.create_task(queue.get())
            await asyncio.wait({getting, gone}, return_when=asyncio.FIRST_COMPLETED)
            if gone.done():
                getting.cancel()
                break
            changed = {getting.result()}
            while not queue.empty():
                changed.add(queue.get_nowait())
            for job_id in changed:
                await socket.send_text(await run_in_threadpool(_job_text, shop, job_id))
    except (WebSocketDisconnect, RuntimeError):
        pass
    finally:
        gone.cancel()
        shop.jobs.leave(queue)


def _job_text(shop: Workshop, job_id: str) -> str:
    try:
        with shop.transaction() as session:
            return job_answer(store.load_job(session, job_id)).model_dump_json() if job_id else "{}"
    except (store.NoSuchJob, SQLAlchemyError):
        return "{}"
