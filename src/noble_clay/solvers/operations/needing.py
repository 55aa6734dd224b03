"""What a joined piece still needs."""

from __future__ import annotations

from functools import partial
from typing import Any

from noble_clay.core.needs.find import find_needs
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.solver import Solver
from noble_clay.solvers.values import need_values, soundness_values


def needs(solver: Solver, document: dict[str, Any]) -> dict[str, Any]:
    """What the Mend stage lists of a piece, each with the movement that would mend it."""
    piece = piece_from_values(document)
    result = solver.evaluator.evaluate(piece)
    found = find_needs(piece, result, solver.neighbours, solver.views)
    told = []
    for number, need in enumerate(found.found):
        key = None
        if need.triangles is not None:
            key = f"{result.key[:56]}{number:08x}"
            solver.keep_mesh(key, partial(getattr, need, "triangles"))
        told.append(need_values(need, key))
    return {"soundness": soundness_values(result), "needs": told, "all_compared": found.all_compared}
