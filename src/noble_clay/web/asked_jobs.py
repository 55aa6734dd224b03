"""Jobs that a stage asks for about a piece as it is now: asked for once, and their files given out."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.solvers.desk import state_key
from noble_clay.store import jobs
from noble_clay.store.beds import forget_before, newest_of
from noble_clay.store.pieces import load_piece
from noble_clay.store.tables import JobRow
from noble_clay.web.answers import JobAnswer
from noble_clay.web.jobs import job_answer
from noble_clay.web.state import Workshop


def asked_once(session: Session, piece_id: str, kind: str, params: dict[str, Any]) -> tuple[JobAnswer, bool]:
    """A job about a piece as it is now, and whether it is new; what came of the same kind earlier is thrown away."""
    kept = load_piece(session, piece_id)
    params = {**params, "state": state_key(kept.piece.dump())}
    last = newest_of(session, piece_id, kind)
    if last is not None and last.params == params:
        return job_answer(last), False
    forget_before(session, piece_id, kind)
    return job_answer(jobs.create_job(session, kind, kept.piece.name, piece_id, params)), True


def begun(shop: Workshop, answer: JobAnswer, new: bool) -> JobAnswer:
    """The same, put into the queue if it is new."""
    if new:
        shop.put_into_queue(answer.id)
    return answer


def ended_well(session: Session, job_id: str, kind: str) -> JobRow:
    """Raises MeshError for a job that is not done, or of another kind."""
    job = jobs.load_job(session, job_id)
    if job.kind != kind or job.state != "done":
        raise MeshError("there is nothing to show of this job: it is not done, or of another kind")
    return job


def file_of(session: Session, job_id: str, kind: str, name: str) -> tuple[JobRow, bytes]:
    """A job that ended well, and what it keeps under that name. Raises MeshError as `ended_well` does."""
    return ended_well(session, job_id, kind), b"".join(jobs.job_file(session, job_id, name))
