"""Putting down what is ready made: a preset, or a part of the maker's drawer."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field, model_validator

from noble_clay.core.piece.drawer import taken_out, whole_of
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import HexId, Part
from noble_clay.core.piece.reframe import stood
from noble_clay.store import pieces as store
from noble_clay.web.answers import PieceState, Soundness
from noble_clay.web.edits import PutRequest, applied, place_for
from noble_clay.web.pieces import PieceId
from noble_clay.web.presets import preset_piece
from noble_clay.web.state import AWorkshop, Workshop

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["edits"])


class PutReadyRequest(PutRequest):
    """preset: one by its slug; or kept: one of the drawer."""

    preset: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")] | None = None
    kept: HexId | None = None

    @model_validator(mode="after")
    def _one_of_them(self) -> PutReadyRequest:
        if (self.preset is None) == (self.kept is None):
            raise ValueError("name either a preset or a part of the drawer")
        return self


@router.post("/put-ready", response_model=PieceState)
async def put_ready(shop: AWorkshop, piece_id: PieceId, request: PutReadyRequest) -> Response:
    """Put a preset or a part of the drawer down with its foot on the wheel, never inside another part."""
    part, (low, high) = await _ready(shop, piece_id, request)
    size = [h - low for low, h in zip(low, high, strict=True)]
    place = await place_for(shop, piece_id, request, size)
    edit = AddParts(kind="add_parts", parts=(stood(part, low, high, place),))
    return await applied(shop, piece_id, request.base_revision, request.request_id, edit)


async def _ready(shop: Workshop, piece_id: str, request: PutReadyRequest) -> tuple[Part, Sequence[Sequence[float]]]:
    """The part, and its box as it stands. Raises NoSuchPiece, PieceError."""
    if request.kept is not None:
        kept = await shop.load(request.kept)
        part, bounds = taken_out(kept.piece, kept.id), _known_bounds(kept)
        document = kept.piece.dump()
    else:
        assert request.preset is not None
        piece = preset_piece(request.preset)
        part, bounds, document = whole_of(piece, request.preset), None, piece.dump()
    return part, bounds or await shop.answer(piece_id, "standing", document)


def _known_bounds(kept: store.StoredPiece) -> Sequence[Sequence[float]] | None:
    """Where a piece was measured to reach, if it was."""
    return None if kept.soundness is None else Soundness.model_validate(kept.soundness).bounds
