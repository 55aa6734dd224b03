"""This machine: what it has of memory, and the shares of it that may be used, so that all processes together stay
within three quarters of it, whatever their number; processes that end with their parent, and such as are forked from
one that has loaded what all need.
"""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import signal
import sys
from contextlib import suppress
from multiprocessing import forkserver
from pathlib import Path

PIECES_SHARE = 0.45
"""Of the machine's memory: all solvers together."""

TASKS_SHARE = 0.3
"""All tasks of a worker together."""

LEAST = 1_500_000_000
"""Bytes that either may have on the smallest machine."""

PAGE = os.sysconf("SC_PAGE_SIZE")


PR_SET_PDEATHSIG = 1
"""Of Linux's `prctl`: which signal a process gets when the one that started it dies."""


def end_with_parent(how: int = signal.SIGKILL) -> None:
    """This process is to end, by a signal, when the one that started it does."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, how)


def load_beforehand(*modules: str) -> None:
    """Begin the process that loads these modules, and from which all that are asked of the "forkserver" are forked:
    each of them then has them from its first moment.
    """
    # Locks that libraries made and that are there when all is ended are no news to whoever started us.
    sys.warnoptions.append("ignore:resource_tracker:UserWarning")
    multiprocessing.set_forkserver_preload(list(modules))
    forkserver.ensure_running()


def machine_bytes() -> int:
    """The memory of this machine, or of the control group that holds this process, where that is less."""
    total = os.sysconf("SC_PHYS_PAGES") * PAGE
    for limit in ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes"):
        with suppress(OSError, ValueError):
            total = min(total, int(Path(limit).read_text()))
    return total


def share_bytes(share: float) -> int:
    return max(LEAST, int(machine_bytes() * share))


def own_bytes(pid: int) -> int:
    """Bytes in memory that a process shares with no file and no parent; 0 when it is not there any more."""
    try:
        _, resident, shared, *_ = Path(f"/proc/{pid}/statm").read_text().split()
    except (OSError, ValueError):
        return 0
    return (int(resident) - int(shared)) * PAGE
