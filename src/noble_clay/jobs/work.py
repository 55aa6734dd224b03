"""One job from beginning to end: what it needs out of the database, the task, what came of it back, in one transaction.

The database may go away in between: the task goes on, and what came of it is kept once it is back.
"""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from noble_clay.core.errors import ClayError, MeshError
from noble_clay.core.fields import storable
from noble_clay.core.piece.edits.mended import Mended
from noble_clay.core.piece.models import MeshAsset
from noble_clay.jobs import tasks
from noble_clay.jobs.folders import work_folder
from noble_clay.jobs.limited import Stopped, in_limits
from noble_clay.store import jobs as store
from noble_clay.store.assets import asset_data, keep_asset
from noble_clay.store.database import Sessions, is_away
from noble_clay.store.pieces import apply_edit, load_piece
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
            end = _failed(f"this went wrong by a fault of Noble Clay's own ({type(error).__name__})")
        _ended(sessions, job, end)


def _failed(why: str) -> End:
    return partial(store.end_job, state="failed", error=storable(why))


def _done(sessions: Sessions, job: JobRow, folder: Path) -> dict[str, Any]:
    """What the job's tasks return: one for each mesh that it is about."""

    def pulse(progress: float, step: str, share: float = 1.0, before: float = 0.0) -> bool:
        try:
            with sessions.begin() as session:
                return store.beat(session, job.id, job.attempt, before + share * progress, step)
        except SQLAlchemyError:
            return True  # the database is away; what is done is not lost

    if job.kind == "bring_in":
        with sessions.begin() as session, (folder / tasks.INPUT).open("wb") as file:
            for block in store.job_file(session, job.id, "input"):
                file.write(block)
        return in_limits(job.kind, folder, job.asked, pulse)
    found = {}
    meshes = job.asked["meshes"]
    for number, (name, asked) in enumerate(meshes.items()):
        own = folder / str(number)
        own.mkdir()
        with sessions.begin() as session:
            data = asset_data(session, asked["sha256"])
        if data is None:
            raise MeshError("the mesh is not here any more; bring it in again")
        (own / tasks.INPUT).write_bytes(data)
        share = 1 / len(meshes)
        found[name] = in_limits(
            job.kind, own, asked, lambda p, s, share=share, number=number: pulse(p, s, share, share * number)
        )
    return found


def _keep(session: Session, row: JobRow, folder: Path, result: dict[str, Any]) -> None:
    """What came of a job, and its end: all or nothing."""
    if row.cancel:
        store.end_job(session, row, "cancelled")
        return
    if row.kind == "bring_in":
        _keep_mesh(session, folder, result["sha256"])
    elif row.kind == "look_over":
        for number, asked in enumerate(row.asked["meshes"].values()):
            _keep_findings(session, folder / str(number), asked["sha256"])
    elif row.kind == "mend":
        for number, found in enumerate(result.values()):
            _keep_mesh(session, folder / str(number), found["sha256"])
            store.add_block(session, row.id, f"moved-{number}", 0, (folder / str(number) / tasks.MOVED).read_bytes())
        _put_into_piece(session, row, result)
    store.end_job(session, row, "done", result=result)


def _put_into_piece(session: Session, row: JobRow, result: dict[str, Any]) -> None:
    """One step of the piece's history. Raises PieceError where its parts have other meshes by now."""
    assert row.piece_id is not None
    meshes = {
        part: (MeshAsset(asset=asked["sha256"]), MeshAsset(asset=result[part]["sha256"]))
        for part, asked in row.asked["meshes"].items()
        if asked["sha256"] != result[part]["sha256"]
    }
    if meshes:
        now = load_piece(session, row.piece_id)
        apply_edit(session, row.piece_id, now.revision, f"job-{row.id}", Mended(kind="mended", meshes=meshes))


def _keep_mesh(session: Session, folder: Path, sha256: str) -> None:
    keep_asset(session, sha256, (folder / tasks.MESH).read_bytes())
    _keep_findings(session, folder, sha256)


def _keep_findings(session: Session, folder: Path, sha256: str) -> None:
    store.keep_findings(session, sha256, json.loads((folder / tasks.FINDINGS).read_text()))


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
