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


def soft(piece: Piece, blend: float) -> Piece:
    """All parts of a piece in one list that runs together."""
    parts = [part.model_dump(mode="json", exclude_defaults=True) for part in piece.parts]
    return _piece(piece.name, [{"id": "soft", "join": {"blend": blend, "parts": parts}}])


def figure() -> Piece:
    """A standing figure of 13 parts: body, head, limbs, feet, ears, muzzle, tail, and a mouth cut in."""
    parts: list[dict[str, object]] = [
        _part("body", {"kind": "egg", "width": 26, "height": 34, "bias": 0.3}, (0, 0, 22)),
        _part("head", {"kind": "sphere", "radius": 10}, (0, 0, 46)),
    ]
    for side, name in ((1, "left"), (-1, "right")):
        parts += [
            _part(f"{name}-arm", {"kind": "capsule", "radius": 4, "length": 22}, (14 * side, 0, 28), (0, 60 * side, 0)),
            _part(f"{name}-leg", {"kind": "capsule", "radius": 5, "length": 24}, (7 * side, 0, 4), (0, -10 * side, 0)),
            _part(f"{name}-foot", {"kind": "ellipsoid", "radii": [7, 10, 3]}, (8 * side, -4, -6)),
            _part(f"{name}-ear", {"kind": "ellipsoid", "radii": [3, 3, 6]}, (6 * side, 0, 55), (0, 20 * side, 0)),
        ]
    parts += [
        _part("muzzle", {"kind": "ellipsoid", "radii": [4, 4, 3]}, (0, -9, 45)),
        _part("tail", {"kind": "capsule", "radius": 2, "length": 10}, (0, 13, 18), (60, 0, 0)),
        _part("mouth", {"kind": "ellipsoid", "radii": [4, 3, 1.5]}, (0, -10, 41)) | {"op": "difference"},
    ]
    return _piece("Figure", parts)


def octopus() -> Piece:
    """A head and eight arms of twelve balls each."""
    parts = [_ball("head", [0, 0, 0], 14.0, 64)]
    for arm in range(8):
        for k in range(12):
            turn, reach = arm * math.pi / 4 + k * 0.08, 12 + k * 3.2
            at = [reach * math.cos(turn), reach * math.sin(turn), -6 + 0.05 * k * k]
            parts.append(_ball(f"arm{arm}-{k}", at, 4.2 - k * 0.25, 32))
    return _piece("Octopus", parts)


def two_boxes() -> Piece:
    parts = [
        _part("a", {"kind": "box", "size": [20, 20, 20]}, (0, 0, 0)),
        _part("b", {"kind": "box", "size": [20, 20, 20]}, (10, 7, 10)),
    ]
    return _piece("Two boxes", parts)


def _part(
    part_id: str, primitive: dict[str, object], at: tuple[float, ...], turn: tuple[float, ...] = (0, 0, 0)
) -> dict[str, object]:
    return {"id": part_id, "primitive": primitive, "place": {"position": list(at), "rotation": list(turn)}}
