"""Counting aside: whole skins, and what pieces need, by processes that nobody else waits for.

Short work goes before long, one of each kind a piece, more than one at a time; what a newer state of the piece has
overtaken is given up. One of the processes takes short work only, so that it never waits for long.
"""

from __future__ import annotations

import threading
import time
from concurrent.futures import Future
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from noble_clay.core.errors import Stopped
from noble_clay.solvers.pool import Pool
from noble_clay.solvers.seat import Question, Seat

PATIENCE = 900.0
"""Seconds that counting may take: nobody waits for it with folded hands."""

LONG_WEIGHT = 150_000
"""Work of more is long; about as many triangles."""

MOST_WAITING_SECONDS = 30.0
"""Long work that has waited for so long goes first."""

Kind = tuple[str, str]
"""A piece and a method."""


@dataclass(eq=False)
class _Work:
    kind: Kind
    mark: Any
    arguments: tuple[Any, ...]
    weight: float
    answer: Future[Any] = field(default_factory=Future)
    since: float = field(default_factory=time.monotonic)
    question: Question | None = None


class Counting:
    """Processes of their own, all with the niceness of work that can wait."""

    def __init__(self, pool: Pool, folder: Any, lanes: int = 2) -> None:
        self._lock = threading.Lock()
        self._waiting: dict[Kind, _Work] = {}
        self._running: dict[int, _Work] = {}
        self._seats = [Seat(folder, pool.cache_bytes, pool.budget, lambda _: None, nice=10) for _ in range(lanes)]
        for seat in self._seats:
            pool.guarded(seat)
        self._homes: dict[str, int] = {}
        """Which process counted a piece last, and remembers it."""

    def want(self, piece_id: str, method: str, mark: Any, weight: float, *arguments: Any) -> Future[Any]:
        """Have something worked out. What is wanted of another `mark` for the same piece and method is given up; what
        is wanted again is the same work.
        """
        kind = piece_id, method
        with self._lock:
            running = next((w for w in self._running.values() if w.kind == kind and w.question), None)
            for known in (self._waiting.get(kind), running):
                if known is not None and known.mark == mark:
                    return known.answer
            work = _Work(kind, mark, arguments, weight)
            work.answer.set_running_or_notify_cancel()
            overtaken = self._waiting.pop(kind, None)
            self._waiting[kind] = work
        if overtaken is not None:
            overtaken.answer.set_exception(Stopped())
        if running is not None and running.question is not None:
            running.question.stop()
        self._begin()
        return work.answer

    def drop(self, piece_id: str, method: str) -> None:
        """Nobody wants it any more."""
        kind = piece_id, method
        with self._lock:
            waiting = self._waiting.pop(kind, None)
            running = next((w for w in self._running.values() if w.kind == kind), None)
        if waiting is not None:
            waiting.answer.set_exception(Stopped())
        if running is not None and running.question is not None:
            running.question.stop()

    def _begin(self) -> None:
        """Give every free process the work that is next for it."""
        begun = []
        with self._lock:
            for lane, seat in enumerate(self._seats):
                if lane in self._running:
                    continue
                work = self._next(lane)
                if work is None:
                    continue
                del self._waiting[work.kind]
                self._running[lane] = work
                self._homes[work.kind[0]] = lane
                piece_id, method = work.kind
                work.question = Question(piece_id, method, work.arguments, PATIENCE)
                begun.append((seat, lane, work, work.question))
        for seat, lane, work, question in begun:
            question.answer.add_done_callback(partial(self._done, lane, work))
            seat.ask(question)

    def _next(self, lane: int) -> _Work | None:
        """What a process does next: short before long; of as short, what it knows already, and what came first."""
        busy = {w.kind[0] for w in self._running.values()}
        last = lane == len(self._seats) - 1 and lane > 0
        now = time.monotonic()

        def rank(work: _Work) -> tuple[bool, bool, float]:
            long = work.weight > LONG_WEIGHT
            overdue = now - work.since > MOST_WAITING_SECONDS
            return long and not overdue, self._homes.get(work.kind[0], lane) != lane, work.since

        fit = [w for w in self._waiting.values() if w.kind[0] not in busy and not (last and w.weight > LONG_WEIGHT)]
        return min(fit, key=rank, default=None)

    def _done(self, lane: int, work: _Work, done: Future[Any]) -> None:
        with self._lock:
            self._running.pop(lane, None)
        error = done.exception()
        if error is not None:
            work.answer.set_exception(error)
        else:
            work.answer.set_result(done.result())
        self._begin()

    def share(self, piece_id: str, method: str) -> float | None:
        """How far the work is; None when it is not being done."""
        with self._lock:
            found = next((w for w in self._running.values() if w.kind == (piece_id, method)), None)
        return found.question.share if found is not None and found.question is not None else None

    def close(self) -> None:
        for seat in self._seats:
            seat.close()
