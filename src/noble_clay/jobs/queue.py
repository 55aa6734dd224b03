"""The queue, `procrastinate` on our own PostgreSQL: a job's id goes in, a worker takes it out."""

from __future__ import annotations

from contextlib import suppress

from procrastinate import App, PsycopgConnector, SyncPsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued

from noble_clay.store.database import plain_url

QUEUE, TASK = "work", "noble_clay.work"


def asking_app() -> App:
    """For those who only put jobs into the queue; to be opened, and kept open."""
    app = App(connector=SyncPsycopgConnector(conninfo=plain_url()))
    app.open()
    return app


def working_app() -> App:
    """For a worker, which runs it."""
    return App(connector=PsycopgConnector(conninfo=plain_url()))


def put(app: App, job_id: str) -> None:
    """Put a job into the queue; once is enough while it waits there."""
    with suppress(AlreadyEnqueued):
        app.configure_task(TASK, queue=QUEUE, queueing_lock=job_id).defer(job_id=job_id)
