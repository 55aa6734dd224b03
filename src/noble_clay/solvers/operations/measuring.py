"""Points of a piece to measure from."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.measure.spots import sharp_edges, spot_at
from noble_clay.core.piece.edits.carry import unit
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.solver import Solver
from noble_clay.solvers.values import plain


def spot(
    solver: Solver, document: dict[str, Any], eye: list[float], direction: tuple[float, float, float], reach: float
) -> dict[str, Any]:
    """What a ray meets first of a joined piece, caught by what is within reach. Raises PieceError when that is none."""
    parts = piece_from_values(document).parts
    solid = solver.evaluator.list_solid(parts)
    key = solver.evaluator.keys.parts(parts)
    if solver.edges is None or solver.edges[0] != key:
        solver.edges = key, sharp_edges(solid.mesh_only())
    found = spot_at(solid, solver.edges[1], np.array(eye), unit(direction, "direction"), reach)
    if found is None:
        raise PieceError(Problem("there is nothing under the pointer to measure"))
    return {
        "point": plain(found.point),
        "kind": found.kind,
        "normal": plain(found.normal),
        "radius": found.radius,
        "thickness": found.thickness,
    }
