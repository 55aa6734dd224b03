"""A task in a process of its own, with limits on memory and time, that can be stopped at any moment."""

from __future__ import annotations

import ctypes
import multiprocessing
import resource
import signal
import sys
import time
from collections.abc import Callable
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from noble_clay.core.errors import ClayError, MeshError
from noble_clay.jobs.tasks import TASKS

MEMORY_BYTES = 8_000_000_000
SECONDS = 900
PULSE = 0.4
"""Seconds between two words with whoever waits."""

PR_SET_PDEATHSIG = 1
"""Of Linux's `prctl`: which signal a process gets when the one that started it dies."""

Pulse = Callable[[float, str], bool]
"""Told how far the work is and which step is on; whether to go on."""


class Stopped(Exception):
    """Whoever waited does not any more."""


def get_ready() -> None:
    """Load what tasks need once, in a process from which each task's is forked: a job then begins within a moment."""
    # Locks that libraries made and that are there when all is ended are no news to whoever started us.
    sys.warnoptions.append("ignore:resource_tracker:UserWarning")
    multiprocessing.set_forkserver_preload(["noble_clay.jobs.tasks"])
    forkserver.ensure_running()


def in_limits(kind: str, folder: Path, asked: dict[str, Any], pulse: Pulse) -> dict[str, Any]:
    """What the task of that kind returns. Raises MeshError for a refusal, also for too much time or memory, and Stopped
    once `pulse` answers no.
    """
    context = multiprocessing.get_context("forkserver")
    ours, theirs = context.Pipe()
    process = context.Process(target=_run, args=(theirs, kind, str(folder), asked), daemon=True)
    process.start()
    theirs.close()
    progress, step, until, last = 0.0, "waking up", time.monotonic() + SECONDS, 0.0
    try:
        while True:
            if time.monotonic() - last >= PULSE:
                last = time.monotonic()
                if not pulse(progress, step):
                    raise Stopped
            if time.monotonic() > until:
                raise MeshError(f"this takes longer than {SECONDS // 60} minutes, and was given up")
            if not ours.poll(PULSE):
                continue
            word, *rest = ours.recv()
            if word == "told":
                progress, step = rest
            elif word == "refused":
                raise MeshError(rest[0])
            else:
                found: dict[str, Any] = rest[0]
                return found
    except (EOFError, OSError):
        raise MeshError("this takes more memory than is allowed, and was given up") from None
    finally:
        process.kill()
        process.join()
        ours.close()


def _run(pipe: Connection, kind: str, folder: str, asked: dict[str, Any]) -> None:
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)  # nobody would take what came of it
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    try:
        pipe.send(("done", TASKS[kind](Path(folder), asked, lambda share, step: pipe.send(("told", share, step)))))
    except BrokenPipeError:
        return  # nobody waits any more
    except ClayError as error:
        pipe.send(("refused", str(error)))
    except MemoryError:
        pipe.send(("refused", "this takes more memory than is allowed, and was given up"))
