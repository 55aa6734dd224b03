"""Who runs in this checkout: a file for each ./start, so that the last one out ends the database, and a new one clears
away what a killed one has left.
"""

from __future__ import annotations

import fcntl
import json
import os
import signal
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from tools.machine import DATA

FOLDER = DATA / "running"


@contextmanager
def alone() -> Iterator[None]:
    """One at a time: what is done about the database and these files."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with (FOLDER / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def enter(port: int, children: list[int]) -> None:
    """Say that this process runs, with which processes."""
    _path(os.getpid()).write_text(json.dumps({"port": port, "children": children}))


def leave() -> None:
    _path(os.getpid()).unlink(missing_ok=True)


def others() -> list[int]:
    """The processes of those that run here too."""
    return [pid for pid in _entered() if pid != os.getpid() and _is(pid, "tools.start")]


def clear_left() -> list[int]:
    """End what processes that were killed have left; the ports that these had."""
    ports = []
    for pid, values in _entered().items():
        if pid == os.getpid() or _is(pid, "tools.start"):
            continue
        ports.append(int(values.get("port", 0)))
        for child in values.get("children", []):
            if _is(child, "noble_clay.cli"):
                with suppress(ProcessLookupError, PermissionError):
                    os.kill(child, signal.SIGKILL)
        _path(pid).unlink(missing_ok=True)
    return ports


def _path(pid: int) -> Path:
    return FOLDER / f"{pid}.json"


def _entered() -> dict[int, dict[str, object]]:
    found = {}
    for path in FOLDER.glob("*.json"):
        try:
            found[int(path.stem)] = json.loads(path.read_text())
        except ValueError:  # half written by one that was killed over it
            found[int(path.stem)] = {}
    return found


def _is(pid: int, what: str) -> bool:
    """Whether a process is there, and is such a one of ours."""
    try:
        return what in Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
    except OSError:
        return False
