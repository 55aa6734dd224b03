"""Writing an evaluated piece or a mesh to a file of any known format."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.formats.rounding import rounded
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.formats.threemf_write import threemf_bytes
from noble_clay.core.mesh import Mesh
from noble_clay.core.piece.models import CLAY, Part, Piece
from noble_clay.core.solid.evaluate import Result


def piece_bytes(piece: Piece, result: Result, file_format: str) -> bytes:
    """An evaluated piece as the bytes of a file. 3MF keeps the parts' names and colours; the others the shape only."""
    mesh, part_of, part_ids = result.written.mesh, result.written.part_of, result.part_ids
    if file_format != "3mf":
        return mesh_bytes(mesh, piece.name, file_format)
    shown = shown_colours(piece)
    names = {p.id: p.name for p in piece.walk()}
    return mesh_bytes(mesh, piece.name, file_format, part_of, [(names[i], shown[i]) for i in part_ids])


def mesh_bytes(
    mesh: Mesh,
    name: str,
    file_format: str,
    part_of: NDArray[np.int64] | None = None,
    parts: list[tuple[str, str]] | None = None,
) -> bytes:
    """A mesh as the bytes of a file of one of `FORMATS`. part_of: (m,) index into `parts`, (name, #rrggbb), for 3MF."""
    if file_format == "stl":
        return stl_bytes(rounded(mesh), name)
    if file_format == "3mf":
        if part_of is None or parts is None:
            part_of, parts = np.zeros(len(mesh.triangles), dtype=np.int64), [(name, CLAY)]
        return threemf_bytes(rounded_triangles(mesh), name, part_of, parts)
    ready = rounded(mesh) if file_format in ("ply", "glb") else mesh
    import trimesh

    exported = trimesh.Trimesh(ready.vertices, ready.triangles, process=False).export(file_type=file_format)
    return exported.encode() if isinstance(exported, str) else bytes(exported)


def rounded_triangles(mesh: Mesh) -> Mesh:
    """Points rounded to float32 with every triangle kept, for formats whose triangles carry properties."""
    return Mesh(mesh.vertices.astype(np.float32).astype(np.float64), mesh.triangles)


def shown_colours(piece: Piece) -> dict[str, str]:
    """The colour of every part: its own, else that of the nearest join around it that has one, else clay."""
    found: dict[str, str] = {}

    def colour(parts: tuple[Part, ...], inherited: str) -> None:
        for part in parts:
            found[part.id] = part.colour or inherited
            colour(part.children, found[part.id])

    colour(piece.parts, CLAY)
    return found
