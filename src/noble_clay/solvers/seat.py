"""One solver process, and the questions that wait for it: asked one after the other by a thread of its own."""

from __future__ import annotations

import itertools
import multiprocessing
import threading
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from contextlib import suppress
from pathlib import Path
from typing import Any

from noble_clay.core.errors import ClayError, Fault, PieceError, Stopped
from noble_clay.solvers.process import run

TURN = 0.25
"""Seconds after which a question is not a short one any more."""

GRACE = 2.0
"""Seconds that a solver has to end what it was asked to stop, before it is ended itself."""

TICK = 0.02
"""Seconds between two looks at a question that takes long."""


class SolverFailed(ClayError):
    """There is no answer: the solver died over it, or it took too long or too much memory."""


_NUMBERS = itertools.count(1)


class Question:
    """What a solver is asked. patience: seconds, from its beginning. now: somebody waits for it, so that it does not
    stay behind what takes long, of its own piece either. answer: done once there is one, or a ClayError.

    share, part: how far it is, as its solver told last.
    """

    def __init__(
        self, piece_id: str, method: str, arguments: tuple[Any, ...], patience: float, now: bool = False
    ) -> None:
        self.piece_id, self.method, self.arguments, self.patience = piece_id, method, arguments, patience
        self.now = now
        self.number = next(_NUMBERS)
        self.seat: Seat | None = None
        """Whom it was put to."""
        self.answer: Future[Any] = Future()
        self.answer.set_running_or_notify_cancel()  # whoever waits may go away, the question stays
        self.share = 0.0
        self.part: str | None = None
        self.ending: ClayError | None = None
        """Why it is given up, once it is."""
        self.ended_at = 0.0
        self._began: float | None = None
        self._lock = threading.Lock()

    def take(self) -> bool:
        """Begin it, unless it has been given up while it waited."""
        with self._lock:
            if self.ending is None:
                self._began = time.monotonic()
            return self.ending is None

    def stop(self, why: ClayError | None = None) -> None:
        """Give it up: at once while it waits, else as soon as its solver comes to the next step."""
        with self._lock:
            if self.ending is not None:
                return
            self.ending, self.ended_at = why or Stopped(), time.monotonic()
            waits = self._began is None
        if waits:
            self.answer.set_exception(self.ending)

    @property
    def seconds(self) -> float:
        return 0.0 if self._began is None else time.monotonic() - self._began

    @property
    def long(self) -> bool:
        return self.seconds > TURN


class Seat:
    """A process and its queue. waits_long: told, again and again, when what it does takes longer than a turn."""

    def __init__(
        self, folder: Path, cache_bytes: int, limit: int, waits_long: Callable[[Seat], None], nice: int = 0
    ) -> None:
        self._launch = str(folder), cache_bytes, limit, nice
        self._waits_long = waits_long
        self._waiting: deque[Question] = deque()
        self._wake = threading.Condition()
        self._closed = False
        self.question: Question | None = None
        self.adopted: dict[str, str] = {}
        """By piece: the key of the skin that the process makes drafts into."""
        self._start()
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    def _start(self) -> None:
        context = multiprocessing.get_context("forkserver")
        self._pipe, theirs = context.Pipe()
        self._control, listens = context.Pipe()
        self.process = context.Process(target=run, args=(theirs, listens, *self._launch), daemon=True)
        self.process.start()
        theirs.close()
        listens.close()
        self.adopted = {}

    @property
    def busy_long(self) -> bool:
        """Whether what it does takes longer than a turn."""
        now = self.question
        return now is not None and now.long

    @property
    def idle(self) -> bool:
        return self.question is None and not self._waiting

    @property
    def pid(self) -> int:
        return self.process.pid or 0

    def ask(self, question: Question) -> None:
        with self._wake:
            if self._closed:
                question.stop()
                return
            question.seat = self
            self._waiting.append(question)
            self._wake.notify()

    def others_wait(self) -> bool:
        """Whether something waits here that is not to stay behind what is worked on."""
        return any(not self._stays(q) for q in list(self._waiting))

    def give_over(self, other: Seat) -> None:
        """Let another seat answer what is not to stay behind what is worked on here."""
        with self._wake:
            leaving = [q for q in self._waiting if not self._stays(q)]
            self._waiting = deque(q for q in self._waiting if q not in leaving)
        for question in leaving:
            if question.method == "adopt":
                other.adopted[question.piece_id] = self.adopted.pop(question.piece_id, "")
            other.ask(question)

    def _stays(self, waiting: Question) -> bool:
        now = self.question
        return now is None or (waiting.piece_id == now.piece_id and not waiting.now)

    def kill(self, why: ClayError) -> None:
        """End what it does, with the process."""
        question = self.question
        if question is not None:
            question.stop(why)
        self.process.kill()

    def forget(self) -> bool:
        """Give back the memory of a process that has nothing to do, by ending it; whether that was so. The next
        question begins another.
        """
        with self._wake:
            if not self.idle or not self.process.is_alive():
                return False
            self.process.kill()
            self.process.join()
            return True

    def close(self) -> None:
        with self._wake:
            self._closed = True
            self._wake.notify()
        self.process.kill()

    def _serve(self) -> None:
        while True:
            with self._wake:
                while not self._waiting and not self._closed:
                    self._wake.wait()
                if self._closed:
                    break
                question = self._waiting.popleft()
                self.question = question
            if question.take():
                self._settle(question)
            self.question = None
        for question in self._waiting:
            question.stop()
        with suppress(OSError):
            self.process.join()
            self._pipe.close()

    def _settle(self, question: Question) -> None:
        """Get the answer, whatever it is, to those who wait for it."""
        try:
            question.answer.set_result(self._answered(question))
        except ClayError as error:
            question.answer.set_exception(error)
        except Exception as error:  # an answer that cannot be taken over the pipe: told, not let out of the thread
            question.answer.set_exception(SolverFailed(f"the answer could not be read: {error}"))

    def _answered(self, question: Question) -> Any:
        if not self.process.is_alive():  # it died while it had nothing to do
            self._restart()
        try:
            self._pipe.send((question.number, question.method, question.arguments))
            while True:
                if self._pipe.poll(TICK if question.long else TURN / 4):
                    kind, value = self._pipe.recv()
                    if kind == "told":
                        question.share, question.part = value
                        continue
                    return _value(kind, value, question)
                self._look_after(question)
        except (EOFError, OSError):
            code = self._restart()
            if self._closed:
                raise Stopped from None
            raise question.ending or SolverFailed(_died(code)) from None

    def _look_after(self, question: Question) -> None:
        if question.seconds > question.patience and question.ending is None:
            question.stop(SolverFailed(f"this takes longer than {question.patience:.0f} seconds, and was given up"))
        if question.ending is not None:
            with suppress(OSError):
                self._control.send(question.number)
            if time.monotonic() - question.ended_at > GRACE:
                self.process.kill()
        elif question.long:
            self._waits_long(self)

    def _restart(self) -> int | None:
        """A new process in place of a dead one; how that ended."""
        self.process.kill()
        self.process.join()
        code = self.process.exitcode
        for pipe in (self._pipe, self._control):
            pipe.close()
        if not self._closed:
            self._start()
        return code


def _value(kind: str, value: Any, question: Question) -> Any:
    match kind:
        case "done":
            return value
        case "refused":
            raise PieceError(value)
        case "fault":
            raise Fault(value)
        case _:  # stopped
            raise question.ending or Stopped()


def _died(code: int | None) -> str:
    how = f" (signal {-code})" if code is not None and code < 0 else ""
    return f"the process that made this ended before it was done{how}; take the last step back, or change it"
