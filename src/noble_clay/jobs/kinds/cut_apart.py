"""Cutting a piece into parts that plug together, for a printer that is too small for the whole."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.cut_parts import solid_file
from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.packed import mesh_blocks
from noble_clay.core.printing.bed import CutLines
from noble_clay.core.printing.cutting import Plane, cut
from noble_clay.jobs.kinds.base import Params, PieceJob, Tell, asked_for, keep_files
from noble_clay.jobs.kinds.made import made_in
from noble_clay.store.tables import JobRow

PARTS = "parts.zip"
SHOWN = "shown"


class CutApart(PieceJob):
    kind: ClassVar[str] = "cut"
    label: ClassVar[str] = "Cut into parts"
    quiet: ClassVar[bool] = True
    of_piece: ClassVar[bool] = False  # asked for by the Print stage, with what its bed says

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        lines = asked_for(CutLines, params)
        if not lines.planes:
            raise MeshError("say where to cut first: add a plane")
        tell(0.0, "making the piece")
        piece, result = made_in(folder)
        tell(0.3, "cutting")
        planes = [Plane(p.axis, p.at) for p in lines.planes]
        found = cut(result.solid, planes, lines.peg, lines.clearance, lines.labels)
        stem = plain_name(piece.name)
        told: list[dict[str, Any]] = []
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w", zipfile.ZIP_STORED) as archive:
            for number, part in enumerate(found.parts, start=1):
                tell(0.5 + 0.5 * number / len(found.parts), "writing parts")
                data, mesh = solid_file(part.solid, f"{piece.name} {number}", piece)
                archive.writestr(f"{stem}-{number}.3mf", data)
                (folder / f"{SHOWN}-{number}").write_bytes(b"".join(mesh_blocks(mesh)))
                seen = inspect_mesh(mesh)
                told.append(
                    {
                        "volume_mm3": seen.volume,
                        "bounds": part.solid.bounds.tolist(),
                        "bodies": seen.bodies,
                        "sound": seen.sound,
                        "pegs": part.pegs,
                        "sockets": part.sockets,
                    }
                )
        (folder / PARTS).write_bytes(held.getvalue())
        return {
            "parts": told,
            "least_gap_mm": found.least_gap,
            "greatest_gap_mm": found.greatest_gap,
            "goes_together": all(fit.slides for fit in found.fits),
            "revision": params["revision"],
        }

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        keep_files(session, row, folder, [PARTS, *(f"{SHOWN}-{n}" for n in range(1, len(result["parts"]) + 1))])

    def outcome(self, result: Params) -> str:
        return f"{len(result['parts'])} parts"
