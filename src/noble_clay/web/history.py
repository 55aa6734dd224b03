"""The history of a piece: its steps and the ways that part from them, going to any, naming, comparing, copying."""

from __future__ import annotations

import asyncio
from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Path, Query, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import PieceError
from noble_clay.core.piece.compare import differences
from noble_clay.core.piece.models import Name
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.desk import weight_of
from noble_clay.store import history as store
from noble_clay.store.history import History, Way
from noble_clay.store.pieces import StoredPiece, row_of
from noble_clay.web.answers import PieceState, ResultView
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop, Workshop, state_response

router = APIRouter(prefix="/api/pieces/{piece_id}/history", tags=["history"])

StepId = Annotated[int, Field(ge=0, le=2**31 - 1)]
StepInPath = Annotated[int, Path(ge=0, le=2**31 - 1)]
MOST_LISTED = 200

NOT_TO_BE_DRAWN = b""
"""Kept as the picture of what cannot be made, so that it is not tried again."""


class StepAnswer(BaseModel):
    """A step: how many lead to it, what it did in words, when, and what the maker calls what it left."""

    id: int
    number: int
    words: str
    at: datetime
    version: str | None


class WayAnswer(BaseModel):
    """Another way on from the step `after` (0: the beginning): its newest end, and how many steps lead there."""

    after: int
    end: StepAnswer
    steps: int


class HistoryAnswer(BaseModel):
    """Some steps of the line that undo and redo go along, the last first, and the other ways on from them.

    here: the step that the piece stands at (0: the beginning), its number `position`; length: of the line. versions:
    all named steps, on whatever way, the newest first.
    """

    revision: int
    here: int
    position: int
    length: int
    steps: list[StepAnswer]
    ways: list[WayAnswer]
    versions: list[StepAnswer]


class GoRequest(BaseModel):
    base_revision: int
    step: StepId


class VersionRequest(BaseModel):
    """None takes the name away."""

    name: Name | None


class CopyRequest(BaseModel):
    name: Name


class DifferenceAnswer(BaseModel):
    """Of a part, or the piece where `part` is None. present: the later state has it."""

    part: str | None
    name: str
    present: bool
    words: list[str]


class CompareStepsAnswer(BaseModel):
    """What the later of two states has that the earlier had not, and the skin of the earlier; with that of the later,
    where it is a step as well.
    """

    differences: list[DifferenceAnswer]
    skin: ResultView | None
    later: ResultView | None


@router.get("")
def get_history(
    shop: AWorkshop,
    piece_id: PieceId,
    below: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None,
    count: Annotated[int, Query(ge=1, le=MOST_LISTED)] = 60,
) -> HistoryAnswer:
    """The last steps of the line, or those of smaller numbers than `below`."""
    with shop.transaction() as session:
        kept = row_of(session, piece_id)
        return _answer(kept.revision, History(session, kept), below, count)


def _answer(revision: int, known: History, below: int | None, count: int) -> HistoryAnswer:
    line = known.line if below is None else known.line[: max(0, below - 1)]
    steps = line[-count:][::-1]
    # With the first steps comes what parts before them.
    forks = [s.id for s in steps] + ([store.BEGINNING] if len(line) <= count else [])
    named = [s for s in reversed(known.steps.values()) if s.version is not None]
    return HistoryAnswer(
        revision=revision,
        here=known.here,
        position=known.position,
        length=len(known.line),
        steps=[_step(s) for s in steps],
        ways=[_way(fork, way) for fork in forks for way in known.other_ways(fork)],
        versions=[_step(s) for s in named],
    )


def _step(step: store.Step) -> StepAnswer:
    return StepAnswer(id=step.id, number=step.number, words=step.words, at=step.at, version=step.version)


def _way(after: int, way: Way) -> WayAnswer:
    return WayAnswer(after=after, end=_step(way.end), steps=way.steps)


@router.post("/go", response_model=PieceState)
async def go_to_step(shop: AWorkshop, piece_id: PieceId, request: GoRequest) -> Response:
    """Bring the piece to where a step left it (0: to its beginning), on whatever way that lies."""
    kept = await shop.stored(lambda session: store.go_to(session, piece_id, request.base_revision, request.step))
    return await state_response(shop, kept)


@router.put("/{step}/version", status_code=204)
def name_step(shop: AWorkshop, piece_id: PieceId, step: StepInPath, request: VersionRequest) -> None:
    """Call what a step left by a name."""
    with shop.transaction() as session:
        store.name_version(session, piece_id, step, request.name)


@router.post("/{step}/copy", status_code=201, response_model=PieceState)
async def copy_step(shop: AWorkshop, piece_id: PieceId, step: StepInPath, request: CopyRequest) -> Response:
    """Begin a new piece from what a step left."""

    def copied(session: Session) -> StoredPiece:
        return store.copy_of(session, piece_id, step, request.name)

    return await state_response(shop, await shop.stored(copied), status=201)


@router.get("/{step}/compare")
async def compare_step(
    shop: AWorkshop, piece_id: PieceId, step: StepInPath, later: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None
) -> CompareStepsAnswer:
    """What the piece as it is now, or as the step `later` left it, has that it had not at a step. Where what it was
    cannot be made, there is no skin.
    """
    document = await shop.stored(lambda session: store.document_at(session, piece_id, step))
    if later is None:
        now, skin = (await shop.load(piece_id)).piece, None
    else:
        to = await shop.stored(lambda session: store.document_at(session, piece_id, later))
        now, skin = await run_in_threadpool(piece_from_values, to), await _skin(shop, piece_id, later, to)
    found = await run_in_threadpool(lambda: differences(piece_from_values(document), now))
    return CompareStepsAnswer(
        differences=[DifferenceAnswer.model_validate(d, from_attributes=True) for d in found],
        skin=await _skin(shop, piece_id, step, document),
        later=skin,
    )


async def _skin(shop: Workshop, piece_id: str, step: int, document: dict[str, Any]) -> ResultView | None:
    """None where it cannot be made."""
    try:
        return ResultView.model_validate(await _aside(shop, piece_id, step, "skin", document))
    except PieceError:
        return None


@router.get("/{step}/picture", response_class=Response)
async def get_step_picture(shop: AWorkshop, piece_id: PieceId, step: StepInPath) -> Response:
    """What a step left, as a small PNG, drawn when it is first asked for; 404 where it cannot be made."""
    picture = await shop.stored(lambda session: store.picture_of(session, piece_id, step))
    if picture is None:
        document = await shop.stored(lambda session: store.document_at(session, piece_id, step))
        try:
            drawn = await _aside(shop, piece_id, step, "pictured", document)
        except PieceError:
            drawn = NOT_TO_BE_DRAWN
        await shop.stored(lambda session: store.keep_picture(session, step, drawn))
        picture = drawn
    if picture == NOT_TO_BE_DRAWN:
        return Response(status_code=404)
    return Response(picture, media_type="image/png", headers={"cache-control": "private, max-age=31536000, immutable"})


async def _aside(shop: Workshop, piece_id: str, step: int, method: str, document: dict[str, Any]) -> Any:
    """What a solver makes of a step's document that nobody's edit waits for."""
    return await asyncio.wrap_future(
        shop.counting.want(f"{piece_id}/{step}", method, step, weight_of(document), document)
    )
