"""What every route needs: the store's sessions, the solvers, the mesh files; and a piece's state as an answer."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager, suppress
from typing import Annotated, Any, TypeVar

import psycopg
from fastapi import Depends, Request, Response
from procrastinate import App
from procrastinate.exceptions import ConnectorException
from pydantic import ValidationError
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from noble_clay.core.errors import ClayError, PieceError, Problem
from noble_clay.core.fields import storable
from noble_clay.jobs import queue
from noble_clay.solvers.counting import Counting
from noble_clay.solvers.desk import Desk, StateView, state_key
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.solvers.pool import PATIENCE, Pool
from noble_clay.solvers.seat import Question
from noble_clay.store import jobs, pieces
from noble_clay.store.database import Sessions
from noble_clay.store.pieces import Broken, StoredPiece, Unreadable, keep_soundness, load_piece
from noble_clay.web.answers import MakingAnswer, PieceState, ProblemAnswer, Refusal, Scene, Soundness, UnreadableAnswer
from noble_clay.web.listener import Listener

T = TypeVar("T")

ANSWER_SECONDS = 0.4
"""How long an answer waits for the skin of a new state; what takes longer is told as still being made."""

OUTLINE_SECONDS = 2.0
TIDY_SECONDS = 600.0


class Workshop:
    """The parts of the application that outlive a request."""

    def __init__(self, sessions: Sessions, pool: Pool, files: MeshFiles) -> None:
        self.sessions = sessions
        self.pool = pool
        self.files = files
        self.counting = Counting(pool, files.folder)
        self.desk = Desk(pool, self.counting, files, self._note)
        self._later = ThreadPoolExecutor(max_workers=1)
        self._closed = threading.Event()
        threading.Thread(target=self._keep_tidy, daemon=True).start()
        self.jobs = Listener(jobs.CHANNEL)
        self.pieces = Listener(pieces.CHANNEL)
        self._queue: App | None = None

    def _keep_tidy(self) -> None:
        """Keep the mesh files within their budget."""
        while not self._closed.wait(TIDY_SECONDS):
            with suppress(OSError):
                self.files.prune()

    def close(self) -> None:
        self._closed.set()
        self.counting.close()
        self.pool.close()

    def put_into_queue(self, job_id: str) -> None:
        """Let a worker know of a job. When the database is away just now, workers find the job by themselves later."""
        try:
            self._queue = self._queue or queue.asking_app()
            queue.put(self._queue, job_id)
        except (ConnectorException, psycopg.Error):
            self._queue = None

    def note_soundness(self, kept: StoredPiece, soundness: Soundness) -> None:
        """Keep what a revision measures, for its card: after the answer, which it must not hold up."""
        self._note(kept.id, kept.revision, soundness.model_dump(mode="json"))

    def _note(self, piece_id: str, revision: int, values: dict[str, Any]) -> None:
        def note() -> None:
            # The card counts again when it is next drawn; nothing is lost when the database is away.
            with suppress(SQLAlchemyError), self.transaction() as session:
                keep_soundness(session, piece_id, revision, values)

        with suppress(RuntimeError):  # all is being closed
            self._later.submit(note)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """One transaction: kept when the block ends, undone when it raises."""
        with self.sessions.begin() as session:
            yield session

    async def stored(self, work: Callable[[Session], T]) -> T:
        """What some work on the database comes to: one transaction, in a thread."""

        def done() -> T:
            with self.transaction() as session:
                return work(session)

        return await run_in_threadpool(done)

    async def load(self, piece_id: str) -> StoredPiece:
        """Raises NoSuchPiece, Unreadable."""
        return await self.stored(lambda session: load_piece(session, piece_id))

    async def document(self, piece_id: str) -> dict[str, Any]:
        """A piece as it is now, for a solver."""
        kept = await self.load(piece_id)
        return await run_in_threadpool(kept.piece.dump)

    async def answer(self, piece_id: str, method: str, *arguments: Any, patience: float = PATIENCE) -> Any:
        """What a solver answers that is free for it: for what somebody waits for."""
        return await answered(self.pool.ask_now(piece_id, method, *arguments, patience=patience))


async def answered(question: Question) -> Any:
    """The answer to a question. Raises what the solver raised; the question is given up with whoever asked."""
    try:
        return await asyncio.wrap_future(question.answer)
    except asyncio.CancelledError:
        question.stop()
        raise


async def settled(future: Future[Any], seconds: float) -> bool:
    """Wait for an answer, so long and no longer; whether it, or why there is none, is there by now."""
    waiting = asyncio.wrap_future(future)
    # Whoever wants to know why there is none asks the future itself.
    waiting.add_done_callback(lambda done: done.cancelled() or done.exception())
    await asyncio.wait({waiting}, timeout=seconds)
    return future.done()


def workshop(request: Request) -> Workshop:
    found: Workshop = request.app.state.workshop
    return found


AWorkshop = Annotated[Workshop, Depends(workshop)]


def refusal_of(error: ClayError) -> Refusal:
    problems = error.problems if isinstance(error, PieceError) else []
    unreadable = None
    if isinstance(error, Unreadable):
        b = error.broken
        unreadable = UnreadableAnswer(
            id=b.id, name=b.name, revision=b.revision, why=storable(b.why), undo=b.undo, steps_back=b.steps_back
        )
    return Refusal(message=storable(str(error)), problems=[_problem_answer(p) for p in problems], unreadable=unreadable)


def _problem_answer(problem: Problem) -> ProblemAnswer:
    value = repr(problem.value)[:80] if problem.value is not None else None
    part, field = (storable(t) if t is not None else None for t in (problem.part, problem.field))
    return ProblemAnswer(message=storable(problem.message), part=part, field=field, value=value)


async def state_response(
    shop: Workshop, kept: StoredPiece | Broken, since: float | None = None, status: int = 200
) -> Response:
    """A kept piece with its scene, as an answer. It is safe by now: what cannot be made is told, not raised.

    Raises Unreadable for a piece that cannot be read.
    """
    if isinstance(kept, Broken):
        raise Unreadable(kept)
    stored = time.perf_counter()
    document, look = await _looked_at(shop, kept)
    parts: list[dict[str, Any]] | None = None
    if look.scene is None:
        with suppress(ClayError):  # then the parts are shown as they were
            parts = await shop.answer(kept.id, "outline", document, patience=OUTLINE_SECONDS)
    seconds = {"store": stored - since if since else 0.0, "solver": time.perf_counter() - stored}
    return await run_in_threadpool(_written, shop, kept, look, parts, seconds, status)


async def scene_of(shop: Workshop, kept: StoredPiece) -> StateView:
    """What there is to be shown of a kept piece by now."""
    return (await _looked_at(shop, kept))[1]


async def _looked_at(shop: Workshop, kept: StoredPiece) -> tuple[dict[str, Any], StateView]:
    """Its document, and what there is to be shown of it after a moment's work on that."""
    document, key = await run_in_threadpool(_document_and_key, kept)
    under_way = shop.desk.show(kept.id, kept.revision, document, key)
    if under_way is not None:
        await settled(under_way, ANSWER_SECONDS)
    return document, shop.desk.look(kept.id, key)


def _document_and_key(kept: StoredPiece) -> tuple[dict[str, Any], str]:
    document = kept.piece.dump()
    return document, state_key(document)


def _written(
    shop: Workshop,
    kept: StoredPiece,
    look: StateView,
    parts: list[dict[str, Any]] | None,
    seconds: dict[str, float],
    status: int,
) -> Response:
    scene, making, problem = None, None, None
    if look.problems is not None:
        problem = refusal_of(PieceError(look.problems))
        scene = _stale_scene(look.last, parts)
    elif look.scene is not None:
        scene = Scene.model_validate(look.scene)
        if scene.soundness is not None:
            shop.note_soundness(kept, scene.soundness)
        elif kept.soundness is not None:
            with suppress(ValidationError):  # kept in an older form
                scene.soundness = Soundness.model_validate(kept.soundness)  # counted before, maybe by another server
    else:
        share, part = look.making or (0.0, None)
        making = MakingAnswer(share=share, part=part)
        scene = _stale_scene(look.last, parts)
    state = PieceState(
        id=kept.id,
        revision=kept.revision,
        piece=kept.piece,
        undo=kept.undo,
        redo=kept.redo,
        demo=kept.demo,
        changed_at=kept.changed_at,
        chosen=list(kept.chosen),
        scene=scene,
        problem=problem,
        making=making,
        server_seconds=seconds,
    )
    return Response(state.model_dump_json(), status, media_type="application/json")


def _stale_scene(last: dict[str, Any] | None, parts: list[dict[str, Any]] | None) -> Scene:
    """The skin that was shown last, with the parts where they stand now."""
    values = {"result": None, "patch": None, "parts": [], "seconds": {}, **(last or {}), "soundness": None}
    return Scene.model_validate(values if parts is None else {**values, "parts": parts})
