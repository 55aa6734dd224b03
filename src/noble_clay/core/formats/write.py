"""Writing an evaluated piece or a mesh to a file of any known format."""

from __future__ import annotations

from noble_clay.core.evaluate.result import Result
from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.tree import shown_colours


def piece_bytes(piece: Piece, result: Result, file_format: str) -> bytes:
    """An evaluated piece as the bytes of a file; what that keeps of names and colours, the format's `about` says."""
    return mesh_bytes(result.written.mesh, piece.name, file_format, named_parts(piece, result))


def named_parts(piece: Piece, result: Result) -> NamedParts:
    """Which of the piece's parts each triangle is of that is written."""
    shown = shown_colours(piece)
    names = {p.id: p.name for p in piece.walk()}
    return NamedParts(result.written.part_of, [(names[i], shown[i]) for i in result.part_ids])


def mesh_bytes(mesh: Mesh, name: str, file_format: str, parts: NamedParts | None = None) -> bytes:
    """A mesh, mm, as the bytes of a file of one of `FORMATS`; what has no room for its parts leaves them out."""
    return FORMATS[file_format].write(mesh, name, parts)
