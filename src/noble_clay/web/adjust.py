"""Adjusting parts by what stands around them, what is odd about how they meet, and faces to work on."""

from __future__ import annotations

from fastapi import APIRouter, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from noble_clay.core.adjust import AnyAdjust
from noble_clay.core.fields import Point
from noble_clay.core.piece.edits.carry import Carry
from noble_clay.store import pieces as store
from noble_clay.web.answers import CarriedAnswer, FaceAnswer, MarksAnswer, PieceState
from noble_clay.web.edits import RequestId, applied
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop, state_response

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


@router.post("/adjust", response_model=PieceState)
async def post_adjust(shop: AWorkshop, piece_id: PieceId, request: AdjustRequest) -> Response:
    """Make an adjustment: one edit that carries the parts."""
    done = await shop.stored(lambda session: store.done_before(session, piece_id, request.request_id))
    if done is not None:  # asked again, there may be nothing left to adjust
        return await state_response(shop, done)
    carry = await _carry(shop, piece_id, request.adjust)
    return await applied(shop, piece_id, request.base_revision, request.request_id, carry)


@router.post("/adjust/preview")
async def preview_adjust(shop: AWorkshop, piece_id: PieceId, request: PreviewRequest) -> list[CarriedAnswer]:
    """Where an adjustment would carry each part; nothing is changed."""
    carry = await _carry(shop, piece_id, request.adjust)
    return [CarriedAnswer(id=m.id, matrix=m.matrix().reshape(-1).tolist()) for m in carry.moves]


@router.post("/face")
async def post_face(shop: AWorkshop, piece_id: PieceId, request: FaceRequest) -> FaceAnswer:
    """The face of the joined piece that a ray meets first."""
    document = await shop.document(piece_id)
    return FaceAnswer.model_validate(await shop.answer(piece_id, "face", document, request.eye, request.direction))


@router.get("/marks")
async def get_marks(shop: AWorkshop, piece_id: PieceId) -> MarksAnswer:
    """Parts that float, only touch, lie wholly in another or poke through it. Ask again until it is complete."""
    kept = await shop.load(piece_id)
    found = await shop.answer(piece_id, "marks", await run_in_threadpool(kept.piece.dump))
    return MarksAnswer.model_validate({**found, "revision": kept.revision})


async def _carry(shop: Workshop, piece_id: str, adjust: AnyAdjust) -> Carry:
    found = await shop.answer(piece_id, "adjust", await shop.document(piece_id), adjust.model_dump(mode="json"))
    return Carry.model_validate(found)
