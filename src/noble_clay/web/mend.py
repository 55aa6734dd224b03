"""The Mend stage: what a piece and its meshes need, and mending them."""

from __future__ import annotations

import asyncio
from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import PieceError, Problem, Stopped
from noble_clay.core.fields import Storable
from noble_clay.core.mesh.severity import MeshFlaw
from noble_clay.core.piece.models import MeshAsset, Part, PartId
from noble_clay.core.piece.tree import find
from noble_clay.solvers.desk import weight_of
from noble_clay.store import jobs
from noble_clay.store import pieces as store
from noble_clay.store.tables import JobRow
from noble_clay.web.answers import JobAnswer, MeshFindings, NeedsAnswer
from noble_clay.web.jobs import job_answer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["mend"])
Millimetres = Annotated[float, Field(ge=0.0001, le=1000)]


class MendOptions(BaseModel):
    """What a maker asks of mending; lengths as the part is shown. skip: steps to leave out."""

    skip: Annotated[list[Annotated[str, Field(max_length=60), Storable]], Field(max_length=40)] = []
    weld_mm: Millimetres | None = None
    crumb_mm3: Annotated[float, Field(ge=0, le=1e6)] | None = None
    wall_mm: Millimetres | None = None
    resolution_mm: Millimetres | None = None
    bodies: Literal["leave", "bridge", "largest"] = "leave"


class MendRequest(BaseModel):
    """Parts that are meshes, to be mended as one step."""

    parts: Annotated[list[PartId], Field(min_length=1, max_length=50)]
    options: MendOptions = MendOptions()


class MendFlaw(BaseModel):
    """One flaw of a mesh, by its number among those that `mesh-findings` told; without a number all of the kind."""

    part: PartId
    kind: MeshFlaw
    number: Annotated[int, Field(ge=0, le=2**31 - 1)] | None = None


@router.get("/needs")
async def get_needs(shop: AWorkshop, piece_id: PieceId) -> NeedsAnswer:
    """What the joined piece needs, place by place, each with the edits of its recipe that would mend it."""
    while True:
        kept = await shop.load(piece_id)
        document = await run_in_threadpool(kept.piece.dump)
        work = shop.counting.want(piece_id, "needs", kept.revision, weight_of(document), document)
        try:
            found = await asyncio.wrap_future(work)
        except Stopped:  # a newer state is asked about
            continue
        return NeedsAnswer.model_validate({**found, "revision": kept.revision})


@router.get("/mesh-findings")
def mesh_findings(shop: AWorkshop, piece_id: PieceId) -> list[MeshFindings]:
    """What is wrong with the meshes of a piece, by part, as far as they have been looked over."""
    with shop.transaction() as session:
        return [_findings(session, piece_id, part) for part in _mesh_parts(session, piece_id)]


@router.post("/inspect-meshes", status_code=202)
def post_inspect(shop: AWorkshop, piece_id: PieceId) -> list[MeshFindings]:
    """Have the meshes of a piece looked over that nobody has looked over yet: a job each."""
    found, started = [], []
    with shop.transaction() as session:
        for part in _mesh_parts(session, piece_id):
            findings = _findings(session, piece_id, part)
            if findings.sound is None and findings.job is None:
                params = {"meshes": {part.id: {"sha256": findings.sha256}}}
                job = jobs.create_job(session, "inspect", part.name, piece_id, params)
                started.append(job.id)
                findings = findings.model_copy(update={"job": job_answer(job)})
            found.append(findings)
    for job_id in started:
        shop.put_into_queue(job_id)
    return found


def _mesh_parts(session: Session, piece_id: str) -> list[Part]:
    return [p for p in store.load_piece(session, piece_id).piece.walk() if p.mesh is not None]


def _findings(session: Session, piece_id: str, part: Part) -> MeshFindings:
    assert part.mesh is not None
    sha = part.mesh.asset
    values = jobs.findings_of(session, sha)
    if values is not None:
        return MeshFindings.model_validate({**values, "part": part.id, "sha256": sha, "job": None})
    job = _looking_over(session, piece_id, sha)
    return MeshFindings(part=part.id, sha256=sha, job=job_answer(job) if job is not None else None)


def _looking_over(session: Session, piece_id: str, sha: str) -> JobRow | None:
    """The job that looks an asset over, or could not."""
    for job in jobs.list_jobs(session, piece_id):
        meshes = job.params.get("meshes", {}).values()
        open_or_failed = job.state not in ("cancelled", "done")
        if job.kind == "inspect" and open_or_failed and any(m["sha256"] == sha for m in meshes):
            return job
    return None


@router.post("/mend", status_code=202)
def post_mend(shop: AWorkshop, piece_id: PieceId, request: MendRequest) -> JobAnswer:
    """Mend parts that are meshes: a job, whose end is one step of the piece's history."""
    options = request.options.model_dump(exclude_none=True)
    return _mending(shop, piece_id, "mend", {part: {"options": options} for part in request.parts})


@router.post("/mend-flaw", status_code=202)
def post_mend_flaw(shop: AWorkshop, piece_id: PieceId, request: MendFlaw) -> JobAnswer:
    """Mend one flaw of a mesh, or all of a kind: a job like any other mending."""
    only = {"kind": request.kind, "number": request.number}
    return _mending(shop, piece_id, "mend", {request.part: {"only": only}})


@router.post("/rehearse", status_code=202)
def post_rehearse(shop: AWorkshop, piece_id: PieceId, request: MendRequest) -> JobAnswer:
    """Find out what mending so would do, and change nothing. Asked again, it is the same job."""
    options = request.options.model_dump(exclude_none=True)
    return _mending(shop, piece_id, "rehearse", {part: {"options": options} for part in request.parts})


def _mending(shop: Workshop, piece_id: str, kind: str, params: dict[str, dict[str, Any]]) -> JobAnswer:
    """A job about meshes of a piece. One that mends stops the rehearsals, which would only hold it up."""
    with shop.transaction() as session:
        piece = store.load_piece(session, piece_id).piece
        spots = [find(piece, part_id) for part_id in params]
        for spot in spots:
            mesh = _mendable(spot.part, kind)
            params[spot.part.id] = {"sha256": mesh.asset, "scale": spot.scale, **params[spot.part.id]}
        earlier = [j for j in jobs.list_jobs(session, piece_id) if j.kind == "rehearse" and j.state != "cancelled"]
        if kind == "rehearse":
            for job in earlier:
                if job.params["meshes"] == params:
                    return job_answer(job)
        for job in earlier:
            jobs.cancel_job(session, job.id)
        name = ", ".join(s.part.name for s in spots)[:80]
        answer = job_answer(jobs.create_job(session, kind, name, piece_id, {"meshes": params}))
    shop.put_into_queue(answer.id)
    return answer


def _mendable(part: Part, kind: str) -> MeshAsset:
    """A part's mesh. Raises PieceError for a part that is none, and one that is locked."""
    if part.mesh is None:
        raise PieceError(Problem("only a mesh is mended so; bake this part first", part.id))
    if part.locked and kind == "mend":
        raise PieceError(Problem("this part is locked; unlock it first", part.id, "locked"))
    return part.mesh
