"""Long work about a whole piece, of any kind that may be asked for so."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import BaseModel, Field, TypeAdapter

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.read import validated
from noble_clay.jobs.registry import JOBS
from noble_clay.store import jobs
from noble_clay.store.pieces import load_piece
from noble_clay.web.answers import JobAnswer
from noble_clay.web.jobs import job_answer
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop

router = APIRouter(prefix="/api/pieces/{piece_id}/jobs", tags=["jobs"])


class PieceJobRequest(BaseModel):
    """kind: of the job; params: what is said with it, by the fields of that kind."""

    kind: Annotated[str, Field(max_length=60)]
    params: dict[str, Any] = {}


@router.post("", status_code=202)
def post_piece_job(shop: AWorkshop, piece_id: PieceId, request: PieceJobRequest) -> JobAnswer:
    """Begin long work about the piece as it is when a worker takes it."""
    kind = JOBS.get(request.kind)
    if kind is None or not kind.of_piece:
        raise PieceError(Problem("there is no such work on a piece", field="kind", value=request.kind))
    params = validated(TypeAdapter(kind.params).validate_python, request.params)
    with shop.transaction() as session:
        name = load_piece(session, piece_id).piece.name
        answer = job_answer(jobs.create_job(session, kind.kind, name, piece_id, params.model_dump(mode="json")))
    shop.put_into_queue(answer.id)
    return answer
