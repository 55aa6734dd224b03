"""Showing a piece to others: a moving picture of it."""

from __future__ import annotations

from fastapi import APIRouter, Response

from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.sheet.turntable import Moving, Turning
from noble_clay.jobs.kinds.turntable import TURNTABLE
from noble_clay.web.answers import JobAnswer
from noble_clay.web.asked_jobs import asked_once, begun, file_of
from noble_clay.web.jobs import JobId
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import AWorkshop

router = APIRouter(tags=["showing"])


@router.post("/api/pieces/{piece_id}/turntable", status_code=202)
def post_turntable(shop: AWorkshop, piece_id: PieceId, asked: Turning) -> JobAnswer:
    """Have the piece drawn from all sides. Asked again for the same, it is the same job."""
    with shop.transaction() as session:
        answer, new = asked_once(session, piece_id, "turntable", asked.model_dump(mode="json"))
    return begun(shop, answer, new)


@router.get("/api/jobs/{job_id}/turntable.{kind}", response_class=Response)
def get_turntable(shop: AWorkshop, job_id: JobId, kind: Moving) -> Response:
    """The moving picture, to be seen at once or taken away."""
    with shop.transaction() as session:
        job, data = file_of(session, job_id, "turntable", f"{TURNTABLE}.{kind}")
    headers = {"content-disposition": f'inline; filename="{plain_name(job.name)}-turntable.{kind}"'}
    return Response(data, media_type=f"image/{kind}", headers=headers)
