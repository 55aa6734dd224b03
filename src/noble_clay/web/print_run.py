"""A simulated printer over a socket: it goes through a rehearsed print as a real one would, but quicker."""

from __future__ import annotations

import asyncio
import json
import time
from contextlib import suppress

from fastapi import APIRouter, WebSocket
from sqlalchemy.orm import Session
from starlette.websockets import WebSocketDisconnect

from noble_clay.core.errors import ClayError
from noble_clay.core.printing.run import Run
from noble_clay.jobs.kinds.print_check import DETAILS
from noble_clay.web.asked_jobs import file_of
from noble_clay.web.jobs import JobId
from noble_clay.web.state import Workshop

router = APIRouter(tags=["printing"])
TICK_SECONDS = 0.1
WHOLE_SECONDS = 40.0
"""A print is over after so long; none goes slower than a real one."""


@router.websocket("/api/jobs/{job_id}/print/run")
async def print_run(socket: WebSocket, job_id: JobId) -> None:
    """Tells ten times a second where the print is (`Run.values`). It is told `pause`, `resume` or `stop` as text."""
    await socket.accept()
    shop: Workshop = socket.app.state.workshop

    def layers(session: Session) -> list[float]:
        _, data = file_of(session, job_id, "print", DETAILS)
        found: list[float] = json.loads(data)["layer_seconds"]
        return found

    with suppress(WebSocketDisconnect, RuntimeError):
        try:
            each = await shop.stored(layers)
        except ClayError as error:
            await socket.send_json({"state": "failed", "message": str(error)})
            await socket.close()
            return
        await _go(socket, Run(each, max(1.0, sum(each) / WHOLE_SECONDS)))
        await socket.close()


async def _go(socket: WebSocket, run: Run) -> None:
    """Until it is over, or the page has gone away."""
    hearing = asyncio.create_task(_hear(socket, run))
    last = time.monotonic()
    try:
        while not hearing.done():
            now = time.monotonic()
            run.go_on(now - last)
            last = now
            await socket.send_json(run.values())
            if run.over:
                return
            await asyncio.wait({hearing}, timeout=TICK_SECONDS)
    finally:
        hearing.cancel()


async def _hear(socket: WebSocket, run: Run) -> None:
    """Do what the page says; what is none of the words is not heard."""
    words = {"pause": run.pause, "resume": run.resume, "stop": run.stop}
    with suppress(WebSocketDisconnect, RuntimeError):
        while True:
            words.get(await socket.receive_text(), lambda: None)()
