"""The demo pieces, from the piece files beside this module."""

from __future__ import annotations

from importlib.resources import files

from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_json


def demo_pieces() -> list[Piece]:
    """Every piece of the demo, in the order of their file names."""
    found = [f for f in files(__package__).iterdir() if f.name.endswith(".clay.json")]
    return [piece_from_json(f.read_bytes()) for f in sorted(found, key=lambda f: f.name)]
