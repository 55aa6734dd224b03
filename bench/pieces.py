"""Pieces to measure with: the crab, and generated ones of any number of parts."""

from __future__ import annotations

import json
import math

from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values
from noble_clay.demo.loader import demo_pieces


def crab() -> Piece:
    return next(p for p in demo_pieces() if p.name == "Fiddler crab")


def chain(count: int, facets: int = 64) -> Piece:
    """`count` overlapping round parts along a spiral; the last fifth are cutters."""
    parts = []
    for i in range(count):
        turn = i if i < count * 0.8 else (i - count * 0.8) * 4
        angle, reach = turn * 0.35, 20 + turn * 0.6
        kind = (
            {"kind": "sphere", "radius": 6, "facets": facets}
            if i % 3
            else {"kind": "capsule", "radius": 5, "length": 18, "facets": facets}
        )
        parts.append(
            {
                "id": f"p{i}",
                "op": "difference" if i >= count * 0.8 else "union",
                "primitive": kind,
                "place": {
                    "position": [reach * math.cos(angle), reach * math.sin(angle), 6 + (i % 4)],
                    "rotation": [0, i * 7 % 90, 0],
                },
            }
        )
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": f"Chain of {count}", "parts": parts})


def document(piece: Piece) -> dict[str, object]:
    found: dict[str, object] = json.loads(json.dumps(piece.dump()))
    return found
