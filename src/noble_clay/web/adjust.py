"""Adjusting parts by what stands around them, what is odd about how they meet, and faces to work on."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from noble_clay.core.adjust import AnyAdjust
from noble_clay.core.fields import Point
from noble_clay.core.piece.edits.carry import Carry
from noble_clay.store import pieces as store
from noble_clay.web.answers import CarriedAnswer, FaceAnswer, MarksAnswer, PieceState
from noble_clay.web.edits import RequestId, applied
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop, document_of, state_of

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["adjust"])


class AdjustRequest(BaseModel):
    """An adjustment of parts of revision `base_revision`."""

    base_revision: int
    request_id: RequestId
    adjust: AnyAdjust


class PreviewRequest(BaseModel):
    adjust: AnyAdjust


class FaceRequest(BaseModel):
    """A ray on the wheel: where the eye is, and which way the pointer lies."""

    eye: Point
    direction: Point


@router.post("/adjust")
def post_adjust(shop: AWorkshop, piece_id: PieceId, request: AdjustRequest) -> PieceState:
    """Make an adjustment: one edit that carries the parts."""
    with shop.transaction() as session:
        done = store.done_before(session, piece_id, request.request_id)
    if done is not None:  # asked again, there may be nothing left to adjust
        return state_of(shop, done)
    return applied(shop, piece_id, request.base_revision, request.request_id, _carry(shop, piece_id, request.adjust))


@router.post("/adjust/preview")
def preview_adjust(shop: AWorkshop, piece_id: PieceId, request: PreviewRequest) -> list[CarriedAnswer]:
    """Where an adjustment would carry each part; nothing is changed."""
    carry = _carry(shop, piece_id, request.adjust)
    return [CarriedAnswer(id=m.id, matrix=m.matrix().reshape(-1).tolist()) for m in carry.moves]


@router.post("/face")
def post_face(shop: AWorkshop, piece_id: PieceId, request: FaceRequest) -> FaceAnswer:
    """The face of the joined piece that a ray meets first."""
    return FaceAnswer.model_validate(
        shop.pool.ask(piece_id, "face", document_of(shop, piece_id), request.eye, request.direction)
    )


@router.get("/marks")
def get_marks(shop: AWorkshop, piece_id: PieceId) -> MarksAnswer:
    """Parts that float, only touch, lie wholly in another or poke through it. Ask again until it is complete."""
    with shop.transaction() as session:
        kept = store.load_piece(session, piece_id)
    found = shop.pool.ask(piece_id, "marks", kept.piece.dump())
    return MarksAnswer.model_validate({**found, "revision": kept.revision})


def _carry(shop: Workshop, piece_id: str, adjust: AnyAdjust) -> Carry:
    found = shop.pool.ask(piece_id, "adjust", document_of(shop, piece_id), adjust.model_dump(mode="json"))
    return Carry.model_validate(found)
