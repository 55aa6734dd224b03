"""A solver: what can be asked about pieces, its caches warm. It runs in a process of its own (`process.py`)."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.adjust import ADJUST
from noble_clay.core.adjust.adjust import Floor, frame_on, standing_above, tidy_triple
from noble_clay.core.adjust.seat import seen_face
from noble_clay.core.errors import MeshError, PieceError, Problem
from noble_clay.core.evaluate.drafts import Draft, Drafter
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.keys import hashed
from noble_clay.core.evaluate.large_pieces import TiledSkins
from noble_clay.core.evaluate.view import Views, world_boxes
from noble_clay.core.evaluate.watch import Watch
from noble_clay.core.formats.pieces import asset_bytes
from noble_clay.core.formats.write import piece_bytes
from noble_clay.core.measure.beside import free_spot
from noble_clay.core.measure.joins import join_facts
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.mesh.affine import inverse
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.skin_crossings import crossings_of
from noble_clay.core.mesh.written import written
from noble_clay.core.needs.find import find_needs
from noble_clay.core.needs.loose_bodies import loose_bodies
from noble_clay.core.needs.need import InspectionContext
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.models import Op, Part, Piece
from noble_clay.core.piece.read import piece_from_values, validated
from noble_clay.core.piece.tree import find
from noble_clay.solvers.draft_bytes import draft_bytes
from noble_clay.solvers.mesh_files import MeshFiles
from noble_clay.solvers.values import floating_marks, need_values, plain, soundness_values, view_values, with_crossings
from noble_clay.store.assets import stored_assets
from noble_clay.store.database import open_database, sessions

WithParts = tuple[Mesh, NDArray[np.int64], tuple[str, ...]]
"""A mesh, for every triangle the index of its part, and the ids that the indices mean."""

MARKING_SECONDS = 0.08
CACHE_BYTES = 250_000_000
"""What a process that answers keeps of solids."""

MANY_PARTS = 150
"""A piece of more parts is shown part by part until its joined skin is there."""

HEAVY_TRIANGLES = 500_000
"""The same of a piece into which a mesh of more triangles comes: to make it a solid takes seconds."""

MOST_CROSSED = 8_000
"""Triangles of a part whose crossings are looked for before the answer."""

SLOW_SECONDS = 0.6
"""A piece that takes longer to join is patched where it changes, and counted after the answer."""

TILED_PARTS = 24
"""A piece of at least so many parts is counted tile by tile."""

MOST_SHOWN = 16
"""Pieces whose last joined skin is remembered."""


@dataclass(frozen=True, eq=False)
class Shown:
    """What the view has of a piece: the document that its joined skin is of, that skin, and how long it took."""

    piece: Piece
    result: dict[str, Any]
    soundness: dict[str, Any]
    seconds: float


class Solver:
    """What a solver can be asked. Every method takes and returns plain values."""

    def __init__(self, mesh_folder: Path, cache_bytes: int = CACHE_BYTES, watch: Watch | None = None) -> None:
        self.watch = watch or Watch()
        self.evaluator = Evaluator(cache_bytes, stored_assets(sessions(open_database())), self.watch)
        self.files = MeshFiles(mesh_folder)
        self.views = Views(self.evaluator, self._keep_mesh)
        self.neighbours = Neighbours(self.evaluator)
        self.local = Drafter(self.evaluator)
        self.tiles = TiledSkins(self.evaluator, self.files)
        self._held: tuple[str, int, Piece] | None = None
        self._shown: OrderedDict[str, Shown] = OrderedDict()
        self._took: dict[str, float] = {}
        """By the key of a skin whose soundness is counted aside, how long it took to join here."""
        self._floats: tuple[str, list[dict[str, Any]]] | None = None

    def show(self, piece_id: str, document: dict[str, Any]) -> dict[str, Any]:
        """What the view needs of a piece: mesh keys, placements, sizes and soundness.

        Of a piece that takes long to join, the answer is the skin that is known and a patch for where it differs by
        now; its soundness is not known then, and `count` finds it.
        """
        started = time.perf_counter()
        piece = self._begun(document)
        joined = self._joined(piece_id, piece)
        kernel = time.perf_counter() - started
        return {
            **joined,
            "parts": [view_values(v) for v in self.views.of(piece)],
            "seconds": {"evaluate": kernel, "all": time.perf_counter() - started},
        }

    def _begun(self, document: dict[str, Any]) -> Piece:
        """The piece of a question about the whole of it."""
        piece = piece_from_values(document)
        self.watch.expect(piece)
        return piece

    def outline(self, document: dict[str, Any]) -> list[dict[str, Any]]:
        """Where the parts of a piece stand, without making any: for a piece that is still being made."""
        return [view_values(v) for v in self.views.of(piece_from_values(document), quick=True)]

    def _joined(self, piece_id: str, piece: Piece) -> dict[str, Any]:
        shown = self._shown.get(piece_id)
        if shown is not None and not self.files.has(shown.result["key"]):
            shown = None
        if shown is not None and self.evaluator.keys.parts(shown.piece.parts) == self.evaluator.keys.parts(piece.parts):
            return {"result": shown.result, "patch": None, "soundness": shown.soundness}
        if (_many(piece) and (shown is None or not _many(shown.piece))) or self._brings_heavy(piece, shown):
            return {"result": None, "patch": None, "soundness": None}
        if shown is not None and shown.seconds > SLOW_SECONDS:
            draft = self.local.draft(shown.piece, piece, within=_bounds(shown))
            if draft.box is not None:
                return {"result": shown.result, "patch": self._patch(shown, piece, draft), "soundness": None}
        found = self._counted(piece, MOST_CROSSED)
        if found["soundness"] is None:
            self._took[found["result"]["key"]] = found["seconds"]
        else:
            self._remember(piece_id, Shown(piece, found["result"], found["soundness"], found["seconds"]))
        return {"result": found["result"], "patch": None, "soundness": found["soundness"]}

    def _brings_heavy(self, piece: Piece, shown: Shown | None) -> bool:
        """Whether a piece has a heavy mesh that what is shown of it has not."""
        known = _meshes(shown.piece) if shown is not None else set[str]()
        for sha256 in _meshes(piece) - known:
            with suppress(MeshError):  # one that is not there is told when the piece is joined
                if len(self.evaluator.asset(sha256).triangles) > HEAVY_TRIANGLES:
                    return True
        return False

    def _patch(self, shown: Shown, piece: Piece, draft: Draft) -> dict[str, Any]:
        """A draft as a mesh file."""
        assert draft.box is not None
        key = hashed(["patch", shown.result["key"], self.evaluator.keys.parts(piece.parts), draft.box.tolist()])
        parts = self._keep_skin(key, piece, draft.solid.mesh_with_parts)
        return {"key": key, "parts": parts, "box": draft.box.tolist()}

    def _keep_skin(self, key: str, piece: Piece, make: Callable[[], WithParts]) -> list[str]:
        """Write a mesh under its key unless it is there; what its indices of parts mean.

        That must follow from the key alone: in which order the kernel comes upon parts depends on what it did before.
        """
        ids = sorted(part.id for part in piece.walk())
        if not self.files.has(key):
            mesh, part_of, names = make()
            index = {part: i for i, part in enumerate(ids)}
            self.files.write(key, mesh, np.array([index.get(name, 0) for name in names], dtype=np.int64)[part_of])
        return ids

    def count(self, piece_id: str, document: dict[str, Any]) -> dict[str, Any]:
        """The whole joined skin of a piece, and its soundness, however long that takes. It is a slow piece then."""
        started = time.perf_counter()
        piece = self._begun(document)
        skin = self.tiles.skin(piece_id, piece) if sum(1 for _ in piece.walk()) >= TILED_PARTS else None
        if skin is None:
            counted = self._counted(piece)
            crossings = self.evaluator.crossings.of(piece)
            return {**counted, "seconds": max(counted["seconds"], 2 * SLOW_SECONDS), "crossings": crossings}
        crossing = self.evaluator.crossings.parts(piece)
        found = with_crossings(skin.soundness, crossings_of(skin.mesh, skin.part_of, skin.part_ids, crossing))
        parts = self._keep_skin(skin.key, piece, lambda: (skin.mesh, skin.part_of, skin.part_ids))
        view = {"key": skin.key, "triangles": skin.triangles, "parts": parts}
        seconds = max(time.perf_counter() - started, 2 * SLOW_SECONDS)
        crossings = self.evaluator.crossings.of(piece)
        return {"result": view, "soundness": found, "seconds": seconds, "crossings": crossings}

    def _counted(self, piece: Piece, most_crossed: int | None = None) -> dict[str, Any]:
        """The joined skin and its soundness. most_crossed: where more triangles of one part would have to be looked
        through for crossings, the soundness is not told.
        """
        started = time.perf_counter()
        result = self.evaluator.evaluate(piece, crossings=False)
        known = most_crossed is None or self.evaluator.crossings.quick(piece, most_crossed)
        if known:
            result = replace(result, crossing=self.evaluator.crossings.parts(piece))
        found = soundness_values(result) if known else None
        seconds = time.perf_counter() - started
        parts = self._keep_skin(result.key, piece, lambda: (result.mesh, result.part_of, result.part_ids))
        view = {"key": result.key, "triangles": len(result.mesh.triangles), "parts": parts}
        return {"result": view, "soundness": found, "seconds": seconds}

    def adopt(self, piece_id: str, document: dict[str, Any], counted: dict[str, Any]) -> None:
        """From now on patches are made for this skin, which `count` found elsewhere."""
        self.evaluator.crossings.note(counted.get("crossings", {}))
        seconds = self._took.pop(counted["result"]["key"], counted["seconds"])
        shown = Shown(piece_from_values(document), counted["result"], counted["soundness"], seconds)
        self._remember(piece_id, shown)

    def _remember(self, piece_id: str, shown: Shown) -> None:
        self._shown.pop(piece_id, None)
        if shown.soundness["left_out"]:  # a mesh that is missing now may come yet
            return
        self._shown[piece_id] = shown
        if len(self._shown) > MOST_SHOWN:
            self._shown.popitem(last=False)

    def _keep_mesh(self, key: str, make: Callable[[], Mesh]) -> None:
        if not self.files.has(key):
            self.files.write(key, make())

    def export(self, document: dict[str, Any], file_format: str) -> bytes:
        """The piece as a file. Raises PieceError when nothing is left of it."""
        piece = piece_from_values(document)
        result = self.evaluator.evaluate(piece)
        if result.solid.empty:
            raise PieceError(Problem("nothing is left of this piece, so there is nothing to export"))
        return piece_bytes(piece, result, file_format)

    def spot_beside(self, document: dict[str, Any], size: list[float]) -> tuple[float, float]:
        """Where on the wheel a new part of that size is free of all others."""
        return free_spot(size, world_boxes(self.views.of(piece_from_values(document), quick=True)))

    def spot_on(self, document: dict[str, Any], size: list[float], on: dict[str, Any]) -> dict[str, Any]:
        """The floor `on`, its point moved to where a new part of that size is free of all that stands on it."""
        floor = Floor.model_validate(on)
        frame = frame_on(floor)
        boxes = world_boxes(self.views.of(piece_from_values(document), quick=True), inverse(frame))
        x, y = free_spot(size, standing_above(boxes))
        point = frame[:, :3] @ np.array([x, y, 0.0]) + frame[:, 3]
        return floor.model_copy(update={"point": tidy_triple(point)}).model_dump(mode="json")

    def facts(self, document: dict[str, Any], ids: list[str], op: Op | None, bodies: int = 1) -> list[dict[str, Any]]:
        """What joining parts of one list, in this order, does; with op None, what they do as they stand. bodies: how
        many of the first are united before the others enter.
        """
        piece = piece_from_values(document)
        lines: list[Part] = []
        for number, part_id in enumerate(ids):
            part = find(piece, part_id).part
            lines.append(part if op is None else part.model_copy(update={"op": "union" if number < bodies else op}))
        return [asdict(f) for f in join_facts(tuple(lines), self.evaluator)]

    def allow(self, document: dict[str, Any], edit: dict[str, Any]) -> None:
        """Raises PieceError for an edit that only the solids show to be impossible: a split that misses, a shape
        change or blend that cannot be made.
        """
        piece, wanted = piece_from_values(document), edit_from_values(edit)
        wanted.check_solids(piece, self.evaluator.part_solid)
        outcome = apply(piece, wanted)
        for part_id in outcome.chosen:
            self.evaluator.geometry(find(outcome.piece, part_id).part)

    def baked(self, document: dict[str, Any], part_id: str) -> tuple[str, bytes]:
        """A part's mesh in its own frame, as an asset: its SHA-256 and its file. Raises PieceError for an empty one."""
        solid = self.evaluator.geometry(find(piece_from_values(document), part_id).part)
        if solid.empty:
            raise PieceError(Problem("nothing is left of this part, so there is nothing to bake", part_id))
        mesh = solid.mesh_only()
        return asset_bytes(written(mesh, np.zeros(len(mesh.triangles), dtype=np.int64)).mesh)

    def adjust(self, document: dict[str, Any], adjust: dict[str, Any]) -> dict[str, Any]:
        """The edit that makes an adjustment. Raises PieceError where it cannot be made."""
        piece = piece_from_values(document)
        return validated(ADJUST.validate_python, adjust).carry(piece, self.evaluator).model_dump(mode="json")

    def face(self, document: dict[str, Any], eye: list[float], direction: list[float]) -> dict[str, Any]:
        """The face that a ray meets first. Raises PieceError when it meets none."""
        piece = piece_from_values(document)
        found = seen_face(piece, set(), tidy_triple(eye), tidy_triple(direction), self.evaluator)
        return {"point": plain(found.point), "normal": plain(found.normal), "middle": plain(found.middle)}

    def marks(self, document: dict[str, Any]) -> dict[str, Any]:
        """What is odd about how parts meet, as far as it is known within a moment; floating bodies too."""
        piece = piece_from_values(document)
        found, complete = self.neighbours.marks(piece, MARKING_SECONDS)
        return {
            "complete": complete,
            "marks": [
                *({"part": m.part, "state": m.state, "other": m.other, "by": plain(m.by)} for m in found),
                *(self._floating(piece) if complete else ()),
            ],
        }

    def _floating(self, piece: Piece) -> list[dict[str, Any]]:
        """Marks of parts whose body touches nothing; looked for once a result, and not in a piece of many parts, which
        would have to be joined whole.
        """
        if _many(piece):
            return []
        result = self.evaluator.evaluate(piece)
        if self._floats is None or self._floats[0] != result.key:
            loose = loose_bodies(InspectionContext(piece, result, self.neighbours, self.views), cuts=False)
            self._floats = result.key, floating_marks(piece, loose)
        return self._floats[1]

    def draft(
        self, piece_id: str, revision: int, document: dict[str, Any] | None, edit: dict[str, Any]
    ) -> bytes | None:
        """A piece as it would be after an edit, as `draft_bytes` writes it. The document of a revision need not come
        twice in a row. None when it is not known, and has to come along.
        """
        if document is not None:
            self._held = piece_id, revision, piece_from_values(document)
        if self._held is None or self._held[:2] != (piece_id, revision):
            return None
        after = apply(self._held[2], edit_from_values(edit)).piece
        shown = self._shown.get(piece_id)
        if shown is None:
            return draft_bytes(Draft(None, self.evaluator.list_solid(after.parts)), None)
        draft = self.local.draft(shown.piece, after, within=_bounds(shown))
        return draft_bytes(draft, shown.result["key"])

    def asset_key(self, sha256: str) -> str:
        """The key of an asset's own mesh, which is at hand from now on. Raises MeshError when it is not kept."""
        key = hashed(["mesh", sha256])
        self._keep_mesh(key, lambda: self.evaluator.asset(sha256))
        return key

    def needs(self, document: dict[str, Any]) -> dict[str, Any]:
        """What the Mend stage lists of a piece, each with the movement that would mend it."""
        piece = piece_from_values(document)
        result = self.evaluator.evaluate(piece)
        found = find_needs(piece, result, self.neighbours, self.views)
        told = []
        for number, need in enumerate(found.found):
            key = None
            if need.triangles is not None:
                key = f"{result.key[:56]}{number:08x}"
                self._keep_mesh(key, partial(getattr, need, "triangles"))
            told.append(need_values(need, key))
        return {"soundness": soundness_values(result), "needs": told, "all_compared": found.all_compared}


def _many(piece: Piece) -> bool:
    return sum(1 for _ in piece.walk()) > MANY_PARTS


def _meshes(piece: Piece) -> set[str]:
    return {part.mesh.asset for part in piece.walk() if part.mesh is not None}


def _bounds(shown: Shown) -> Floats | None:
    bounds = shown.soundness["bounds"]
    return None if bounds is None else np.array(bounds)
