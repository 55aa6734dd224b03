"""The bandstand rock: the stage, with a puffer and a bell that live on it, and every other figure of the band on its
place.
"""

from __future__ import annotations

import json
from importlib.resources import files
from typing import Any

from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values

STANDS = {
    "Fiddler crab": ((-63.0, -49.0, 11.6), 0.0),
    "Lantern snail": ((66.0, -34.0, 12.2), 78.0),
    "Drumming octopus": ((-58.0, 31.0, 25.4), 0.0),
}
"""Where a figure's floor stands on the rock, mm, a little within it, and how it is turned about z, degrees."""


def bandstand_rock(figures: list[Piece]) -> Piece:
    """The scene with those of the figures that have a place on it, each one group."""
    values: dict[str, Any] = json.loads((files(__package__) / "bandstand-rock.json").read_bytes())
    for figure in figures:
        if figure.name in STANDS:
            values["parts"].append(_group(figure))
    return piece_from_values(values)


def _group(figure: Piece) -> dict[str, Any]:
    """A piece as one part. The ids of its parts are told apart from those of the others."""
    (x, y, z), turn = STANDS[figure.name]
    short = figure.name.split()[-1].lower()
    return {
        "id": short,
        "name": figure.name,
        "join": {"parts": [_renamed(p, short) for p in figure.dump()["parts"]]},
        "place": {"position": [x, y, z], "rotation": [0, 0, turn]},
    }


def _renamed(part: dict[str, Any], short: str) -> dict[str, Any]:
    found = {**part, "id": f"{short}-{part['id']}"}
    if "join" in part:
        found["join"] = {**part["join"], "parts": [_renamed(p, short) for p in part["join"]["parts"]]}
    return found
