"""Jobs: asked for, taken by one worker at a time, ended once. Every change is told on the channel `CHANNEL`."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from noble_clay.core.errors import ClayError
from noble_clay.store.tables import FindingsRow, JobFileRow, JobRow

CHANNEL = "noble_clay_jobs"
STALLED = timedelta(seconds=8)
"""A running job whose worker has said nothing for so long is taken by another."""

ENDED = ("done", "failed", "cancelled")


class NoSuchJob(ClayError):
    """There is no job of that id."""


def create_job(session: Session, kind: str, name: str, piece_id: str | None, params: dict[str, Any]) -> JobRow:
    row = JobRow(id=secrets.token_hex(8), kind=kind, name=name, piece_id=piece_id, params=params)
    session.add(row)
    session.flush()
    session.refresh(row)
    _tell(session, row.id)
    return row


def load_job(session: Session, job_id: str, lock: bool = False) -> JobRow:
    """Raises NoSuchJob."""
    row = session.get(JobRow, job_id, with_for_update=lock)
    if row is None:
        raise NoSuchJob("this job is not here any more")
    return row


def list_jobs(session: Session, piece_id: str | None = None, most: int = 100) -> list[JobRow]:
    """The newest first."""
    wanted = select(JobRow).order_by(JobRow.created_at.desc(), JobRow.id).limit(most)
    return list(session.scalars(wanted.where(JobRow.piece_id == piece_id) if piece_id else wanted))


def claim_job(session: Session, job_id: str) -> JobRow | None:
    """Take a job that waits; None when it is taken, ended, cancelled or gone."""
    row = session.get(JobRow, job_id, with_for_update=True)
    if row is None or row.state != "waiting":
        return None
    now = datetime.now(UTC)
    if row.cancel:
        _end(session, row, "cancelled")
        return None
    row.state, row.attempt = "running", row.attempt + 1
    row.started_at, row.beat_at, row.progress, row.step = row.started_at or now, now, 0.0, ""
    session.flush()
    _tell(session, job_id)
    return row


def beat(session: Session, job_id: str, attempt: int, progress: float, step: str) -> bool:
    """Say that the work goes on, and how far it is; whether it is to go on: not cancelled, nor taken by another."""
    mine = JobRow.id == job_id, JobRow.attempt == attempt, JobRow.state == "running"
    put = update(JobRow).where(*mine).values(beat_at=datetime.now(UTC), progress=progress, step=step)
    cancelled = session.scalar(put.returning(JobRow.cancel))
    _tell(session, job_id)
    return cancelled is False


def mine_to_end(session: Session, job_id: str, attempt: int) -> JobRow | None:
    """The job, locked, when this attempt may end it; None when another took it, or it has ended."""
    row = session.get(JobRow, job_id, with_for_update=True)
    return row if row is not None and row.state == "running" and row.attempt == attempt else None


def end_job(
    session: Session, row: JobRow, state: str, result: dict[str, Any] | None = None, error: str | None = None
) -> None:
    """End a locked job: done, failed or cancelled. What was sent for it is not needed any more."""
    row.result, row.error = result, error
    _end(session, row, state)


def _end(session: Session, row: JobRow, state: str) -> None:
    row.state, row.ended_at = state, datetime.now(UTC)
    row.progress = 1.0 if state == "done" else row.progress
    session.execute(delete(JobFileRow).where(JobFileRow.job_id == row.id, JobFileRow.name == "input"))
    session.flush()
    _tell(session, row.id)


def cancel_job(session: Session, job_id: str) -> JobRow:
    """Ask a job to stop; one that waits ends at once, one that has ended stays so. Raises NoSuchJob."""
    row = load_job(session, job_id, lock=True)
    if row.state not in ENDED:
        row.cancel = True
        if row.state == "waiting":
            _end(session, row, "cancelled")
        session.flush()
        _tell(session, job_id)
    return row


def settle_job(session: Session, job_id: str) -> None:
    """A mesh that was read is in its piece now, or is not wanted. Raises NoSuchJob."""
    load_job(session, job_id, lock=True).settled = True
    _tell(session, job_id)


def free_stalled(session: Session) -> list[str]:
    """Jobs whose worker has died wait again; and those that wait and may have been missed. Their ids.

    A beat that is still to come is of before the clock was put back: a worker that lives beats again at once.
    """
    now = datetime.now(UTC)
    silent = (JobRow.beat_at < now - STALLED) | (JobRow.beat_at > now + STALLED)
    stalled = JobRow.state == "running", silent
    freed = list(session.scalars(update(JobRow).where(*stalled).values(state="waiting").returning(JobRow.id)))
    missed = JobRow.state == "waiting", JobRow.created_at < now - STALLED
    for job_id in freed:
        _tell(session, job_id)
    return freed + list(session.scalars(select(JobRow.id).where(*missed, JobRow.id.not_in(freed))))


def add_block(session: Session, job_id: str, name: str, block: int, data: bytes) -> None:
    """Keep a part of a job's file."""
    session.execute(insert(JobFileRow).values(job_id=job_id, name=name, block=block, data=data))


def job_file(session: Session, job_id: str, name: str) -> Iterator[bytes]:
    """A job's file, block by block."""
    here = JobFileRow.job_id == job_id, JobFileRow.name == name
    for block in session.scalars(select(JobFileRow.block).where(*here).order_by(JobFileRow.block)).all():
        data = session.scalar(select(JobFileRow.data).where(*here, JobFileRow.block == block))
        if data is not None:
            yield data


def keep_findings(session: Session, sha256: str, values: dict[str, Any]) -> None:
    put = insert(FindingsRow).values(sha256=sha256, values=values)
    session.execute(put.on_conflict_do_update(index_elements=["sha256"], set_={"values": values}))


def findings_of(session: Session, sha256: str) -> dict[str, Any] | None:
    return session.scalar(select(FindingsRow.values).where(FindingsRow.sha256 == sha256))


def _tell(session: Session, job_id: str) -> None:
    session.execute(select(func.pg_notify(CHANNEL, job_id)))
