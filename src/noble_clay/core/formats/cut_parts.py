"""The parts of a cut piece as files, all of them or none."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.read_back import check_read_back
from noble_clay.core.formats.whole_file import write_all_whole
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.written import written
from noble_clay.core.piece.models import CLAY, Piece
from noble_clay.core.piece.tree import shown_colours


def write_parts(folder: Path, stem: str, solids: Sequence[Solid], piece: Piece | None) -> list[Path]:
    """Write each solid as 3MF, with the names and colours that the piece's parts have; what a cut and its pegs add has
    the colour of most of the solid. Raises OSError, and leaves nothing then.
    """
    folder.mkdir(parents=True, exist_ok=True)
    files = [folder / f"{stem}-{number}.3mf" for number in range(1, len(solids) + 1)]
    write_all_whole({f: solid_file(solid, f.stem, piece)[0] for f, solid in zip(files, solids, strict=True)})
    return files


def solid_file(solid: Solid, name: str, piece: Piece | None) -> tuple[bytes, Mesh]:
    """A solid as 3MF, read back and compared, and the mesh that is in it, its points as the file holds them."""
    mesh, parts = as_file_holds(solid, piece)
    data = mesh_bytes(mesh, name, "3mf", parts)
    check_read_back(data, "3mf", mesh)
    return data, mesh


def as_file_holds(solid: Solid, piece: Piece | None) -> tuple[Mesh, NamedParts | None]:
    """A solid's surface as files hold it, and which of a piece's parts each triangle is of. What is of none has the
    colour of most of the solid.
    """
    mesh, part_of, ids = solid.mesh_with_parts()
    found = written(mesh, part_of)
    return found.mesh, None if piece is None else NamedParts(found.part_of, _names(part_of, ids, piece))


def _names(part_of: Ints, ids: Sequence[str], piece: Piece) -> list[tuple[str, str]]:
    """Name and colour of each part that a solid's triangles are of."""
    shown = shown_colours(piece)
    names = {p.id: p.name for p in piece.walk()}
    known = np.array([i in shown for i in ids])
    counts = np.bincount(part_of, minlength=len(ids)) * known
    most = shown[ids[int(np.argmax(counts))]] if counts.any() else CLAY
    return [(names.get(i, "Cut"), shown.get(i, most)) for i in ids]
