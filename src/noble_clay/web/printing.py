"""The Print stage: how a piece lies on the bed, whether it stands, and what printing it takes."""

from __future__ import annotations

import json
import struct
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.piece.edits import AnyEdit
from noble_clay.core.printing import steadying
from noble_clay.core.printing.bed import Bed
from noble_clay.core.printing.paths import BLOCK, Rings, lines_of
from noble_clay.core.printing.profiles import Filament, Printer, Profile, check_layer, named
from noble_clay.jobs.kinds.base import asked_for
from noble_clay.jobs.kinds.cut_apart import PARTS, SHOWN
from noble_clay.jobs.kinds.making_of import PAGE, PDF
from noble_clay.jobs.kinds.plate import PLATE, Another, OnPlate
from noble_clay.jobs.kinds.print_check import DETAILS, LAYERS, MAPS, OnBed
from noble_clay.solvers.desk import state_key
from noble_clay.solvers.pool import MAKING_PATIENCE
from noble_clay.store import jobs
from noble_clay.store.beds import forget_before, keep_bed, load_bed, newest_of
from noble_clay.store.pieces import NoSuchPiece, Unreadable, load_piece
from noble_clay.store.preferences import load_preferences
from noble_clay.store.tables import JobRow
from noble_clay.web.answers import JobAnswer, ResultView
from noble_clay.web.jobs import JobId, job_answer
from noble_clay.web.pieces import PieceId
from noble_clay.web.preferences import Preferences
from noble_clay.web.state import AWorkshop, Workshop, answered

router = APIRouter(tags=["printing"])
HELD = {"cache-control": "private, max-age=3600"}


class BedAnswer(BaseModel):
    """bed: as it was kept; for a profile that is gone the first one. printers, filaments: all there are."""

    bed: Bed
    printers: tuple[Printer, ...]
    filaments: tuple[Filament, ...]


class Spots(BaseModel):
    """placing: 3 x 4, row by row, carries the piece onto the bed, its middle over the origin. spots: of each copy that
    finds room x, y, in mm, and whether it is turned by a right angle.
    """

    placing: list[float]
    size: tuple[float, float, float]
    fits: bool
    spots: list[tuple[float, float, bool]]


class BesideAnswer(BaseModel):
    """Another piece on the bed. problem: why it does not lie there, in words. result: its joined skin; colours: of the
    parts that this names.
    """

    piece: str
    name: str
    copies: int
    problem: str | None
    result: ResultView | None
    colours: dict[str, str]
    lies: Spots | None


class Lying(Spots):
    """support: corners of what it stands on. centre: of mass. Lengths in mm, angles in degrees, areas in mm². result,
    colours: where an edit is tried out, the skin after it, and those of its parts.
    """

    stands: bool
    support: list[tuple[float, float]]
    centre: tuple[float, float, float]
    tip_angle: float
    tip_towards: float
    floor_area: float
    result: ResultView | None
    colours: dict[str, str]
    beside: list[BesideAnswer]


class LieRequest(BaseModel):
    """edit: tried out and not kept."""

    edit: AnyEdit


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
    hollows: list[HollowAnswer]


class SteadyingAnswer(BaseModel):
    """by: degrees that it leans, mm that are cut off or that feet are moved, or the radius of a base, mm. tip_angle:
    degrees, then.
    """

    how: steadying.How
    by: float
    tip_angle: float
    edit: AnyEdit


@router.get("/api/pieces/{piece_id}/bed")
def get_bed(shop: AWorkshop, piece_id: PieceId) -> BedAnswer:
    with shop.transaction() as session:
        return _bed(session, piece_id)


@router.put("/api/pieces/{piece_id}/bed")
def put_bed(shop: AWorkshop, piece_id: PieceId, bed: Bed) -> BedAnswer:
    """Keep how a piece lies. Refused for a profile that is not there, and for layers that its nozzle cannot lay."""
    with shop.transaction() as session:
        likes = _preferences(session)
        named(likes.filaments, bed.filament, "filament")
        check_layer(bed.settings, named(likes.printers, bed.printer, "printer"))
        if any(other.piece == piece_id for other in bed.beside):
            raise MeshError("beside: a piece does not lie beside itself; raise its copies")
        keep_bed(session, piece_id, bed.model_dump(mode="json"))
        return _bed(session, piece_id)


def _bed(session: Session, piece_id: str) -> BedAnswer:
    likes = _preferences(session)
    bed = Bed.model_validate(load_bed(session, piece_id) or {})
    printer, filament = _there(likes.printers, bed.printer), _there(likes.filaments, bed.filament)
    bed = bed.model_copy(update={"printer": printer.name, "filament": filament.name})
    return BedAnswer(bed=bed, printers=likes.printers, filaments=likes.filaments)


def _preferences(session: Session) -> Preferences:
    return Preferences.model_validate(load_preferences(session))


def _there(profiles: tuple[Profile, ...], name: str) -> Profile:
    return next((p for p in profiles if p.name == name), profiles[0])


@router.post("/api/pieces/{piece_id}/lie")
async def post_lie(shop: AWorkshop, piece_id: PieceId, tried: LieRequest | None = None) -> Lying:
    """Where the piece and its copies come to lie, and whether it stands: as it is, or as it would be after an edit."""

    def asked(session: Session) -> tuple[dict[str, Any], OnBed, list[Neighbour]]:
        on_bed = _on_bed(session, piece_id)
        return load_piece(session, piece_id).piece.dump(), on_bed, _neighbours(session, on_bed.bed)

    document, on_bed, around = await shop.stored(asked)
    bed, printer = on_bed.bed.model_dump(mode="json"), on_bed.printer.model_dump(mode="json")
    there = [each for each in around if each.problem is None]
    others = [{"document": e.document, "bed": e.bed.model_dump(mode="json"), "copies": e.copies} for e in there]
    edit = tried.edit.model_dump(mode="json") if tried else None
    question = shop.pool.ask(piece_id, "lie", document, bed, printer, others, edit, patience=MAKING_PATIENCE)
    found = await answered(question)
    made = iter(found["beside"])
    found["beside"] = [
        {"piece": e.piece, "name": e.name, "copies": e.copies, **(next(made) if e.problem is None else e.gone())}
        for e in around
    ]
    return Lying.model_validate(found)


@dataclass(frozen=True)
class Neighbour:
    """What lies beside a piece, as it is kept now. problem: why it cannot, in words; document is empty then."""

    piece: str
    copies: int
    name: str
    bed: Bed
    document: dict[str, Any]
    problem: str | None = None

    def gone(self) -> dict[str, Any]:
        """What is answered of one that cannot lie there."""
        return {"problem": self.problem, "result": None, "colours": {}, "lies": None}


def _neighbours(session: Session, bed: Bed) -> list[Neighbour]:
    found = []
    for other in bed.beside:
        try:
            kept = load_piece(session, other.piece)
        except (NoSuchPiece, Unreadable) as error:
            name = error.broken.name if isinstance(error, Unreadable) else "A piece that is gone"
            found.append(Neighbour(other.piece, other.copies, name, Bed(), {}, str(error)))
        else:
            own = _bed(session, other.piece).bed
            found.append(Neighbour(other.piece, other.copies, kept.piece.name, own, kept.piece.dump()))
    return found


def _on_bed(session: Session, piece_id: str) -> OnBed:
    found = _bed(session, piece_id)
    printer, filament = _there(found.printers, found.bed.printer), _there(found.filaments, found.bed.filament)
    return OnBed(bed=found.bed, printer=printer, filament=filament)


@router.get("/api/pieces/{piece_id}/steadyings")
async def get_steadyings(shop: AWorkshop, piece_id: PieceId) -> list[SteadyingAnswer]:
    """What would make the piece stand better as it was made, the best first, each an edit of its recipe."""
    document = await shop.document(piece_id)
    question = shop.pool.ask(piece_id, "steadyings", document, patience=MAKING_PATIENCE)
    return [SteadyingAnswer.model_validate(values) for values in await answered(question)]


@router.post("/api/pieces/{piece_id}/print-check", status_code=202)
def post_print_check(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Look the piece over as it lies on the bed. Asked again about the same, it is the same job."""
    with shop.transaction() as session:
        answer, new = _asked(session, piece_id, "print", _alone_on_bed(session, piece_id))
    return _begun(shop, answer, new)


def _alone_on_bed(session: Session, piece_id: str) -> dict[str, Any]:
    """What makes a difference to one piece: not how many there are, how far apart, and where it is cut."""
    params = _on_bed(session, piece_id).model_dump(mode="json")
    params["bed"] |= Bed().model_dump(mode="json", include={"copies", "gap", "cut", "beside"})
    return params


@router.post("/api/pieces/{piece_id}/orient", status_code=202)
def post_orient(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Find ways to lay the piece on the bed. Asked again about the same piece, it is the same job."""
    with shop.transaction() as session:
        answer, new = _asked(session, piece_id, "orient", {})
    return _begun(shop, answer, new)


@router.post("/api/pieces/{piece_id}/cut", status_code=202)
def post_cut(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Cut the piece into parts as its bed says; it stays as it is. Asked again about the same, it is the same job."""
    with shop.transaction() as session:
        answer, new = _asked(session, piece_id, "cut", _bed(session, piece_id).bed.cut.model_dump(mode="json"))
    return _begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/cut/parts.zip", response_class=Response)
def get_cut_parts(shop: AWorkshop, job_id: JobId) -> Response:
    """Every part as a 3MF file, named after the piece."""
    with shop.transaction() as session:
        job = ended_well(session, job_id, "cut")
        data = b"".join(jobs.job_file(session, job_id, PARTS))
    headers = {"content-disposition": f'attachment; filename="{plain_name(job.name)}-parts.zip"'}
    return Response(data, media_type="application/zip", headers=headers)


@router.get("/api/jobs/{job_id}/cut/{number}", response_class=Response)
def get_cut_part(shop: AWorkshop, job_id: JobId, number: Annotated[int, Path(ge=1)]) -> Response:
    """The mesh of a part, from 1, as `/api/meshes` gives it, where it stood in the piece."""
    with shop.transaction() as session:
        ended_well(session, job_id, "cut")
        data = b"".join(jobs.job_file(session, job_id, f"{SHOWN}-{number}"))
    if not data:
        raise MeshError(f"there is no part {number}")
    return Response(data, media_type="application/octet-stream", headers=HELD)


@router.post("/api/pieces/{piece_id}/plate", status_code=202)
def post_plate(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Write all that lies on the bed as one file. Asked again about the same, it is the same job."""
    with shop.transaction() as session:
        on_bed = _on_bed(session, piece_id)
        others = []
        for each in _neighbours(session, on_bed.bed):
            if each.problem is not None:
                raise MeshError(f'"{each.name}" cannot lie on this bed: {each.problem}')
            others.append(Another(piece=each.piece, copies=each.copies, bed=each.bed, state=state_key(each.document)))
        asked = OnPlate(bed=on_bed.bed, printer=on_bed.printer, others=others)
        answer, new = _asked(session, piece_id, "plate", asked.model_dump(mode="json"))
    return _begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/plate.{kind}", response_class=Response)
def get_plate(shop: AWorkshop, job_id: JobId, kind: Literal["3mf", "stl"]) -> Response:
    """All that lies on the bed, where it lies: as 3MF an object for each piece, as STL the shape only."""
    with shop.transaction() as session:
        job = ended_well(session, job_id, "plate")
        data = b"".join(jobs.job_file(session, job_id, f"{PLATE}.{kind}"))
    headers = {"content-disposition": f'attachment; filename="{plain_name(job.name)}-bed.{kind}"'}
    return Response(data, media_type=FORMATS[kind].media, headers=headers)


@router.post("/api/pieces/{piece_id}/making-of", status_code=202)
def post_making_of(shop: AWorkshop, piece_id: PieceId) -> JobAnswer:
    """Write the making-of sheet. Asked again about the same piece and bed, it is the same job."""
    with shop.transaction() as session:
        answer, new = _asked(session, piece_id, "making_of", _alone_on_bed(session, piece_id))
    return _begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/making-of.{kind}", response_class=Response)
def get_making_of(shop: AWorkshop, job_id: JobId, kind: Literal["html", "pdf"]) -> Response:
    """The sheet as a page, to be read at once, or as a PDF to take away."""
    name, media = (PAGE, "text/html") if kind == "html" else (PDF, "application/pdf")
    with shop.transaction() as session:
        job = ended_well(session, job_id, "making_of")
        data = b"".join(jobs.job_file(session, job_id, name))
    way = "inline" if kind == "html" else "attachment"
    headers = {
        "content-disposition": f'{way}; filename="{plain_name(job.name)}-making-of.{kind}"',
        "content-security-policy": "default-src 'none'; img-src data:; style-src 'unsafe-inline'",
    }
    return Response(data, media_type=media, headers=headers)


def _asked(session: Session, piece_id: str, kind: str, params: dict[str, Any]) -> tuple[JobAnswer, bool]:
    """A job about a piece as it is now, and whether it is new; what came of the same kind earlier is thrown away."""
    kept = load_piece(session, piece_id)
    params = {**params, "state": state_key(kept.piece.dump())}
    last = newest_of(session, piece_id, kind)
    if last is not None and last.params == params:
        return job_answer(last), False
    forget_before(session, piece_id, kind)
    return job_answer(jobs.create_job(session, kind, kept.piece.name, piece_id, params)), True


def _begun(shop: Workshop, answer: JobAnswer, new: bool) -> JobAnswer:
    if new:
        shop.put_into_queue(answer.id)
    return answer


@router.get("/api/jobs/{job_id}/print")
def get_print_details(shop: AWorkshop, job_id: JobId) -> PrintDetails:
    """What a print check lists place by place."""
    with shop.transaction() as session:
        ended_well(session, job_id, "print")
        return PrintDetails.model_validate(json.loads(b"".join(jobs.job_file(session, job_id, DETAILS))))


@router.get("/api/jobs/{job_id}/print/maps", response_class=Response)
def get_maps(shop: AWorkshop, job_id: JobId) -> Response:
    """A mesh as `/api/meshes` gives it, on the bed; then for each triangle how far it leans out, in degrees, and how
    thick the body is behind it, mm: float32, little-endian.
    """
    with shop.transaction() as session:
        ended_well(session, job_id, "print")
        data = b"".join(jobs.job_file(session, job_id, MAPS))
    return Response(data, media_type="application/octet-stream", headers=HELD)


@router.get("/api/jobs/{job_id}/print/layers/{number}", response_class=Response)
async def get_layer(shop: AWorkshop, job_id: JobId, number: Annotated[int, Path(ge=0)]) -> Response:
    """The paths of one layer, from 0: how many lines (uint32), for each x, y to x, y (float32, mm on the bed), then for
    each a byte: 0 outer wall, 1 wall, 2 skin, 3 infill, 4 support. Little-endian.
    """

    def held(session: Session) -> tuple[bytes, dict[str, Any]]:
        job = ended_well(session, job_id, "print")
        return b"".join(jobs.job_file(session, job_id, f"{LAYERS}-{number // BLOCK}")), job.params

    data, params = await shop.stored(held)
    if not data:
        raise MeshError(f"there is no layer {number + 1}")

    def drawn() -> bytes:
        asked = asked_for(OnBed, params)
        lines, kinds = lines_of(Rings.read(data), number, asked.printer, asked.bed.settings)
        return struct.pack("<I", len(lines)) + lines.astype("<f4").tobytes() + kinds.tobytes()

    return Response(await run_in_threadpool(drawn), media_type="application/octet-stream", headers=HELD)


def ended_well(session: Session, job_id: str, kind: str) -> JobRow:
    job = jobs.load_job(session, job_id)
    if job.kind != kind or job.state != "done":
        raise MeshError("there is nothing to show of this job: it is not done, or of another kind")
    return job
