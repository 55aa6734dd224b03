"""The Print stage's long work: looking a piece over as it lies, cutting it, writing beds and sheets."""

from __future__ import annotations

import json
import struct
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.printing.bed import Bed
from noble_clay.core.printing.paths import BLOCK, Rings, lines_of
from noble_clay.jobs.kinds.base import asked_for
from noble_clay.jobs.kinds.cut_apart import PARTS, SHOWN
from noble_clay.jobs.kinds.divide import GLAZES
from noble_clay.jobs.kinds.making_of import PAGE, PDF
from noble_clay.jobs.kinds.plate import PLATE, Another, OnPlate
from noble_clay.jobs.kinds.print_check import DETAILS, LAYERS, MAPS, OnBed
from noble_clay.solvers.desk import state_key
from noble_clay.web.answers import JobAnswer
from noble_clay.web.asked_jobs import asked_once, begun, file_of
from noble_clay.web.beds import bed_of, neighbours, on_bed_of
from noble_clay.web.jobs import JobId
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop

router = APIRouter(tags=["printing"])
HELD = {"cache-control": "private, max-age=3600"}


class PlaceAnswer(BaseModel):
    """Something to look at on the bed. at: mm. size: mm² of an area in a layer, mm of a thickness."""

    at: tuple[float, float, float]
    size: float


class HollowAnswer(BaseModel):
    volume: float
    at: tuple[float, float, float]


class PrintDetails(BaseModel):
    """Places that a print check lists, where the piece lies with `placing`."""

    placing: list[float]
    size: tuple[float, float, float]
    islands: list[PlaceAnswer]
    bridges: list[PlaceAnswer]
    thin: list[PlaceAnswer]
    fine: list[PlaceAnswer] = []
    hollows: list[HollowAnswer]


@router.post("/api/pieces/{piece_id}/print-check", status_code=202)
def post_print_check(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Look the piece over as it lies on the bed. Asked again about the same, it is the same job."""
    with shop.transaction() as session:
        answer, new = asked_once(session, piece_id, "print", _alone_on_bed(session, piece_id))
    return begun(shop, answer, new)


def _alone_on_bed(session: Session, piece_id: str) -> dict[str, Any]:
    """What makes a difference to one piece: not how many there are, how far apart, and where it is cut."""
    params = on_bed_of(session, piece_id).model_dump(mode="json")
    params["bed"] |= Bed().model_dump(mode="json", include={"copies", "gap", "cut", "beside"})
    return params


@router.post("/api/pieces/{piece_id}/orient", status_code=202)
def post_orient(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Find ways to lay the piece on the bed. Asked again about the same piece, it is the same job."""
    with shop.transaction() as session:
        answer, new = asked_once(session, piece_id, "orient", {})
    return begun(shop, answer, new)


@router.post("/api/pieces/{piece_id}/cut", status_code=202)
def post_cut(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Cut the piece into parts as its bed says; it stays as it is. Asked again about the same, it is the same job."""
    with shop.transaction() as session:
        answer, new = asked_once(session, piece_id, "cut", bed_of(session, piece_id).bed.cut.model_dump(mode="json"))
    return begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/cut/parts.zip", response_class=Response)
def get_cut_parts(shop: AWorkshop, job_id: JobId) -> Response:
    """Every part as a 3MF file, named after the piece."""
    with shop.transaction() as session:
        job, data = file_of(session, job_id, "cut", PARTS)
    headers = {"content-disposition": f'attachment; filename="{plain_name(job.name)}-parts.zip"'}
    return Response(data, media_type="application/zip", headers=headers)


@router.get("/api/jobs/{job_id}/cut/{number}", response_class=Response)
def get_cut_part(shop: AWorkshop, job_id: JobId, number: Annotated[int, Path(ge=1)]) -> Response:
    """The mesh of a part, from 1, as `/api/meshes` gives it, where it stood in the piece."""
    with shop.transaction() as session:
        _, data = file_of(session, job_id, "cut", f"{SHOWN}-{number}")
    if not data:
        raise MeshError(f"there is no part {number}")
    return Response(data, media_type="application/octet-stream", headers=HELD)


@router.post("/api/pieces/{piece_id}/plate", status_code=202)
def post_plate(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Write all that lies on the bed as one file. Asked again about the same, it is the same job."""
    with shop.transaction() as session:
        on_bed = on_bed_of(session, piece_id)
        others = []
        for each in neighbours(session, on_bed.bed):
            if each.problem is not None:
                raise MeshError(f'"{each.name}" cannot lie on this bed: {each.problem}')
            others.append(Another(piece=each.piece, copies=each.copies, bed=each.bed, state=state_key(each.document)))
        asked = OnPlate(bed=on_bed.bed, printer=on_bed.printer, others=others)
        answer, new = asked_once(session, piece_id, "plate", asked.model_dump(mode="json"))
    return begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/plate.{kind}", response_class=Response)
def get_plate(shop: AWorkshop, job_id: JobId, kind: Literal["3mf", "stl"]) -> Response:
    """All that lies on the bed, where it lies: as 3MF an object for each piece, as STL the shape only. Of several beds
    a ZIP with a file for each.
    """
    with shop.transaction() as session:
        job, data = file_of(session, job_id, "plate", f"{PLATE}.{kind}")
        several = (job.result or {}).get("beds", 1) > 1
    name = f"{plain_name(job.name)}-beds.{kind}.zip" if several else f"{plain_name(job.name)}-bed.{kind}"
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(data, media_type="application/zip" if several else FORMATS[kind].media, headers=headers)


@router.post("/api/pieces/{piece_id}/by-glaze", status_code=202)
def post_by_glaze(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Divide the piece into a body for each of its glazes. Asked again about the same piece, it is the same job."""
    with shop.transaction() as session:
        answer, new = asked_once(session, piece_id, "by_glaze", {})
    return begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/by-glaze.{kind}", response_class=Response)
def get_by_glaze(shop: AWorkshop, job_id: JobId, kind: Literal["3mf", "zip"]) -> Response:
    """Bodies that fill the piece between them: as objects of one 3MF, or each as an STL."""
    with shop.transaction() as session:
        job, data = file_of(session, job_id, "by_glaze", f"{GLAZES}.{kind}")
    headers = {"content-disposition": f'attachment; filename="{plain_name(job.name)}-by-glaze.{kind}"'}
    return Response(data, media_type="application/zip" if kind == "zip" else FORMATS[kind].media, headers=headers)


@router.post("/api/pieces/{piece_id}/making-of", status_code=202)
def post_making_of(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Write the making-of sheet. Asked again about the same piece and bed, it is the same job."""
    with shop.transaction() as session:
        answer, new = asked_once(session, piece_id, "making_of", _alone_on_bed(session, piece_id))
    return begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/making-of.{kind}", response_class=Response)
def get_making_of(shop: AWorkshop, job_id: JobId, kind: Literal["html", "pdf"]) -> Response:
    """The sheet as a page, to be read at once, or as a PDF to take away."""
    name, media = (PAGE, "text/html") if kind == "html" else (PDF, "application/pdf")
    with shop.transaction() as session:
        job, data = file_of(session, job_id, "making_of", name)
    way = "inline" if kind == "html" else "attachment"
    headers = {
        "content-disposition": f'{way}; filename="{plain_name(job.name)}-making-of.{kind}"',
        "content-security-policy": "default-src 'none'; img-src data:; style-src 'unsafe-inline'",
    }
    return Response(data, media_type=media, headers=headers)


@router.get("/api/jobs/{job_id}/print")
def get_print_details(shop: AWorkshop, job_id: JobId) -> PrintDetails:
    """What a print check lists place by place."""
    with shop.transaction() as session:
        _, data = file_of(session, job_id, "print", DETAILS)
    return PrintDetails.model_validate(json.loads(data))


@router.get("/api/jobs/{job_id}/print/maps", response_class=Response)
def get_maps(shop: AWorkshop, job_id: JobId) -> Response:
    """A mesh as `/api/meshes` gives it, on the bed; then for each triangle how far it leans out, in degrees, and how
    thick the body is behind it, mm: float32, little-endian.
    """
    with shop.transaction() as session:
        _, data = file_of(session, job_id, "print", MAPS)
    return Response(data, media_type="application/octet-stream", headers=HELD)


@router.get("/api/jobs/{job_id}/print/layers/{number}", response_class=Response)
async def get_layer(shop: AWorkshop, job_id: JobId, number: Annotated[int, Path(ge=0)]) -> Response:
    """The paths of one layer, from 0: how many lines (uint32), for each x, y to x, y (float32, mm on the bed), then for
    each a byte: 0 outer wall, 1 wall, 2 skin, 3 infill, 4 support. Little-endian.
    """

    def held(session: Session) -> tuple[bytes, dict[str, Any]]:
        job, data = file_of(session, job_id, "print", f"{LAYERS}-{number // BLOCK}")
        return data, job.params

    data, params = await shop.stored(held)
    if not data:
        raise MeshError(f"there is no layer {number + 1}")

    def drawn() -> bytes:
        asked = asked_for(OnBed, params)
        lines, kinds = lines_of(Rings.read(data), number, asked.printer, asked.bed.settings)
        return struct.pack("<I", len(lines)) + lines.astype("<f4").tobytes() + kinds.tobytes()

    return Response(await run_in_threadpool(drawn), media_type="application/octet-stream", headers=HELD)
