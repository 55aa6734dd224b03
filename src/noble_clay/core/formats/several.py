"""Several solids of one piece as one file: a 3MF with an object for each, or a ZIP with a file for each."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.cut_parts import as_file_holds
from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.formats.mesh_file import Body as Run
from noble_clay.core.formats.mesh_file import mesh_file
from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.read_back import check_read_back
from noble_clay.core.formats.threemf_write import Body, write_threemf_of
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import IDENTITY
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.written import as_decimals
from noble_clay.core.piece.models import Piece


@dataclass(frozen=True, eq=False)
class Named:
    """colour: "#rrggbb", of all of it; None: as the piece's parts that its surface is of."""

    name: str
    solid: Solid
    colour: str | None = None


def bodies_of(solids: Sequence[Named], piece: Piece) -> list[Body]:
    """Named solids as files hold them. Raises MeshError for one that would not be sound by itself."""
    bodies = []
    for each in solids:
        mesh, parts = as_file_holds(each.solid, piece)
        if each.colour:
            parts = NamedParts(np.zeros(len(mesh.triangles), dtype=np.int64), [(each.name, each.colour)])
        if {flaw.kind for flaw in inspect_mesh(mesh).findings} - {"loose_bodies"}:
            raise MeshError(f'"{each.name}" would not be sound by itself: take the piece as one body')
        bodies.append(Body(mesh, each.name, parts, [IDENTITY]))
    return bodies


def several_bytes(bodies: Sequence[Body], title: str, file_format: str) -> bytes:
    """Bodies in a file of one of `FORMATS`, read back and compared; what holds one only goes into a ZIP."""
    if file_format == "3mf":
        data = write_threemf_of(bodies, title)
        # Points of two bodies that its decimals do not tell apart are one to whoever reads it.
        runs = [Run(as_decimals(body.mesh.vertices), body.mesh.triangles) for body in bodies]
        check_read_back(data, file_format, mesh_file(runs).mesh)
        return data
    files = {}
    for number, body in enumerate(bodies, start=1):
        stem = plain_name(f"{number:02} {body.name}")
        one = mesh_bytes(body.mesh, stem, file_format, body.parts)
        check_read_back(one, file_format, body.mesh)
        if not file_format.endswith(".zip"):
            files[f"{stem}.{file_format.rpartition('.')[2]}"] = one
            continue
        with zipfile.ZipFile(io.BytesIO(one)) as inner:  # no ZIP in a ZIP
            files |= {entry: inner.read(entry) for entry in inner.namelist()}
    return zipped(files)


def zipped(files: dict[str, bytes]) -> bytes:
    """Files by name as a ZIP."""
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return held.getvalue()
