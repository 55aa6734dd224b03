"""Keeping processes running: one that ends is started again, with pauses that grow; all end with their keeper."""

from __future__ import annotations

import os
import signal
import subprocess
import time
from collections.abc import Callable, Sequence
from contextlib import suppress

from noble_clay.machine import end_with_parent
from tools.machine import ROOT, say

FIRST_PAUSE, LONGEST_PAUSE = 1.0, 30.0
STEADY_SECONDS = 60.0
"""After running for so long, the next pause is a short one again."""

ENDING_SECONDS = 2.0
"""That processes have to end by themselves."""


class Kept:
    """A process that is started again when it ends. what: its name, for whoever reads the terminal."""

    def __init__(self, what: str, command: Sequence[str], environment: dict[str, str]) -> None:
        self.what, self._command, self._environment = what, list(command), environment
        self._pause, self._again_at, self._since = FIRST_PAUSE, 0.0, 0.0
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> subprocess.Popen[bytes]:
        self._since = time.monotonic()
        self.process = subprocess.Popen(
            self._command, cwd=ROOT, env=self._environment, preexec_fn=_end_with_parent, process_group=0
        )
        return self.process

    def look_after(self) -> bool:
        """Start it again, once its pause is over, when it has ended; whether that was done just now."""
        if self.process is None or self.process.poll() is None:
            return False
        now = time.monotonic()
        if self._again_at == 0.0:
            if now - self._since > STEADY_SECONDS:
                self._pause = FIRST_PAUSE
            self._again_at = now + self._pause
            say(f"  {self.what} {how_it_ended(self.process.returncode)}; it is started again in {self._pause:.0f} s.")
            self._pause = min(2 * self._pause, LONGEST_PAUSE)
        if now < self._again_at:
            return False
        self._again_at = 0.0
        self.start()
        return True


def how_it_ended(code: int) -> str:
    return f"was ended ({signal.Signals(-code).name})" if code < 0 else f"ended (status {code})"


def end_all(processes: Sequence[subprocess.Popen[bytes] | None]) -> None:
    """End processes that lead a group, and all of their groups: what they started may be in the middle of loading."""
    there = [p for p in processes if p is not None]
    for process in there:
        process.terminate()
    until = time.monotonic() + ENDING_SECONDS
    for process in there:
        try:
            process.wait(max(0.05, until - time.monotonic()))
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        with suppress(ProcessLookupError):
            os.killpg(process.pid, signal.SIGKILL)


def wait_while(true: Callable[[], bool], patience: float) -> bool:
    """Whether something comes to be no longer true within so many seconds."""
    until = time.monotonic() + patience
    while true():
        if time.monotonic() > until:
            return False
        time.sleep(0.05)
    return True


def _end_with_parent() -> None:
    end_with_parent(signal.SIGTERM)
    if os.getppid() == 1:  # it died meanwhile
        os._exit(1)
