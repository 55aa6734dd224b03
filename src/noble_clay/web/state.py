"""What every route needs: the store's sessions, the solvers, the mesh files; and a piece's state as an answer."""

from __future__ import annotations

import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from typing import Annotated, Any

import psycopg
from fastapi import Depends, Request
from procrastinate import App
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from noble_clay.core.errors import ClayError, PieceError
from noble_clay.jobs import queue
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.solvers.pool import Pool
from noble_clay.store.database import Sessions
from noble_clay.store.pieces import Kept, keep_soundness, load_piece, revision_of
from noble_clay.web.answers import PieceState, ProblemAnswer, Refusal, Scene, Soundness
from noble_clay.web.listener import Listener


class Workshop:
    """The parts of the application that outlive a request."""

    def __init__(self, sessions: Sessions, pool: Pool, files: MeshFiles) -> None:
        self.sessions = sessions
        self.pool = pool
        self.files = files
        self._later = ThreadPoolExecutor(max_workers=1)
        self.listener = Listener()
        self._queue: App | None = None

    def put_into_queue(self, job_id: str) -> None:
        """Let a worker know of a job. When the database is away just now, workers find the job by themselves later."""
        try:
            self._queue = self._queue or queue.asking_app()
            queue.put(self._queue, job_id)
        except (ConnectorException, psycopg.Error):
            self._queue = None

    def still_at(self, kept: Kept) -> bool:
        """Whether a piece has not changed since it was loaded."""
        with self.transaction() as session:
            return revision_of(session, kept.id) == kept.revision

    def note_soundness(self, kept: Kept, soundness: Soundness) -> None:
        """Keep what a revision measures, for its card: after the answer, which it must not hold up."""

        def note() -> None:
            # The card counts again when it is next drawn; nothing is lost when the database is away.
            with suppress(SQLAlchemyError), self.transaction() as session:
                keep_soundness(session, kept.id, kept.revision, soundness.model_dump(mode="json"))

        self._later.submit(note)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """One transaction: kept when the block ends, undone when it raises."""
        with self.sessions.begin() as session:
            yield session


def workshop(request: Request) -> Workshop:
    found: Workshop = request.app.state.workshop
    return found


AWorkshop = Annotated[Workshop, Depends(workshop)]


def refusal_of(error: ClayError) -> Refusal:
    problems = error.problems if isinstance(error, PieceError) else []
    return Refusal(
        message=str(error),
        problems=[
            ProblemAnswer(message=p.message, part=p.part, field=p.field, value=repr(p.value)[:80] if p.value else None)
            for p in problems
        ],
    )


def document_of(shop: Workshop, piece_id: str) -> dict[str, Any]:
    """A piece as it is now, for a solver."""
    with shop.transaction() as session:
        return load_piece(session, piece_id).piece.dump()


def state_of(shop: Workshop, kept: Kept, since: float | None = None) -> PieceState:
    """A kept piece with its scene. The piece is safe by now: what cannot be evaluated is told, not raised."""
    stored = time.perf_counter()
    scene, problem = None, None
    document: dict[str, Any] = kept.piece.dump()
    try:
        scene = Scene.model_validate(shop.pool.ask(kept.id, "show", kept.id, document))
    except ClayError as error:
        problem = refusal_of(error)
    solved = time.perf_counter()
    if scene is not None and scene.soundness is not None:
        shop.note_soundness(kept, scene.soundness)
    elif scene is not None and kept.soundness is not None:
        scene.soundness = Soundness.model_validate(kept.soundness)  # counted before, maybe by another server
    seconds = {"store": stored - since if since else 0.0, "solver": solved - stored}
    return PieceState(
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
        server_seconds=seconds,
    )
