"""The solvers as the web process sees them: a piece always goes to the same one, and one that takes long has its own.

Shared seats answer short questions, one a core. A piece over whose question others have to wait takes the process with
it, caches and all, and a spare sits down in its place. Memory has a total: when it is reached, the largest is ended.
"""

from __future__ import annotations

import logging
import os
import threading
import time
import zlib
from pathlib import Path
from typing import Any

from noble_clay.machine import PIECES_SHARE, own_bytes, share_bytes
from noble_clay.solvers.ready import get_ready
from noble_clay.solvers.seat import Question, Seat, SolverFailed
from noble_clay.solvers.solver import LEAST_CACHE

LOG = logging.getLogger(__name__)

PATIENCE = 30.0
"""Seconds that an answer may take that somebody waits for."""

MAKING_PATIENCE = 600.0
"""The same of what is made aside, with progress and Stop."""

MOST_OWN = 6
"""Pieces that have a solver of their own at a time; the one asked longest ago gives it up."""

OWN_IDLE_SECONDS = 600.0
WATCH_SECONDS = 0.1

CACHE_SHARE = 0.1
"""Of what all solvers may have together: what each keeps of solids."""

MOST_CACHE = 1_000_000_000
MUCH = 400_000_000
"""Bytes of an idle solver that has more in its caches than a new one begins with."""


class Pool:
    """Solvers. `ask` returns at once; the question's `answer` is a future."""

    def __init__(self, mesh_folder: Path, size: int | None = None, budget: int | None = None) -> None:
        get_ready()
        self.mesh_folder = mesh_folder
        self.budget = budget or share_bytes(PIECES_SHARE)
        self._lock = threading.RLock()
        self._shared = [self._seat() for _ in range(size or max(1, min(8, os.cpu_count() or 1)))]
        self._spare: Seat | None = self._seat()
        self._own: dict[str, tuple[Seat, float]] = {}
        """By piece: its own seat, and when it was last asked."""
        self._leaving: list[Seat] = []
        self._guarded: list[Seat] = []
        self._closed = threading.Event()
        threading.Thread(target=self._keep_house, daemon=True).start()

    @property
    def cache_bytes(self) -> int:
        """What each solver keeps of solids."""
        return min(MOST_CACHE, max(LEAST_CACHE, int(self.budget * CACHE_SHARE)))

    def _seat(self) -> Seat:
        return Seat(self.mesh_folder, self.cache_bytes, self.budget, self._make_way)

    def guarded(self, seat: Seat) -> None:
        """Count a seat that others made as one of those that share the memory."""
        self._guarded.append(seat)

    def ask(self, piece_id: str, method: str, *arguments: Any, patience: float = PATIENCE) -> Question:
        """Put a question to the piece's solver."""
        question = Question(piece_id, method, arguments, patience)
        with self._lock:
            self._seat_of(piece_id).ask(question)
        return question

    def ask_now(self, piece_id: str, method: str, *arguments: Any, patience: float = PATIENCE) -> Question:
        """The same; but where the piece's solver is at work on something long, a shared one, which knows less of it."""
        question = Question(piece_id, method, arguments, patience, now=True)
        with self._lock:
            self.seat_now(piece_id).ask(question)
        return question

    def seat_now(self, piece_id: str) -> Seat:
        """Who answers soonest what is asked about a piece."""
        with self._lock:
            seat = self._seat_of(piece_id)
            if not seat.busy_long:
                return seat
            self._leave(seat)
            return self._shared_seat(piece_id)

    def _seat_of(self, piece_id: str) -> Seat:
        if piece_id not in self._own:
            return self._shared_seat(piece_id)
        seat, _ = self._own[piece_id]
        self._own[piece_id] = seat, time.monotonic()
        return seat

    def _shared_seat(self, piece_id: str) -> Seat:
        return self._shared[zlib.crc32(piece_id.encode()) % len(self._shared)]

    def _make_way(self, seat: Seat) -> None:
        """A question of this seat takes long: when others wait for it, the piece leaves with its process; of a process
        that is the piece's own already, what somebody waits for goes to a shared one.
        """
        if not seat.others_wait():
            return
        with self._lock:
            shared, question = seat in self._shared, seat.question
        if shared:
            self._leave(seat)
        elif question is not None:
            seat.give_over(self._shared_seat(question.piece_id))

    def _leave(self, seat: Seat) -> None:
        """Put the spare in the place of a shared seat that works on something long."""
        with self._lock:
            question, spare = seat.question, self._spare
            if question is None or spare is None or seat not in self._shared:
                return
            self._spare = None
            self._shared[self._shared.index(seat)] = spare
            if question.piece_id in self._own:
                self._leaving.append(seat)  # it has one already: this one ends with its answer
            else:
                self._own[question.piece_id] = seat, time.monotonic()
        _yield_to_others(seat)
        seat.give_over(spare)

    def _keep_house(self) -> None:
        while not self._closed.wait(WATCH_SECONDS):
            try:
                self._guard_memory()
                self._retire()
                if self._spare is None:
                    self._spare = self._seat()
            except Exception:
                LOG.exception("looking after the solvers failed")

    def _seats(self) -> list[Seat]:
        with self._lock:
            own = [seat for seat, _ in self._own.values()]
            spare = [self._spare] if self._spare else []
            return [*self._shared, *own, *self._leaving, *self._guarded, *spare]

    def _guard_memory(self) -> None:
        """Keep within the budget: what was only kept goes before what is being made."""
        sizes = [(own_bytes(seat.pid), seat) for seat in self._seats()]
        total = sum(size for size, _ in sizes)
        if total <= self.budget:
            return
        if any(size > MUCH and seat.forget() for size, seat in sorted(sizes, key=lambda s: s[0], reverse=True)):
            return
        size, largest = max(sizes, key=lambda s: s[0])
        LOG.warning("solvers hold %.1f GB together; the largest, %.1f GB, is ended", total / 1e9, size / 1e9)
        words = f"this takes more memory than there is here ({self.budget / 1e9:.1f} GB for all pieces together); "
        largest.kill(SolverFailed(words + "take fewer sides, copies or parts, or a coarser fineness"))

    def _retire(self) -> None:
        """End what nobody needs any more: seats that were left, and own ones that have been idle for long."""
        now = time.monotonic()
        with self._lock:
            gone = [s for s in self._leaving if s.idle]
            self._leaving = [s for s in self._leaving if s not in gone]
            idle = sorted((last, piece_id) for piece_id, (seat, last) in self._own.items() if seat.idle)
            over = len(self._own) - MOST_OWN
            for number, (last, piece_id) in enumerate(idle):
                if number < over or now - last > OWN_IDLE_SECONDS:
                    gone.append(self._own.pop(piece_id)[0])
        for seat in gone:
            seat.close()

    def close(self) -> None:
        self._closed.set()
        for seat in self._seats():
            seat.close()


def _yield_to_others(seat: Seat) -> None:
    """Let a process that computes for long do so behind those that somebody waits for."""
    for task in Path(f"/proc/{seat.pid}/task").glob("*"):
        try:
            os.setpriority(os.PRIO_PROCESS, int(task.name), 10)
        except (OSError, ValueError):  # it has ended meanwhile
            continue
