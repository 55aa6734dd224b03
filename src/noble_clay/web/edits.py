"""Edits of a piece, undo and redo."""

from __future__ import annotations

import time
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from noble_clay.core.adjust.adjust import Floor, standing_on
from noble_clay.core.errors import Fault, PieceError, Problem
from noble_clay.core.fields import Coordinate
from noble_clay.core.piece.edits import AnyEdit
from noble_clay.core.piece.edits.bake import Bake
from noble_clay.core.piece.edits.beside import KeepPicture
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import MeshAsset, Op, Part, PartId, Place
from noble_clay.core.primitives.registry import AnyPrimitive
from noble_clay.core.registry import kind_of
from noble_clay.solvers.pool import MAKING_PATIENCE
from noble_clay.solvers.seat import SolverFailed
from noble_clay.store import pieces as store
from noble_clay.store.assets import asset_is_kept, keep_asset
from noble_clay.web.answers import PieceState, StepFactsAnswer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop, answered, settled, state_response

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["edits"])
ALLOW_SECONDS = 1.0
"""How long an edit waits to be shown to be impossible."""

RequestId = Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")]


class EditRequest(BaseModel):
    """An edit made on revision `base_revision`. A request sent twice under one id is done once."""

    base_revision: int
    request_id: RequestId
    edit: AnyEdit


class PutRequest(BaseModel):
    """Something new at a spot of the wheel, on a face that is the floor for now, or beside what is there. beside: on
    the face not at its point, but as near to that as nothing else stands.
    """

    base_revision: int
    request_id: RequestId
    at: tuple[Coordinate, Coordinate] | None = None
    on: Floor | None = None
    beside: bool = False


class PutDownRequest(PutRequest):
    primitive: AnyPrimitive


class StepRequest(BaseModel):
    base_revision: int


class FactsRequest(BaseModel):
    """Parts of one list, the bodies first, and how the others would enter; without op, as they stand."""

    ids: Annotated[list[str], Field(min_length=2, max_length=200)]
    op: Op | None = None
    bodies: Annotated[int, Field(ge=1)] = 1


class BakeRequest(BaseModel):
    """A part of revision `base_revision` that is to become its own mesh."""

    base_revision: int
    request_id: RequestId
    id: PartId


@router.post("/edits", response_model=PieceState)
async def post_edit(shop: AWorkshop, piece_id: PieceId, request: EditRequest) -> Response:
    """Apply an edit. From the moment of the answer it is kept."""
    if request.edit.may_be_impossible:
        await _check_possible(shop, piece_id, request.edit)
    if isinstance(request.edit, KeepPicture):
        asset = request.edit.picture.asset
        if not await shop.stored(lambda session: asset_is_kept(session, asset)):
            raise PieceError(Problem("this picture is not here; bring it in first", field="picture.asset"))
    return await applied(shop, piece_id, request.base_revision, request.request_id, request.edit)


async def _check_possible(shop: Workshop, piece_id: str, edit: AnyEdit) -> None:
    """Raises PieceError for an edit of which a moment's work shows that it cannot be made. What takes longer is kept,
    and told if it comes to nothing.
    """
    document = await shop.document(piece_id)
    question = shop.pool.ask_now(piece_id, "allow", document, edit.model_dump(mode="json", exclude_unset=True))
    if not await settled(question.answer, ALLOW_SECONDS):
        question.stop()
    elif (error := question.answer.exception()) is not None and not isinstance(error, Fault | SolverFailed):
        raise error


@router.post("/put-down", response_model=PieceState)
async def put_down(shop: AWorkshop, piece_id: PieceId, request: PutDownRequest) -> Response:
    """Put a new primitive down with its foot on the wheel, never inside another part."""
    bounds = request.primitive.bounds()
    foot = -float(bounds[0, 2])
    place = await place_for(shop, piece_id, request, (bounds[1] - bounds[0]).tolist(), foot)
    part = Part(
        id=kind_of(type(request.primitive)),
        name=type(request.primitive).label,
        primitive=request.primitive,
        place=place,
    )
    edit = AddParts(kind="add_parts", parts=(part,))
    return await applied(shop, piece_id, request.base_revision, request.request_id, edit)


async def place_for(shop: Workshop, piece_id: str, request: PutRequest, size: list[float], foot: float = 0.0) -> Place:
    """Where something new of a size, its foot so far below its origin, mm, is to stand."""
    on = request.on
    if on is not None:
        if request.beside:
            values = on.model_dump(mode="json")
            found = await shop.answer(piece_id, "spot_on", await shop.document(piece_id), size, values)
            on = Floor.model_validate(found)
        return standing_on(on, foot)
    if request.at is not None:
        return Place(position=(*request.at, foot))
    x, y = await shop.answer(piece_id, "spot_beside", await shop.document(piece_id), size)
    return Place(position=(x, y, foot))


@router.post("/bake", response_model=PieceState)
async def bake(shop: AWorkshop, piece_id: PieceId, request: BakeRequest) -> Response:
    """Make a part its own mesh: its parameters are given up, until this is undone."""
    document = await shop.document(piece_id)
    question = shop.pool.ask(piece_id, "baked", document, request.id, patience=MAKING_PATIENCE)
    sha256, data = await answered(question)
    await shop.stored(lambda session: keep_asset(session, sha256, data))
    edit = Bake(kind="bake", id=request.id, asset=MeshAsset(asset=sha256))
    return await applied(shop, piece_id, request.base_revision, request.request_id, edit)


async def applied(shop: Workshop, piece_id: str, base: int, request_id: str, edit: AnyEdit) -> Response:
    started = time.perf_counter()
    kept = await shop.stored(lambda session: store.apply_edit(session, piece_id, base, request_id, edit))
    return await state_response(shop, kept, started)


@router.post("/undo", response_model=PieceState)
async def undo(shop: AWorkshop, piece_id: PieceId, request: StepRequest) -> Response:
    """Take the last edit back, also of a piece that cannot be read."""
    kept = await shop.stored(lambda session: store.undo(session, piece_id, request.base_revision))
    return await state_response(shop, kept)


@router.post("/redo", response_model=PieceState)
async def redo(shop: AWorkshop, piece_id: PieceId, request: StepRequest) -> Response:
    """Do the last undone edit again."""
    kept = await shop.stored(lambda session: store.redo(session, piece_id, request.base_revision))
    return await state_response(shop, kept)


@router.post("/go-back", response_model=PieceState)
async def go_back(shop: AWorkshop, piece_id: PieceId, request: StepRequest) -> Response:
    """Take a piece that cannot be read back to the last of its states that can be."""
    kept = await shop.stored(lambda session: store.go_back(session, piece_id, request.base_revision))
    return await state_response(shop, kept)


@router.post("/stop", status_code=204)
async def stop_making(shop: AWorkshop, piece_id: PieceId) -> None:
    """Give up what is being made of the piece; its step stays, and is told as one that was stopped."""
    shop.desk.stop(piece_id)


@router.post("/again", response_model=PieceState)
async def make_again(shop: AWorkshop, piece_id: PieceId) -> Response:
    """Try once more to make what could not be made, or was stopped."""
    shop.desk.again(piece_id)
    return await state_response(shop, await shop.load(piece_id))


@router.post("/facts")
async def facts(shop: AWorkshop, piece_id: PieceId, request: FactsRequest) -> list[StepFactsAnswer]:
    """What joining these parts does, or would do: volumes, bodies, and how each tool meets the body."""
    document = await shop.document(piece_id)
    found = await shop.answer(piece_id, "facts", document, request.ids, request.op, request.bodies)
    return [StepFactsAnswer.model_validate(f) for f in found]
