"""Earlier states of a piece, to look at beside what it is now."""

from __future__ import annotations

from typing import Any

from noble_clay.core.sheet.sheet import portrait
from noble_clay.solvers.solver import Solver

SMALL = 192, 132


def pictured(solver: Solver, document: dict[str, Any]) -> bytes:
    """A small PNG of a document's skin. Raises PieceError for one that cannot be made."""
    piece = solver.begun(document)
    return portrait(piece, solver.evaluator.evaluate(piece, crossings=False), *SMALL)


def skin(solver: Solver, document: dict[str, Any]) -> dict[str, Any]:
    """The joined skin of a document, as the view fetches it. Raises PieceError for one that cannot be made."""
    piece = solver.begun(document)
    return solver.skin_of(piece, solver.evaluator.evaluate(piece, crossings=False))
