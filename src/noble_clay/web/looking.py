"""Looking into a piece: what a plane cuts of its skin, and points to measure from."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from noble_clay.core.fields import Coordinate, Point
from noble_clay.core.piece.beside import MeasuredSpot
from noble_clay.web.answers import CutFaceAnswer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["looking"])


class SectionRequest(BaseModel):
    """Which skin is cut, by its key; across which direction, and how far along it from the wheel's middle, mm."""

    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    normal: Point
    at: Coordinate


class SpotRequest(BaseModel):
    """A ray on the wheel; reach: how near a corner, an edge or a middle is that catches it, mm."""

    eye: Point
    direction: Point
    reach: Annotated[float, Field(ge=0, le=1000)]


@router.post("/section")
async def cut_face(shop: AWorkshop, piece_id: PieceId, request: SectionRequest) -> CutFaceAnswer:
    """What a plane cuts of a skin of the piece."""
    found = await shop.answer(piece_id, "cut_face", request.key, request.normal, request.at)
    return CutFaceAnswer.model_validate(found)


@router.post("/spot")
async def measure_spot(shop: AWorkshop, piece_id: PieceId, request: SpotRequest) -> MeasuredSpot:
    """What of the joined piece a ray meets first, to measure from."""
    document = await shop.document(piece_id)
    found = await shop.answer(piece_id, "spot", document, request.eye, request.direction, request.reach)
    return MeasuredSpot.model_validate(found)
