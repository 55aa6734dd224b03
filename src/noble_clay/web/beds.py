"""The bed of a piece: what it is printed on, how it lies, what lies beside it, and whether it stands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel
from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.core.piece.edits import AnyEdit
from noble_clay.core.printing import steadying
from noble_clay.core.printing.bed import Bed
from noble_clay.core.printing.profiles import Filament, Printer, Profile, check_layer, named
from noble_clay.jobs.kinds.print_check import OnBed
from noble_clay.solvers.pool import MAKING_PATIENCE
from noble_clay.store.beds import keep_bed, load_bed
from noble_clay.store.pieces import NoSuchPiece, Unreadable, load_piece
from noble_clay.store.preferences import load_preferences
from noble_clay.web.answers import ResultView
from noble_clay.web.pieces import PieceId
from noble_clay.web.preferences import Preferences
from noble_clay.web.state import AWorkshop, answered

router = APIRouter(tags=["printing"])


class BedAnswer(BaseModel):
    """bed: as it was kept; for a profile that is gone the first one. printers, filaments: all there are."""

    bed: Bed
    printers: tuple[Printer, ...]
    filaments: tuple[Filament, ...]


class Spots(BaseModel):
    """placing: 3 x 4, row by row, carries the piece onto the bed, its middle over the origin. spots: of each copy that
    finds room x, y, in mm, whether it is turned by a right angle, and on which bed, from 0.
    """

    placing: list[float]
    size: tuple[float, float, float]
    fits: bool
    spots: list[tuple[float, float, bool, int]]


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
    colours: where an edit is tried out, the skin after it, and those of its parts. beds: how many are needed for all
    that finds room.
    """

    beds: int
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
        return bed_of(session, piece_id)


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
        return bed_of(session, piece_id)


def bed_of(session: Session, piece_id: str) -> BedAnswer:
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
        on_bed = on_bed_of(session, piece_id)
        return load_piece(session, piece_id).piece.dump(), on_bed, neighbours(session, on_bed.bed)

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


def neighbours(session: Session, bed: Bed) -> list[Neighbour]:
    found = []
    for other in bed.beside:
        try:
            kept = load_piece(session, other.piece)
        except (NoSuchPiece, Unreadable) as error:
            name = error.broken.name if isinstance(error, Unreadable) else "A piece that is gone"
            found.append(Neighbour(other.piece, other.copies, name, Bed(), {}, str(error)))
        else:
            own = bed_of(session, other.piece).bed
            found.append(Neighbour(other.piece, other.copies, kept.piece.name, own, kept.piece.dump()))
    return found


def on_bed_of(session: Session, piece_id: str) -> OnBed:
    found = bed_of(session, piece_id)
    printer, filament = _there(found.printers, found.bed.printer), _there(found.filaments, found.bed.filament)
    return OnBed(bed=found.bed, printer=printer, filament=filament)


@router.get("/api/pieces/{piece_id}/steadyings")
async def get_steadyings(shop: AWorkshop, piece_id: PieceId) -> list[SteadyingAnswer]:
    """What would make the piece stand better as it was made, the best first, each an edit of its recipe."""
    document = await shop.document(piece_id)
    question = shop.pool.ask(piece_id, "steadyings", document, patience=MAKING_PATIENCE)
    return [SteadyingAnswer.model_validate(values) for values in await answered(question)]
