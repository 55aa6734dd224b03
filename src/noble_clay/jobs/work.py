"""One job from beginning to end: what it needs out of the database, the task, what came of it back, in one transaction.

The database may go away in between: the task goes on, and what came of it is kept once it is back.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from noble_clay.core.errors import NO_ROOM, ClayError, is_no_room
from noble_clay.core.fields import storable
from noble_clay.jobs.folders import work_folder
from noble_clay.jobs.limited import Stopped, in_limits
from noble_clay.jobs.registry import JOBS
from noble_clay.store import jobs as store
from noble_clay.store.database import Sessions, is_away
from noble_clay.store.tables import JobRow

LOG = logging.getLogger(__name__)

End = Callable[[Session, JobRow], None]
"""Ends a job that is locked in a transaction."""

PATIENCE = 120.0
"""Seconds that a finished job waits for the database."""


def do_job(sessions: Sessions, job_id: str) -> None:
    """Do a job, if it is there to be done. Whatever happens in the task ends the job, in words."""
    with sessions.begin() as session:
        job = store.claim_job(session, job_id)
    if job is None:
        return
    with work_folder() as folder:
        try:
            result = _done(sessions, job, folder)
            end: End = partial(_keep, folder=folder, result=result)
        except Stopped:
            end = partial(store.end_job, state="cancelled")
        except ClayError as error:
            end = _failed(str(error))
        except Exception as error:
            if is_away(error):
                raise  # another worker takes it, once this one has been silent for long enough
            LOG.exception("job %s failed", job.id)
            fault = f"this went wrong by a fault of Noble Clay's own ({type(error).__name__})"
            end = _failed(NO_ROOM if is_no_room(error) else fault)
        _ended(sessions, job, end)


def _failed(why: str) -> End:
    return partial(store.end_job, state="failed", error=storable(why))


def _done(sessions: Sessions, job: JobRow, folder: Path) -> dict[str, Any]:
    """What the runs of a job's task return, by what each is about; of the only one where it has no name."""
    runs = JOBS[job.kind].inputs(sessions, job, folder)
    found = {}
    for number, run in enumerate(runs):

        def pulse(progress: float, step: str, before: int = number) -> bool:
            try:
                with sessions.begin() as session:
                    return store.beat(session, job.id, job.attempt, (before + progress) / len(runs), step)
            except SQLAlchemyError:
                return True  # the database is away; what is done is not lost

        found[run.name] = in_limits(job.kind, run.folder, run.params, pulse)
    return found.get("", found)


def _keep(session: Session, row: JobRow, folder: Path, result: dict[str, Any]) -> None:
    """What came of a job, and its end: all or nothing."""
    if row.cancel:
        store.end_job(session, row, "cancelled")
        return
    JOBS[row.kind].keep(session, row, folder, result)
    store.end_job(session, row, "done", result=result)


def _ended(sessions: Sessions, job: JobRow, end: End) -> None:
    """End the job, waiting for a database that is away; not when another worker has taken it meanwhile."""
    until = time.monotonic() + PATIENCE
    while True:
        try:
            with sessions.begin() as session:
                row = store.mine_to_end(session, job.id, job.attempt)
                if row is not None:
                    end(session, row)
            return
        except ClayError as error:
            end = _failed(str(error))
        except Exception as error:
            if not is_away(error):
                LOG.exception("what came of job %s could not be kept", job.id)
                end = _failed(f"what came of this cannot be kept: {str(error).splitlines()[0][:200]}")
            elif time.monotonic() > until:
                raise
            else:
                time.sleep(1)
