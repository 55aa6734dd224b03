"""What the view shows of a piece: its joined skin, where its parts stand, whether it is sound."""

from __future__ import annotations

import time
from contextlib import suppress
from typing import Any

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.drafts import Draft
from noble_clay.core.evaluate.keys import hashed
from noble_clay.core.mesh.skin_crossings import crossings_of
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.solver import Shown, Solver, is_large
from noble_clay.solvers.values import view_values, with_crossings

HEAVY_TRIANGLES = 500_000
"""A piece into which a mesh of more triangles comes is shown part by part: to make it a solid takes seconds."""

MOST_CROSSED = 8_000
"""Triangles of a part whose crossings are looked for before the answer."""

SLOW_SECONDS = 0.6
"""A piece that takes longer to join is patched where it changes, and counted after the answer."""

TILED_PARTS = 24
"""A piece of at least so many parts is counted tile by tile."""


def show(solver: Solver, piece_id: str, document: dict[str, Any]) -> dict[str, Any]:
    """What the view needs of a piece: mesh keys, placements, sizes and soundness.

    Of a piece that takes long to join, the answer is the skin that is known and a patch for where it differs by
    now; its soundness is not known then, and `count` finds it.
    """
    started = time.perf_counter()
    piece = solver.begun(document)
    joined = _joined(solver, piece_id, piece)
    kernel = time.perf_counter() - started
    return {
        **joined,
        "parts": [view_values(v) for v in solver.views.of(piece)],
        "seconds": {"evaluate": kernel, "all": time.perf_counter() - started},
    }


def outline(solver: Solver, document: dict[str, Any]) -> list[dict[str, Any]]:
    """Where the parts of a piece stand, without making any: for a piece that is still being made."""
    return [view_values(v) for v in solver.views.of(piece_from_values(document), quick=True)]


def _joined(solver: Solver, piece_id: str, piece: Piece) -> dict[str, Any]:
    shown = solver.shown.get(piece_id)
    if shown is not None and not solver.files.has(shown.result["key"]):
        shown = None
    if shown is not None and solver.evaluator.keys.parts(shown.piece.parts) == solver.evaluator.keys.parts(piece.parts):
        return {"result": shown.result, "patch": None, "soundness": shown.soundness}
    if (is_large(piece) and (shown is None or not is_large(shown.piece))) or _brings_heavy(solver, piece, shown):
        return {"result": None, "patch": None, "soundness": None}
    if shown is not None and shown.seconds > SLOW_SECONDS:
        draft = solver.local.draft(shown.piece, piece, within=shown.bounds)
        if draft.box is not None:
            return {"result": shown.result, "patch": _patch(solver, shown, piece, draft), "soundness": None}
    found = solver.counted(piece, MOST_CROSSED)
    if found["soundness"] is None:
        solver.took[found["result"]["key"]] = found["seconds"]
    else:
        solver.remember(piece_id, Shown(piece, found["result"], found["soundness"], found["seconds"]))
    return {"result": found["result"], "patch": None, "soundness": found["soundness"]}


def _brings_heavy(solver: Solver, piece: Piece, shown: Shown | None) -> bool:
    """Whether a piece has a heavy mesh that what is shown of it has not."""
    known = _meshes(shown.piece) if shown is not None else set[str]()
    for sha256 in _meshes(piece) - known:
        with suppress(MeshError):  # one that is not there is told when the piece is joined
            if len(solver.evaluator.asset(sha256).triangles) > HEAVY_TRIANGLES:
                return True
    return False


def _patch(solver: Solver, shown: Shown, piece: Piece, draft: Draft) -> dict[str, Any]:
    """A draft as a mesh file."""
    assert draft.box is not None
    key = hashed(["patch", shown.result["key"], solver.evaluator.keys.parts(piece.parts), draft.box.tolist()])
    parts = solver.keep_skin(key, piece, draft.solid.mesh_with_parts)
    return {"key": key, "parts": parts, "box": draft.box.tolist()}


def count(solver: Solver, piece_id: str, document: dict[str, Any]) -> dict[str, Any]:
    """The whole joined skin of a piece, and its soundness, however long that takes. It is a slow piece then."""
    started = time.perf_counter()
    piece = solver.begun(document)
    skin = solver.tiles.skin(piece_id, piece) if sum(1 for _ in piece.walk()) >= TILED_PARTS else None
    if skin is None:
        counted = solver.counted(piece)
        crossings = solver.evaluator.crossings.of(piece)
        return {**counted, "seconds": max(counted["seconds"], 2 * SLOW_SECONDS), "crossings": crossings}
    crossing = solver.evaluator.crossings.parts(piece)
    found = with_crossings(skin.soundness, crossings_of(skin.mesh, skin.part_of, skin.part_ids, crossing))
    parts = solver.keep_skin(skin.key, piece, lambda: (skin.mesh, skin.part_of, skin.part_ids))
    view = {"key": skin.key, "triangles": skin.triangles, "parts": parts}
    seconds = max(time.perf_counter() - started, 2 * SLOW_SECONDS)
    crossings = solver.evaluator.crossings.of(piece)
    return {"result": view, "soundness": found, "seconds": seconds, "crossings": crossings}


def adopt(solver: Solver, piece_id: str, document: dict[str, Any], counted: dict[str, Any]) -> None:
    """From now on patches are made for this skin, which `count` found elsewhere."""
    solver.evaluator.crossings.note(counted.get("crossings", {}))
    seconds = solver.took.pop(counted["result"]["key"], counted["seconds"])
    shown = Shown(piece_from_values(document), counted["result"], counted["soundness"], seconds)
    solver.remember(piece_id, shown)


def _meshes(piece: Piece) -> set[str]:
    return {part.mesh.asset for part in piece.walk() if part.mesh is not None}
