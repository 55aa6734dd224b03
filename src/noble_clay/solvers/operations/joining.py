"""What joins and changes do, and how parts meet: asked before a step is kept, or after."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.formats.pieces import asset_bytes
from noble_clay.core.measure.joins import join_facts
from noble_clay.core.mesh.written import written
from noble_clay.core.needs.loose_bodies import loose_bodies
from noble_clay.core.needs.need import InspectionContext
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.edits.fields import SetPart
from noble_clay.core.piece.models import Op, Part, Piece
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.piece.tree import find
from noble_clay.solvers.solver import Solver, is_large
from noble_clay.solvers.values import floating_marks, plain

MARKING_SECONDS = 0.08
"""How long the marks of the parts' touching are looked for before the answer."""


def facts(
    solver: Solver, document: dict[str, Any], ids: list[str], op: Op | None, bodies: int = 1
) -> list[dict[str, Any]]:
    """What joining parts of one list, in this order, does; with op None, what they do as they stand. bodies: how
    many of the first are united before the others enter.
    """
    piece = piece_from_values(document)
    lines: list[Part] = []
    for number, part_id in enumerate(ids):
        part = find(piece, part_id).part
        lines.append(part if op is None else part.model_copy(update={"op": "union" if number < bodies else op}))
    return [asdict(f) for f in join_facts(tuple(lines), solver.evaluator)]


def allow(solver: Solver, document: dict[str, Any], edit: dict[str, Any]) -> None:
    """Raises PieceError for an edit that only the solids show to be impossible: a split that misses, a shape
    change or blend that cannot be made.
    """
    piece, wanted = piece_from_values(document), edit_from_values(edit)
    wanted.check_solids(piece, solver.evaluator.part_solid)
    outcome = apply(piece, wanted)
    for part_id in outcome.chosen:
        spot = find(outcome.piece, part_id)
        solver.evaluator.geometry(spot.part)
        if isinstance(wanted, SetPart):  # over how much it runs into its list, is for the list to say
            if spot.parents:
                solver.evaluator.geometry(spot.parents[-1])
            else:
                solver.evaluator.list_solid(outcome.piece.parts)


def baked(solver: Solver, document: dict[str, Any], part_id: str) -> tuple[str, bytes]:
    """A part's mesh in its own frame, as an asset: its SHA-256 and its file. Raises PieceError for an empty one."""
    solid = solver.evaluator.geometry(find(piece_from_values(document), part_id).part)
    if solid.empty:
        raise PieceError(Problem("nothing is left of this part, so there is nothing to bake", part_id))
    mesh = solid.mesh_only()
    return asset_bytes(written(mesh, np.zeros(len(mesh.triangles), dtype=np.int64)).mesh)


def marks(solver: Solver, document: dict[str, Any]) -> dict[str, Any]:
    """What is odd about how parts meet, as far as it is known within a moment; floating bodies too."""
    piece = piece_from_values(document)
    found, complete = solver.neighbours.marks(piece, MARKING_SECONDS)
    return {
        "complete": complete,
        "marks": [
            *({"part": m.part, "state": m.state, "other": m.other, "by": plain(m.by)} for m in found),
            *(_floating(solver, piece) if complete else ()),
        ],
    }


def _floating(solver: Solver, piece: Piece) -> list[dict[str, Any]]:
    """Marks of parts whose body touches nothing; looked for once a result, and not in a piece of many parts, which
    would have to be joined whole.
    """
    if is_large(piece):
        return []
    result = solver.evaluator.evaluate(piece)
    if solver.floats is None or solver.floats[0] != result.key:
        loose = loose_bodies(InspectionContext(piece, result, solver.neighbours, solver.views), cuts=False)
        solver.floats = result.key, floating_marks(piece, loose)
    return solver.floats[1]
