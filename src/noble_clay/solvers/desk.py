"""What is known of every open piece: what can be shown of its states, what could not be made, what is under way.

A state is known by the hash of its parts, so that a step taken back is answered at once. Nothing is tried twice by
itself: what could not be made is remembered with the reason, until the maker asks for it again.
"""

from __future__ import annotations

import hashlib
import json
import logging
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from typing import Any

from noble_clay.core.errors import ClayError, PieceError, Problem, Stopped
from noble_clay.solvers.counting import Counting
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.solvers.pool import MAKING_PATIENCE, Pool
from noble_clay.solvers.seat import Question

LOG = logging.getLogger(__name__)

MOST_PIECES, MOST_STATES = 32, 12
MOST_VIEWS = 4_000
"""Views of parts that are remembered of a piece's states, all together; of the newest state at least."""

DRAFT_PATIENCE = 4.0
"""Seconds that a draft may take; the exact result comes with letting go."""

STOPPED = "stopped before it was done; take the last step back, or have it made again"

Scene = dict[str, Any]
"""What a solver's `show` answers."""


@dataclass
class _Piece:
    """Of one piece. scenes, problems: by state. last: the newest scene that could be made; skin: the newest that is
    wholly joined and counted, with its document. wanted: the state that is asked for. counting: the one that is being
    counted aside, or "".
    """

    scenes: OrderedDict[str, Scene] = field(default_factory=OrderedDict)
    problems: OrderedDict[str, list[Problem]] = field(default_factory=OrderedDict)
    last: Scene | None = None
    skin: tuple[dict[str, Any], Scene] | None = None
    wanted: str = ""
    revision: int = 0
    document: dict[str, Any] = field(default_factory=dict)
    question: Question | None = None
    counting: str = ""


@dataclass(frozen=True)
class StateView:
    """What there is of a state. scene: its own; else, with `last`, what was shown before it. problems: why it cannot be
    made. making: how far it is (0 to 1), and the part whose turn it is.
    """

    scene: Scene | None
    last: Scene | None
    problems: list[Problem] | None
    making: tuple[float, str | None] | None
    counting: float | None


def state_key(document: dict[str, Any]) -> str:
    """What can be shown of a piece depends on its parts only."""
    return hashlib.sha256(json.dumps(document["parts"]).encode()).hexdigest()


class Desk:
    """counted: told of each soundness that was counted aside: the piece, its revision, and the values."""

    def __init__(
        self, pool: Pool, counting: Counting, files: MeshFiles, counted: Callable[[str, int, dict[str, Any]], None]
    ) -> None:
        self.pool, self.counting, self.files = pool, counting, files
        self._counted = counted
        self._lock = threading.RLock()
        self._pieces: OrderedDict[str, _Piece] = OrderedDict()

    def _piece(self, piece_id: str) -> _Piece:
        found = self._pieces.setdefault(piece_id, _Piece())
        self._pieces.move_to_end(piece_id)
        while len(self._pieces) > MOST_PIECES:
            self._pieces.popitem(last=False)
        return found

    def show(self, piece_id: str, revision: int, document: dict[str, Any], key: str) -> Future[Any] | None:
        """Have a state shown; what is being made of an older one is given up. None when there is nothing to wait for:
        it is there, or cannot be made.
        """
        with self._lock:
            piece = self._piece(piece_id)
            if revision < piece.revision:
                return None  # a newer one has been asked for meanwhile
            piece.revision, piece.document = revision, document
            under_way = piece.question if piece.wanted == key else None
            if under_way is not None and not under_way.answer.done():
                return under_way.answer
            if piece.question is not None and piece.wanted != key:
                piece.question.stop()
                piece.question = None
            piece.wanted = key
            if key in piece.problems:
                return None
            scene = piece.scenes.get(key)
            if scene is not None and self._still_right(scene):
                self._now_shown(piece, scene)
                self._count(piece_id, piece, scene)
                return None
            question = piece.question = self.pool.ask(piece_id, "show", piece_id, document, patience=MAKING_PATIENCE)
        question.answer.add_done_callback(lambda done: self._made(piece_id, key, question, done))
        return question.answer

    def look(self, piece_id: str, key: str) -> StateView:
        with self._lock:
            piece = self._piece(piece_id)
            question = piece.question if piece.wanted == key else None
            making = (question.share, question.part) if question is not None else None
            share = self.counting.share(piece_id, "count") if piece.counting else None
            return StateView(piece.scenes.get(key), piece.last, piece.problems.get(key), making, share)

    def note(self, piece_id: str) -> dict[str, Any]:
        """The state that is wanted of a piece, in short: for whoever watches it."""
        with self._lock:
            piece = self._pieces.get(piece_id)
            if piece is None:
                return {"revision": 0, "made": True, "counted": True, "share": 0.0, "part": None}
            look = self.look(piece_id, piece.wanted)
            scene = look.scene
            share, part = look.making or (look.counting or 0.0, None)
            return {
                "revision": piece.revision,
                "made": look.making is None,
                "counted": scene is None or (scene["soundness"] is not None and scene["result"] is not None),
                "share": round(share, 2),
                "part": part,
            }

    def stop(self, piece_id: str) -> None:
        """The maker does not want to wait for what is being made."""
        with self._lock:
            piece = self._piece(piece_id)
            question, piece.question = piece.question, None
            if question is None:
                return
            self._note_problem(piece, piece.wanted, [Problem(STOPPED)])
        question.stop()

    def again(self, piece_id: str) -> None:
        """What could not be made may be tried again when it is next asked for."""
        with self._lock:
            piece = self._piece(piece_id)
            piece.problems.pop(piece.wanted, None)

    def _made(self, piece_id: str, key: str, question: Question, done: Future[Any]) -> None:
        with self._lock:
            piece = self._piece(piece_id)
            current = piece.question is question
            if current:
                piece.question = None
            error = done.exception()
            if error is None:
                scene = done.result()
                piece.scenes[key] = scene
                piece.scenes.move_to_end(key)
                _forget_oldest(piece.scenes)
                if piece.wanted == key:
                    self._now_shown(piece, scene)
                    if piece.skin and question.seat and piece.skin[1] is scene:
                        question.seat.adopted[piece_id] = scene["result"]["key"]
                    self._count(piece_id, piece, scene)
            elif current and not isinstance(error, Stopped):  # what was given up has been told of by whoever did
                if not isinstance(error, ClayError):
                    LOG.error("showing piece %s failed", piece_id, exc_info=error)
                self._note_problem(piece, key, _problems(error))

    @staticmethod
    def _now_shown(piece: _Piece, scene: Scene) -> None:
        piece.last = scene
        if scene["result"] is not None and scene["soundness"] is not None and scene["patch"] is None:
            piece.skin = piece.document, scene

    def draft(self, piece_id: str, revision: int, document: dict[str, Any] | None, edit: dict[str, Any]) -> Question:
        """Ask for a draft, of whoever answers soonest; he learns first which skin it is drawn into."""
        with self._lock:
            skin = self._piece(piece_id).skin
            seat = self.pool.seat_now(piece_id)
            if skin is not None and seat.adopted.get(piece_id) != skin[1]["result"]["key"]:
                shown = {**skin[1], "seconds": skin[1]["seconds"]["evaluate"]}
                seat.ask(Question(piece_id, "adopt", (piece_id, skin[0], shown), DRAFT_PATIENCE, now=True))
                seat.adopted[piece_id] = skin[1]["result"]["key"]
            question = Question(piece_id, "draft", (piece_id, revision, document, edit), DRAFT_PATIENCE, now=True)
            seat.ask(question)
            return question

    @staticmethod
    def _note_problem(piece: _Piece, key: str, problems: list[Problem]) -> None:
        piece.problems[key] = problems
        while len(piece.problems) > MOST_STATES:
            piece.problems.popitem(last=False)

    def _still_right(self, scene: Scene) -> bool:
        """Whether all meshes of a scene are still at hand, and none was missing that may have come meanwhile."""
        if scene["soundness"] is not None and scene["soundness"]["left_out"]:
            return False
        keys = {p["key"] for p in scene["parts"] if p["key"]}
        keys |= {scene[name]["key"] for name in ("result", "patch") if scene[name]}
        return all(self.files.has(key) for key in keys)

    def _count(self, piece_id: str, piece: _Piece, scene: Scene) -> None:
        """Have a scene's skin and soundness counted aside, where they are not known yet."""
        if scene["soundness"] is not None and scene["result"] is not None:
            piece.counting = ""
            self.counting.drop(piece_id, "count")
            return
        key, revision, document = piece.wanted, piece.revision, piece.document
        if piece.counting == key:
            return
        piece.counting = key
        found = self.counting.want(piece_id, "count", key, weight_of(document), piece_id, document)
        found.add_done_callback(lambda done: self._was_counted(piece_id, key, revision, document, done))

    def _was_counted(self, piece_id: str, key: str, revision: int, document: dict[str, Any], done: Future[Any]) -> None:
        error = done.exception()
        with self._lock:
            piece = self._piece(piece_id)
            if piece.counting == key:
                piece.counting = ""
            if error is not None:
                if not isinstance(error, Stopped):
                    self._note_problem(piece, key, _problems(error))
                return
            found = done.result()
            scene = piece.scenes.get(key)
            if scene is not None:
                counted = {**scene, "result": found["result"], "patch": None, "soundness": found["soundness"]}
                piece.scenes[key] = counted
                if piece.wanted == key:
                    self._now_shown(piece, counted)
        self.pool.ask(piece_id, "adopt", piece_id, document, found)
        self._counted(piece_id, revision, found["soundness"])


def _problems(error: BaseException) -> list[Problem]:
    return error.problems if isinstance(error, PieceError) else [Problem(str(error))]


def _forget_oldest(scenes: OrderedDict[str, Scene]) -> None:
    views = sum(len(scene["parts"]) for scene in scenes.values())
    while len(scenes) > MOST_STATES or (len(scenes) > 1 and views > MOST_VIEWS):
        _, gone = scenes.popitem(last=False)
        views -= len(gone["parts"])


def weight_of(document: dict[str, Any]) -> float:
    """About how much work a piece is: parts, copies counted, a blended list's many times; not exact, and quick."""

    def of_list(parts: list[dict[str, Any]], times: float) -> float:
        total = 0.0
        for part in parts:
            copies = part.get("copies") or {}
            count = copies.get("count") or 1
            for number in copies.get("counts", ()):
                count *= number
            join = part.get("join")
            if join is None:
                total += (
                    times * count * (20_000 if part.get("mesh") else 1_000) * (1 + 5 * len(part.get("changes", ())))
                )
            else:
                total += of_list(join["parts"], times * count * (20 if join.get("blend") else 1))
        return total

    return of_list(document["parts"], 1.0)
