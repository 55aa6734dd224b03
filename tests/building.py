"""Short ways to write pieces in tests."""

from __future__ import annotations

import itertools
from typing import Any

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.result import Result
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values


def piece(*parts: dict[str, Any], name: str = "Test piece") -> Piece:
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": name, "parts": list(parts)})


def part(part_id: str, kind: str, at: Any = None, turn: Any = None, op: str = "union", **fields: Any) -> dict[str, Any]:
    """A primitive as JSON values; fields of the part itself are given with a leading underscore."""
    own = {k.lstrip("_"): v for k, v in fields.items() if k.startswith("_")}
    shape = {k: v for k, v in fields.items() if not k.startswith("_")}
    place: dict[str, Any] = {}
    if at is not None:
        place["position"] = list(at)
    if turn is not None:
        place["rotation"] = list(turn)
    return {"id": part_id, "op": op, "primitive": {"kind": kind, **shape}, "place": place, **own}


def box(part_id: str, at: Any = (0, 0, 0), size: Any = (1, 1, 1), **more: Any) -> dict[str, Any]:
    return part(part_id, "box", at, size=list(size), **more)


def join(part_id: str, *parts: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": part_id, "join": {"parts": list(parts)}, **more}


_WORMS = itertools.count(1)


def soft_worm(count: int) -> dict[str, Any]:
    """A blended list that takes a core for seconds: about 0.1 of one for each part. No two are alike, so that no cache
    knows it.
    """
    fineness = 0.35 - next(_WORMS) * 1e-5
    balls = [part(f"s{i}", "sphere", (i * 6, (i % 2) * 3, 6), radius=5) for i in range(count)]
    return {"id": "worm", "name": "Worm", "join": {"blend": 3, "fineness": fineness, "parts": balls}}


def evaluated(*parts: dict[str, Any]) -> Result:
    return Evaluator().evaluate(piece(*parts))
