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


def scales(count: int, facets: int = 64) -> Piece:
    """A large ball, `count` - 1 small ones set over it like scales, each overlapping its neighbours."""
    small = 5.0
    radius = small * math.sqrt(count) / 2.4
    parts = [{"id": "body", "primitive": {"kind": "sphere", "radius": radius, "facets": facets}}]
    for i in range(count - 1):
        lean = math.acos(1 - 2 * (i + 0.5) / (count - 1))
        turn = math.pi * (1 + math.sqrt(5)) * (i + 0.5)
        at = [math.cos(turn) * math.sin(lean), math.sin(turn) * math.sin(lean), math.cos(lean)]
        parts.append(_ball(f"p{i}", [radius * c for c in at], small, facets))
    return _piece(f"Scales of {count}", parts)


def wall(count: int, facets: int = 64) -> Piece:
    """Balls side by side and above each other, each overlapping four others."""
    wide = max(1, round(math.sqrt(count * 2)))
    parts = [_ball(f"p{i}", [8.0 * (i % wide), 0.3 * (i % 3), 8.0 * (i // wide)], 5.0, facets) for i in range(count)]
    return _piece(f"Wall of {count}", parts)


def strand(count: int, facets: int = 64) -> Piece:
    """Balls along a spiral, each overlapping the next."""
    parts = []
    for i in range(count):
        turn = math.sqrt(i * 4.0 + 9)
        at = [turn * 3.2 * math.cos(turn), turn * 3.2 * math.sin(turn), 0.2 * (i % 5)]
        parts.append(_ball(f"p{i}", at, 5.0, facets))
    return _piece(f"Strand of {count}", parts)


LAYOUTS = {"scales": scales, "chain": strand, "wall": wall}
"""Pieces of any number of overlapping parts, all added."""


def _ball(part_id: str, at: list[float], radius: float, facets: int) -> dict[str, object]:
    primitive = {"kind": "sphere", "radius": radius, "facets": facets}
    return {"id": part_id, "primitive": primitive, "place": {"position": [round(c, 6) for c in at]}}


def _piece(name: str, parts: list[dict[str, object]]) -> Piece:
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": name, "parts": parts})


def document(piece: Piece) -> dict[str, object]:
    found: dict[str, object] = json.loads(json.dumps(piece.dump()))
    return found
