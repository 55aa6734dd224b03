"""Writing OBJ: the shape as text; and with its colours, which lie in a file of their own, as a ZIP of both."""

from __future__ import annotations

import io
import zipfile

import numpy as np

from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.piece.models import CLAY


def write_obj(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """The shape only."""
    return (_points(mesh) + _faces(mesh, np.arange(len(mesh.triangles)))).encode()


def write_obj_zip(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """An OBJ whose groups are the parts, in the colours of the MTL beside it."""
    parts = parts or NamedParts(np.zeros(len(mesh.triangles), dtype=np.int64), [(name, CLAY)])
    stem = plain_name(name)
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        lines = [f"# made with Noble Clay; in millimetres\nmtllib {stem}.mtl\n", _points(mesh)]
        glazes: dict[str, str] = {}
        for number, (part, colour) in enumerate(parts.names):
            which = np.flatnonzero(parts.part_of == number)
            if len(which):
                glaze = glazes.setdefault(colour, f"glaze_{colour.lstrip('#').lower()}")
                lines += [f"g {plain_name(part)}_{number + 1}\nusemtl {glaze}\n", _faces(mesh, which)]
        archive.writestr(f"{stem}.obj", "".join(lines))
        said = "".join(f"newmtl {word}\nKd {_shades(c)}\nd 1\nillum 1\n" for c, word in glazes.items())
        archive.writestr(f"{stem}.mtl", said)
    return held.getvalue()


def _points(mesh: Mesh) -> str:
    return "".join(f"v {x:.9g} {y:.9g} {z:.9g}\n" for x, y, z in mesh.vertices.tolist())


def _faces(mesh: Mesh, which: Ints) -> str:
    return "".join(f"f {a} {b} {c}\n" for a, b, c in (mesh.triangles[which] + 1).tolist())


def _shades(colour: str) -> str:
    return " ".join(f"{int(colour[i : i + 2], 16) / 255:.6f}" for i in (1, 3, 5))
