"""A piece as it would be, while something is dragged."""

from __future__ import annotations

from typing import Any

from noble_clay.core.evaluate.drafts import Draft
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.draft_bytes import draft_bytes
from noble_clay.solvers.solver import Solver


def draft(
    solver: Solver, piece_id: str, revision: int, document: dict[str, Any] | None, edit: dict[str, Any]
) -> bytes | None:
    """A piece as it would be after an edit, as `draft_bytes` writes it. The document of a revision need not come
    twice in a row. None when it is not known, and has to come along.
    """
    if document is not None:
        solver.held = piece_id, revision, piece_from_values(document)
    if solver.held is None or solver.held[:2] != (piece_id, revision):
        return None
    after = apply(solver.held[2], edit_from_values(edit)).piece
    shown = solver.shown.get(piece_id)
    if shown is None:
        return draft_bytes(Draft(None, solver.evaluator.list_solid(after.parts)), None)
    draft = solver.local.draft(shown.piece, after, within=shown.bounds)
    return draft_bytes(draft, shown.result["key"])
