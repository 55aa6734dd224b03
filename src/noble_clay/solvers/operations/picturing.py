"""More to look at than a piece as it is now: what a plane cuts of it, and its earlier states."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.measure.section import section
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.edits.carry import unit
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


def cut_face(solver: Solver, key: str, normal: tuple[float, float, float], at: float) -> dict[str, Any]:
    """What a plane cuts of a skin that is at hand. Raises MeshError when it is not."""
    mesh, part_of = solver.files.read(key)
    found = section(mesh, part_of, unit(normal, "normal"), at)
    return {
        "area_mm2": found.area,
        "outline_mm": found.length,
        "triangles": _flat(found.triangles),
        "outline": _flat(found.outline),
        "hatching": _flat(found.hatching),
        "hatched": found.hatched.tolist(),
    }


def _flat(points: Floats) -> list[float]:
    """Coordinates one after the other, mm, as finely as they can be drawn."""
    found: list[float] = np.round(points, 4).ravel().tolist()
    return found
