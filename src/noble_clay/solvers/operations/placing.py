"""Where something new goes, and placing by what stands around."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.adjust import ADJUST
from noble_clay.core.adjust.adjust import Floor, frame_on, standing_above, tidy_triple
from noble_clay.core.adjust.seat import seen_face
from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.evaluate.view import world_boxes
from noble_clay.core.measure.backdrop import backdrop
from noble_clay.core.measure.beside import free_spot
from noble_clay.core.mesh.affine import inverse
from noble_clay.core.piece.read import piece_from_values, validated
from noble_clay.solvers.solver import Solver
from noble_clay.solvers.values import plain


def spot_beside(solver: Solver, document: dict[str, Any], size: list[float]) -> tuple[float, float]:
    """Where on the wheel a new part of that size is free of all others."""
    return free_spot(size, world_boxes(solver.views.of(piece_from_values(document), quick=True)))


def spot_on(solver: Solver, document: dict[str, Any], size: list[float], on: dict[str, Any]) -> dict[str, Any]:
    """The floor `on`, its point moved to where a new part of that size is free of all that stands on it."""
    floor = Floor.model_validate(on)
    frame = frame_on(floor)
    boxes = world_boxes(solver.views.of(piece_from_values(document), quick=True), inverse(frame))
    x, y = free_spot(size, standing_above(boxes))
    point = frame[:, :3] @ np.array([x, y, 0.0]) + frame[:, 3]
    return floor.model_copy(update={"point": tidy_triple(point)}).model_dump(mode="json")


def around(solver: Solver, document: dict[str, Any], part_id: str) -> list[list[list[float]]]:
    """Rings of what stands around a drawn part, in its drawing's coordinates. Raises PieceError for another part."""
    return [ring.tolist() for ring in backdrop(piece_from_values(document), part_id, solver.evaluator)]


def standing(solver: Solver, document: dict[str, Any]) -> list[list[float]]:
    """Lowest and highest corner of what a piece comes to, mm. Raises PieceError for one that comes to nothing."""
    solid = solver.evaluator.list_solid(piece_from_values(document).parts)
    if solid.empty:
        raise PieceError(Problem("nothing is left of these, so there is nothing to keep"))
    found: list[list[float]] = plain(solid.bounds)
    return found


def adjust(solver: Solver, document: dict[str, Any], adjust: dict[str, Any]) -> dict[str, Any]:
    """The edit that makes an adjustment. Raises PieceError where it cannot be made."""
    piece = piece_from_values(document)
    return validated(ADJUST.validate_python, adjust).carry(piece, solver.evaluator).model_dump(mode="json")


def face(solver: Solver, document: dict[str, Any], eye: list[float], direction: list[float]) -> dict[str, Any]:
    """The face that a ray meets first. Raises PieceError when it meets none."""
    piece = piece_from_values(document)
    found = seen_face(piece, set(), tidy_triple(eye), tidy_triple(direction), solver.evaluator)
    return {"point": plain(found.point), "normal": plain(found.normal), "middle": plain(found.middle)}
