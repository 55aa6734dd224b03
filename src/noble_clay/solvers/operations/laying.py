"""How a piece lies on the bed, and whether it stands."""

from __future__ import annotations

from typing import Any

from noble_clay.core.errors import ClayError, PieceError, Problem
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.piece.tree import shown_colours
from noble_clay.core.printing import steadying
from noble_clay.core.printing.bed import Bed
from noble_clay.core.printing.plate import Laid, ToLay, beds_of, lay_out
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
        for s in steadying.steadyings(piece, result, solver.evaluator.evaluate)
    ]


def lie(
    solver: Solver,
    document: dict[str, Any],
    bed: dict[str, Any],
    printer: dict[str, Any],
    beside: list[dict[str, Any]],
    edit: dict[str, Any] | None = None,
) -> dict[str, Any]:
    """Where the piece and its copies come to lie, and what lies beside them: of each other piece its document, bed and
    copies. edit: tried out, all is told as it would be after it. Raises PieceError for a piece of which nothing is
    left; of the others, that is told.
    """
    piece = piece_from_values(document)
    if edit is not None:
        piece = apply(piece, edit_from_values(edit)).piece
    result = solver.evaluator.evaluate(piece)
    if result.solid.empty:
        raise PieceError(Problem("nothing is left of this piece, so there is nothing to print"))
    asked = Bed.model_validate(bed)
    things = [ToLay(result.written.mesh, asked, asked.copies)]
    shown = [_other(solver, each, things) for each in beside]
    laid, *others = lay_out(things, Printer.model_validate(printer), asked.gap)
    stands = standing(laid.mesh)
    laid_others = iter(others)
    return {
        **_values(laid),
        "beds": beds_of([laid, *others]),
        "stands": stands.stands,
        "support": stands.support.tolist(),
        "centre": stands.centre.tolist(),
        "tip_angle": stands.tip_angle,
        "tip_towards": stands.tip_towards,
        "floor_area": stands.floor_area,
        "result": solver.skin_of(piece, result) if edit is not None else None,
        "colours": shown_colours(piece) if edit is not None else {},
        "beside": [{**one, "lies": None if one["problem"] else _values(next(laid_others))} for one in shown],
    }


def _values(laid: Laid) -> dict[str, Any]:
    return {
        "placing": laid.placing.reshape(-1).tolist(),
        "size": laid.size.tolist(),
        "fits": laid.fits,
        "spots": [(s.x, s.y, s.turned, s.bed) for s in laid.spots],
    }


def _other(solver: Solver, asked: dict[str, Any], things: list[ToLay]) -> dict[str, Any]:
    """Another piece's skin as the view shows it, or why there is none; it is put to the things to lay."""
    found: dict[str, Any] = {"problem": None, "result": None, "colours": {}}
    try:
        piece = piece_from_values(asked["document"])
        result = solver.evaluator.evaluate(piece)
    except ClayError as error:
        return {**found, "problem": str(error)}
    if result.solid.empty:
        return {**found, "problem": "nothing is left of it"}
    things.append(ToLay(result.written.mesh, Bed.model_validate(asked["bed"]), asked["copies"]))
    return {**found, "result": solver.skin_of(piece, result), "colours": shown_colours(piece)}
