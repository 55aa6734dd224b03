"""How a piece lies on the bed, and whether it stands."""

from __future__ import annotations

from typing import Any

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.printing import steadying
from noble_clay.core.printing.arranging import arranged, footprint
from noble_clay.core.printing.bed import Bed, laid
from noble_clay.core.printing.check import fits
from noble_clay.core.printing.profiles import Printer
from noble_clay.core.printing.standing import standing
from noble_clay.solvers.solver import Solver


def steadyings(solver: Solver, document: dict[str, Any]) -> list[dict[str, Any]]:
    """What would make the piece stand better, each with the edit of its recipe. Nothing for one that is not closed."""
    piece = piece_from_values(document)
    result = solver.evaluator.evaluate(piece)
    if result.solid.empty or not result.inspection.manifold:
        return []
    return [
        {"how": s.how, "by": s.by, "tip_angle": s.tip_angle, "edit": s.edit.model_dump(mode="json")}
        for s in steadying.steadyings(piece, result.mesh)
    ]


def lie(solver: Solver, document: dict[str, Any], bed: dict[str, Any], printer: dict[str, Any]) -> dict[str, Any]:
    """Where the piece and its copies come to lie. Raises PieceError for one of which nothing is left."""
    result = solver.evaluator.evaluate(piece_from_values(document))
    if result.solid.empty:
        raise PieceError(Problem("nothing is left of this piece, so there is nothing to print"))
    asked, machine = Bed.model_validate(bed), Printer.model_validate(printer)
    mesh = result.written.mesh
    placing = asked.placing(mesh)
    lying = laid(mesh, placing)
    size = (lying.vertices.max(axis=0) - lying.vertices.min(axis=0)).tolist()
    solid = manifold_of(lying)
    room = fits(size, machine)
    spots = arranged([footprint(solid)] * asked.copies, machine.bed[0], machine.bed[1], asked.gap) if room else []
    stands = standing(lying)
    return {
        "placing": placing.reshape(-1).tolist(),
        "size": size,
        "fits": room,
        "spots": [(s.x, s.y, s.turned) for s in spots if s is not None],
        "stands": stands.stands,
        "support": stands.support.tolist(),
        "centre": stands.centre.tolist(),
        "tip_angle": stands.tip_angle,
        "tip_towards": stands.tip_towards,
        "floor_area": stands.floor_area,
    }
