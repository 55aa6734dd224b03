"""What a solver answers, as plain values that go through a pipe and into JSON."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

import numpy as np

from noble_clay.core.evaluate.result import Result
from noble_clay.core.evaluate.view import PartView
from noble_clay.core.mesh.tolerances import CONTACT
from noble_clay.core.needs.loose_bodies import copied_whole
from noble_clay.core.needs.need import Need
from noble_clay.core.piece.edits.fields import Move
from noble_clay.core.piece.models import Piece
from noble_clay.core.printing.standing import set_down, standing


def soundness_values(result: Result) -> dict[str, Any]:
    """What is told of a piece with every answer."""
    inspection = result.inspection
    return {
        **inspection.values(),
        "sound": inspection.sound and not result.left_out,
        "tip_angle": tip_angle(result),
        "left_out": [{"part": part, "why": why} for part, why in result.left_out.items()],
    }


def tip_angle(result: Result) -> float | None:
    """Degrees that a piece may be tipped before it falls over, 0 where it does by itself; None for several bodies."""
    if result.inspection.bodies != 1 or not result.inspection.manifold:
        return None
    return standing(set_down(result.mesh)).tip_angle


def with_crossings(soundness: dict[str, Any], crossings: int) -> dict[str, Any]:
    """What is told of a piece whose skin crosses itself so often."""
    if not crossings:
        return soundness
    found = {"kind": "self_intersections", "count": crossings}
    return {**soundness, "sound": False, "findings": [*soundness["findings"], found]}


def plain(array: Any) -> Any:
    return None if array is None else array.tolist()


def view_values(view: PartView) -> dict[str, Any]:
    """A part as the page draws it: rows of 3 x 4, one a copy."""
    return {
        "id": view.id,
        "key": view.key,
        "matrices": view.matrices.reshape(-1, 12).tolist(),
        "own": plain(view.own),
        "size": plain(view.size),
        "box": plain(view.box),
        "chord_error": view.chord_error,
        "drawn_origin": view.drawn_origin,
        "handles": [{"change": index, **asdict(handle)} for index, handle in view.handles],
    }


def floating_marks(piece: Piece, bodies: Iterable[Need]) -> list[dict[str, Any]]:
    """The marks of loose bodies' parts; of those that touch the rest they are another kind. Of copies that stand apart
    it is told once, on what is copied.
    """
    found: dict[tuple[str, str], dict[str, Any]] = {}
    for body in bodies:
        gap = body.measures["gap_mm"]
        if gap < CONTACT:
            continue
        copied = copied_whole(piece, body.parts)
        sink = next((r for r in body.remedies if r.how == "sink"), None)
        by = list(sink.edit.by) if sink is not None and isinstance(sink.edit, Move) else None
        parts = [copied] if copied else [sink.part] if sink is not None else body.parts
        state = "copies_apart" if copied else "floats"
        for part in parts:
            mark = {"part": part, "state": state, "other": body.other, "by": by, "gap": gap}
            known = found.setdefault((part, state), mark)
            known["gap"] = min(known["gap"], gap)
    apart = {part for part, state in found if state == "copies_apart"}
    return [mark for (part, state), mark in found.items() if state == "copies_apart" or part not in apart]


def need_values(need: Need, key: str | None) -> dict[str, Any]:
    return {
        "kind": need.kind,
        "severity": need.severity,
        "parts": list(need.parts),
        "other": need.other,
        "at": need.at.tolist(),
        "size_mm": need.size,
        "measures": need.measures,
        "along": need.along,
        "key": key,
        "faces": np.round(need.faces, 5).reshape(-1).tolist(),
        "remedies": [
            {"how": r.how, "part": r.part, "by_mm": r.by, "edit": r.edit.model_dump(mode="json", exclude_unset=True)}
            for r in need.remedies
        ],
    }
