"""The parts of a cut piece as files, all of them or none."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.write import mesh_bytes, shown_colours
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.written import written
from noble_clay.core.piece.models import CLAY, Piece


def write_parts(folder: Path, stem: str, solids: Sequence[Solid], piece: Piece | None) -> list[Path]:
    """Write each solid as 3MF, with the names and colours that the piece's parts have; what a cut and its pegs add has
    the colour of most of the solid. Raises OSError, and leaves nothing then.
    """
    folder.mkdir(parents=True, exist_ok=True)
    files = [folder / f"{stem}-{number}.3mf" for number in range(1, len(solids) + 1)]
    waiting = [file.with_suffix(".part") for file in files]
    try:
        for name, solid in zip(waiting, solids, strict=True):
            name.write_bytes(solid_bytes(solid, name.stem, piece))
        for name, file in zip(waiting, files, strict=True):
            name.replace(file)
    finally:
        for name in waiting:
            name.unlink(missing_ok=True)
    return files


def solid_bytes(solid: Solid, name: str, piece: Piece | None) -> bytes:
    """A solid as 3MF."""
    mesh, part_of, ids = solid.mesh_with_parts()
    if piece is None:
        return mesh_bytes(written(mesh, part_of).mesh, name, "3mf")
    shown = shown_colours(piece)
    names = {p.id: p.name for p in piece.walk()}
    known = np.array([i in shown for i in ids])
    counts = np.bincount(part_of, minlength=len(ids)) * known
    most = shown[ids[int(np.argmax(counts))]] if counts.any() else CLAY
    as_written = written(mesh, part_of)
    parts = NamedParts(as_written.part_of, [(names.get(i, "Cut"), shown.get(i, most)) for i in ids])
    return mesh_bytes(as_written.mesh, name, "3mf", parts)
