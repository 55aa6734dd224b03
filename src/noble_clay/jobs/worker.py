"""A worker: takes jobs out of the queue, a few side by side, and puts those back that another worker died over."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import socket
import time
from functools import partial

import psycopg
from procrastinate import App
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import SQLAlchemyError

from noble_clay.jobs import queue
from noble_clay.jobs.folders import clear_abandoned
from noble_clay.jobs.limited import AT_ONCE, get_ready
from noble_clay.jobs.work import do_job
from noble_clay.store.database import Sessions, open_database, sessions
from noble_clay.store.jobs import free_stalled
from noble_clay.store.upkeep import tidy_up

LOG = logging.getLogger(__name__)
SWEEP_SECONDS = 2.0
TIDY_SECONDS = 3600.0


def run_worker() -> int:
    """Work until stopped. A database that is away is waited for."""
    with contextlib.suppress(KeyboardInterrupt, asyncio.CancelledError):
        asyncio.run(_work())
    return 0


async def _work() -> None:
    clear_abandoned()
    get_ready()
    maker = sessions(open_database())
    sweeping = asyncio.create_task(_sweep(maker))
    try:
        while True:
            app = queue.working_app()

            @app.task(name=queue.TASK, queue=queue.QUEUE)
            async def work(job_id: str) -> None:
                try:
                    await asyncio.to_thread(do_job, maker, job_id)
                except Exception:  # the row says what has become of it; another worker takes one that was left
                    LOG.exception("job %s was left", job_id)

            try:
                async with app.open_async():
                    name = f"{socket.gethostname()}-{os.getpid()}"
                    await app.run_worker_async(
                        queues=[queue.QUEUE],
                        name=name,
                        concurrency=AT_ONCE,
                        fetch_job_polling_interval=2.0,
                        delete_jobs="always",
                    )
                return  # asked to stop
            except (ConnectorException, psycopg.Error):
                await asyncio.sleep(1)
    finally:
        sweeping.cancel()


async def _sweep(maker: Sessions) -> None:
    app: App | None = None
    tidied = 0.0
    while True:
        await asyncio.sleep(SWEEP_SECONDS)
        try:
            if time.monotonic() - tidied > TIDY_SECONDS:
                await asyncio.to_thread(_tidied, maker)
                tidied = time.monotonic()
            if app is None:
                app = await asyncio.to_thread(queue.asking_app)
            put = partial(queue.put, app)
            for job_id in await asyncio.to_thread(_freed, maker):
                await asyncio.to_thread(put, job_id)
        except (ConnectorException, psycopg.Error, SQLAlchemyError):
            app = None
        except Exception:
            LOG.exception("looking for jobs that were left failed")


def _tidied(maker: Sessions) -> None:
    with maker.begin() as session:
        tidy_up(session)


def _freed(maker: Sessions) -> list[str]:
    with maker.begin() as session:
        return free_stalled(session)
