"""Edits of a piece, undo and redo."""

from __future__ import annotations

import time
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from noble_clay.core.adjust.adjust import Floor, standing_on
from noble_clay.core.fields import Coordinate
from noble_clay.core.piece.edits import AddParts, AnyEdit, Bake, SetChanges, SetJoin, Split
from noble_clay.core.piece.models import MeshAsset, Op, Part, PartId, Place
from noble_clay.core.primitives.registry import AnyPrimitive
from noble_clay.store import pieces as store
from noble_clay.store.assets import keep_asset
from noble_clay.web.answers import PieceState, StepFactsAnswer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop, document_of, state_of

router = APIRouter(prefix="/api/pieces/{piece_id}", tags=["edits"])
RequestId = Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")]


class EditRequest(BaseModel):
    """An edit made on revision `base_revision`. A request sent twice under one id is done once."""

    base_revision: int
    request_id: RequestId
    edit: AnyEdit


class PutDownRequest(BaseModel):
    """A new primitive at a spot of the wheel, on a face that is the floor for now, or beside what is there."""

    base_revision: int
    request_id: RequestId
    primitive: AnyPrimitive
    at: tuple[Coordinate, Coordinate] | None = None
    on: Floor | None = None


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
def post_edit(shop: AWorkshop, piece_id: PieceId, request: EditRequest) -> Response:
    """Apply an edit. From the moment of the answer it is kept."""
    if isinstance(request.edit, Split | SetChanges | SetJoin):
        shop.pool.ask(piece_id, "allow", document_of(shop, piece_id), request.edit.model_dump(mode="json"))
    state = applied(shop, piece_id, request.base_revision, request.request_id, request.edit)
    # Written here: it is a valid PieceState already, and need not be checked once more on its way out.
    return Response(state.model_dump_json(), media_type="application/json")


@router.post("/put-down")
def put_down(shop: AWorkshop, piece_id: PieceId, request: PutDownRequest) -> PieceState:
    """Put a new primitive down with its foot on the wheel, never inside another part."""
    bounds = request.primitive.mesh().bounds
    assert bounds is not None
    foot = -float(bounds[0, 2])
    if request.on is not None:
        place = standing_on(request.on, foot)
    elif request.at is not None:
        place = Place(position=(*request.at, foot))
    else:
        x, y = shop.pool.ask(piece_id, "spot_beside", document_of(shop, piece_id), (bounds[1] - bounds[0]).tolist())
        place = Place(position=(x, y, foot))
    part = Part(id=request.primitive.kind, name=type(request.primitive).label, primitive=request.primitive, place=place)
    edit = AddParts(kind="add_parts", parts=(part,))
    return applied(shop, piece_id, request.base_revision, request.request_id, edit)


@router.post("/bake")
def bake(shop: AWorkshop, piece_id: PieceId, request: BakeRequest) -> PieceState:
    """Make a part its own mesh: its parameters are given up, until this is undone."""
    sha256, data = shop.pool.ask(piece_id, "baked", document_of(shop, piece_id), request.id)
    with shop.transaction() as session:
        keep_asset(session, sha256, data)
    edit = Bake(kind="bake", id=request.id, asset=MeshAsset(asset=sha256))
    return applied(shop, piece_id, request.base_revision, request.request_id, edit)


def applied(shop: Workshop, piece_id: str, base: int, request_id: str, edit: AnyEdit) -> PieceState:
    started = time.perf_counter()
    with shop.transaction() as session:
        kept = store.apply_edit(session, piece_id, base, request_id, edit)
    return state_of(shop, kept, started)


@router.post("/undo")
def undo(shop: AWorkshop, piece_id: PieceId, request: StepRequest) -> PieceState:
    """Take the last edit back."""
    with shop.transaction() as session:
        kept = store.undo(session, piece_id, request.base_revision)
    return state_of(shop, kept)


@router.post("/redo")
def redo(shop: AWorkshop, piece_id: PieceId, request: StepRequest) -> PieceState:
    """Do the last undone edit again."""
    with shop.transaction() as session:
        kept = store.redo(session, piece_id, request.base_revision)
    return state_of(shop, kept)


@router.post("/facts")
def facts(shop: AWorkshop, piece_id: PieceId, request: FactsRequest) -> list[StepFactsAnswer]:
    """What joining these parts does, or would do: volumes, bodies, and how each tool meets the body."""
    found = shop.pool.ask(piece_id, "facts", document_of(shop, piece_id), request.ids, request.op, request.bodies)
    return [StepFactsAnswer.model_validate(f) for f in found]
