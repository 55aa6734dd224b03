"""The demo: the piece files beside this module, the rock that they all stand on, and a bell that arrives broken."""

from __future__ import annotations

from importlib.resources import files

from noble_clay.core.formats.pieces import PieceFile, asset_bytes
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_json, piece_from_values
from noble_clay.demo.bandstand_rock import bandstand_rock
from noble_clay.demo.barnacle_bell import NAME, barnacle_bell


def demo_pieces() -> list[Piece]:
    """Every piece of the demo that is built from primitives, in the order of their file names."""
    found = [f for f in files(__package__).iterdir() if f.name.endswith(".clay.json")]
    return [piece_from_json(f.read_bytes()) for f in sorted(found, key=lambda f: f.name)]


def demo_files() -> list[PieceFile]:
    """All of the demo, with the meshes that belong to it."""
    figures = demo_pieces()
    return [PieceFile(bandstand_rock(figures)), _bell(), *(PieceFile(figure) for figure in figures)]


def _bell() -> PieceFile:
    mesh = barnacle_bell()
    sha256, data = asset_bytes(mesh)
    part = {
        "id": "bell",
        "name": "Bell, as found",
        "mesh": {"asset": sha256},
        "place": {"position": [0, 0, round(-float(mesh.vertices[:, 2].min()), 3)]},
        "colour": "#a9c4b0",
    }
    values = {"format": "noble-clay-piece", "version": 1, "name": NAME, "parts": [part]}
    return PieceFile(piece_from_values(values), {sha256: data})
