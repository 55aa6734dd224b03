"""The solvers as the web process sees them: one a core, a piece always to the same one, a dead one replaced."""

from __future__ import annotations

import multiprocessing
import os
import threading
import zlib
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from noble_clay.core.errors import ClayError, PieceError
from noble_clay.solvers.solver import CACHE_BYTES, COUNTING_CACHE_BYTES, run

PATIENCE = 60.0
"""Seconds that a piece may take before it is given up."""

COUNTING_PATIENCE = 300.0
"""The same, where nobody waits for it."""


class SolverFailed(ClayError):
    """A solver died or took too long, twice."""


class _Seat:
    """One solver process and the lock that lets in one question at a time."""

    def __init__(self, mesh_folder: Path, cache_bytes: int = CACHE_BYTES) -> None:
        self.mesh_folder = mesh_folder
        self.cache_bytes = cache_bytes
        self.lock = threading.Lock()
        self.start()

    def start(self) -> None:
        context = multiprocessing.get_context("spawn")
        self.pipe, theirs = context.Pipe()
        self.process = context.Process(target=run, args=(theirs, str(self.mesh_folder), self.cache_bytes), daemon=True)
        self.process.start()
        theirs.close()

    def replace(self) -> None:
        self.process.kill()
        self.process.join()
        self.pipe.close()
        self.start()

    def ask(self, method: str, arguments: tuple[Any, ...], patience: float) -> tuple[str, Any]:
        pipe: Connection = self.pipe
        pipe.send((method, arguments))
        if not pipe.poll(patience):
            raise TimeoutError
        answer: tuple[str, Any] = pipe.recv()
        return answer


class Pool:
    """Solvers; `ask` blocks, so it is called from threads."""

    def __init__(self, mesh_folder: Path, size: int | None = None) -> None:
        count = size or max(1, min(8, os.cpu_count() or 1))
        self._seats = [_Seat(mesh_folder) for _ in range(count)]
        self._counter = _Seat(mesh_folder, COUNTING_CACHE_BYTES)

    def ask(self, piece_id: str, method: str, *arguments: Any, patience: float = PATIENCE) -> Any:
        """What the piece's solver answers. Raises PieceError for a refusal, SolverFailed when there is no answer.

        A solver that dies is replaced and asked once more; one that takes longer than `patience` seconds is replaced.
        """
        return self._ask(self._seats[zlib.crc32(piece_id.encode()) % len(self._seats)], method, arguments, patience)

    def count(self, piece_id: str, document: dict[str, Any], wanted: Callable[[], bool]) -> dict[str, Any] | None:
        """The whole joined skin of a piece, by a process of its own, so that nobody waits for it. None when, once that
        is free, it is not `wanted` any more.
        """
        return self._aside("count", (piece_id, document), wanted)

    def needs(self, document: dict[str, Any], wanted: Callable[[], bool]) -> dict[str, Any] | None:
        """What a piece needs, by the same process, and None as above."""
        return self._aside("needs", (document,), wanted)

    def _aside(self, method: str, arguments: tuple[Any, ...], wanted: Callable[[], bool]) -> dict[str, Any] | None:
        found: dict[str, Any] | None = self._ask(self._counter, method, arguments, COUNTING_PATIENCE, wanted)
        return found

    def _ask(
        self,
        seat: _Seat,
        method: str,
        arguments: tuple[Any, ...],
        patience: float,
        wanted: Callable[[], bool] = lambda: True,
    ) -> Any:
        with seat.lock:
            if not wanted():
                return None
            for _ in range(2):
                try:
                    kind, value = seat.ask(method, arguments, patience)
                except TimeoutError:
                    seat.replace()
                    raise SolverFailed(
                        f"this takes longer than {patience:.0f} seconds; take fewer parts, copies or sides"
                    ) from None
                except (EOFError, OSError):
                    seat.replace()
                    continue
                if kind == "refused":
                    raise PieceError(value)
                return value
        raise SolverFailed("the solver stopped twice over this piece; undo the last step and try again")

    def close(self) -> None:
        for seat in [*self._seats, self._counter]:
            seat.process.kill()
            seat.process.join()
