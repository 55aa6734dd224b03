"""A task in a process of its own, with limits on memory and time, that can be stopped at any moment."""

from __future__ import annotations

import logging
import multiprocessing
import resource
import signal
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from noble_clay.core.errors import NO_ROOM, ClayError, MeshError, is_no_room
from noble_clay.core.heavy import HEAVY
from noble_clay.core.words import STEPS
from noble_clay.jobs.registry import JOBS
from noble_clay.machine import TASKS_SHARE, end_with_parent, load_beforehand, share_bytes

LOG = logging.getLogger(__name__)
AT_ONCE = 2 if share_bytes(TASKS_SHARE) >= 6_000_000_000 else 1
"""Jobs that a worker does side by side: where each may have enough memory for a mesh of a million triangles."""

MEMORY_BYTES = min(8_000_000_000, share_bytes(TASKS_SHARE) // AT_ONCE)
SECONDS = 900
PULSE = 0.4
"""Seconds between two words with whoever waits."""


Pulse = Callable[[float, str], bool]
"""Told how far the work is and which step is on; whether to go on."""


class Stopped(Exception):
    """Whoever waited does not any more."""


def get_ready() -> None:
    """Load what tasks need once, in a process from which each task's is forked: a job then begins within a moment."""
    load_beforehand("noble_clay.jobs.registry", *HEAVY)


def in_limits(kind: str, folder: Path, params: dict[str, Any], pulse: Pulse) -> dict[str, Any]:
    """What the task of that kind returns. Raises MeshError for a refusal, also for too much time or memory, and Stopped
    once `pulse` answers no.
    """
    context = multiprocessing.get_context("forkserver")
    ours, theirs = context.Pipe()
    process = context.Process(target=_run, args=(theirs, kind, str(folder), params), daemon=True)
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
        process.join()
        how, what = _how_it_ended(process.exitcode), STEPS.get(step, step)
        raise MeshError(f"the process that worked on this {how} at: {what}; it was given up") from None
    finally:
        process.kill()
        process.join()
        ours.close()


def _how_it_ended(code: int | None) -> str:
    if code is not None and code < 0:
        name = signal.Signals(-code).name if -code in set(signal.Signals) else str(-code)
        return f"was ended by the system ({name})"
    return f"ended by itself (status {code})"


def _run(pipe: Connection, kind: str, folder: str, params: dict[str, Any]) -> None:
    end_with_parent()  # nobody would take what came of it
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    try:
        pipe.send(("done", JOBS[kind].task(Path(folder), params, lambda share, step: pipe.send(("told", share, step)))))
    except BrokenPipeError:
        return  # nobody waits any more
    except ClayError as error:
        pipe.send(("refused", str(error)))
    except MemoryError:
        words = f"this takes more memory than is allowed ({MEMORY_BYTES / 1e9:.1f} GB), and was given up"
        pipe.send(("refused", words))
    except Exception as error:
        LOG.exception("a task of the kind %s failed", kind)
        fault = f"this went wrong by a fault of Noble Clay's own, which has been written down ({type(error).__name__})"
        pipe.send(("refused", NO_ROOM if is_no_room(error) else fault))
