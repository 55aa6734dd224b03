"""The process of a solver: questions come over a pipe, answers and progress go back, another pipe says when to stop.

The kernel holds the interpreter's lock while it works, so nothing is computed in the web process.
"""

from __future__ import annotations

import logging
import os
import resource
import signal
import time
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from noble_clay.core.errors import NO_ROOM, ClayError, Fault, PieceError, Problem, Stopped, is_no_room
from noble_clay.core.evaluate.watch import Watch, steps_of
from noble_clay.core.measure.joins import join_facts
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.warm import warm_distances, warm_soft_lists
from noble_clay.machine import end_with_parent
from noble_clay.solvers.operations import OPERATIONS
from noble_clay.solvers.solver import Solver

LOG = logging.getLogger(__name__)

LEAST_ROOM = 6_000_000_000
"""Bytes of addresses that a process may have, however little memory the machine has: libraries reserve much."""

IDLE_SECONDS = 1.0
"""How long a new process waits for its first question before it pays more of its first call's costs, s."""

TELLING_SECONDS = 0.2


class PipeWatch(Watch):
    """Tells over the pipe how far a question is, and hears over another when it is to be given up."""

    def __init__(self, pipe: Connection, control: Connection) -> None:
        self._pipe, self._control = pipe, control
        self._number, self._total, self._seen, self._told_at = 0, 1, set[tuple[str, str]](), 0.0

    def start(self, number: int) -> None:
        self._number, self._total, self.part = number, 1, None
        self._seen.clear()
        self._told_at = time.monotonic()

    def expect(self, piece: Piece) -> None:
        self._total = max(1, steps_of(piece))

    def begin(self, part: Part, step: str = "") -> None:
        self.part = part.id
        self._seen.add((part.id, step))
        self.go_on()

    def go_on(self) -> None:
        try:
            while self._control.poll():
                if self._control.recv() == self._number:
                    raise Stopped
        except (EOFError, OSError):  # nobody is there any more
            os._exit(0)
        if time.monotonic() - self._told_at > TELLING_SECONDS:
            self._told_at = time.monotonic()
            self._pipe.send(("told", (min(1.0, len(self._seen) / self._total), self.part)))


def run(pipe: Connection, control: Connection, mesh_folder: str, cache_bytes: int, limit: int, nice: int = 0) -> None:
    """The solver process: answer questions (number, method, arguments) until the pipe closes."""
    end_with_parent()  # nobody would take its answers
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(nice)
    room = max(limit, LEAST_ROOM)
    resource.setrlimit(resource.RLIMIT_AS, (room, room))
    logging.basicConfig(format="%(asctime)s solver %(process)d %(levelname)s: %(message)s")
    watch = PipeWatch(pipe, control)
    solver = Solver(Path(mesh_folder), cache_bytes, watch)
    _warm(solver)
    if not pipe.poll(IDLE_SECONDS):  # or nobody is there any more
        warm_soft_lists()
    while True:
        try:
            number, method, arguments = pipe.recv()
            watch.start(number)
            pipe.send(_answer(solver, method, arguments))
        except (EOFError, OSError):  # nobody is there any more
            return


def _answer(solver: Solver, method: str, arguments: tuple[Any, ...]) -> tuple[str, Any]:
    """What a method answers. Nothing that goes wrong in it ends the process."""
    try:
        return "done", OPERATIONS[method](solver, *arguments)
    except Stopped:
        return "stopped", None
    except Fault as fault:
        LOG.exception("%s failed: %s", method, fault)
        return "fault", fault.problems
    except PieceError as error:
        return "refused", error.problems
    except ClayError as error:
        return "refused", [Problem(str(error))]
    except MemoryError:
        words = "this takes more memory than is allowed; take fewer sides or copies, or a coarser fineness"
        return "refused", [Problem(words, solver.watch.part)]
    except Exception as error:
        LOG.exception("%s failed", method)
        if is_no_room(error):
            return "refused", [Problem(NO_ROOM)]
        words = "this could not be worked out, by a fault of Noble Clay's own, which has been written down"
        return "fault", [Problem(words, solver.watch.part)]


def _warm(solver: Solver) -> None:
    """Pay the first call's costs before anyone waits for it."""
    ball = {"kind": "sphere", "radius": 5, "facets": 16}
    parts = [{"id": f"p{i}", "primitive": ball, "place": {"position": [i * 4, 0, 0]}} for i in range(2)]
    piece = Piece.model_validate({"format": "noble-clay-piece", "version": 1, "name": "warm", "parts": parts})
    join_facts(piece.parts, solver.evaluator)
    solver.evaluator.evaluate(piece).inspection  # noqa: B018
    warm_distances()
