"""A mended mesh as a file that keeps the names and colours which the file it came from had."""

from __future__ import annotations

import numpy as np

from noble_clay.core.formats.mesh_file import MeshFile
from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import CLAY


def mended_bytes(file: MeshFile, mended: Mesh, name: str, file_format: str) -> bytes:
    """The mended mesh, mm, of a file as the bytes of a file of one of `FORMATS`. Every triangle takes the name and
    colour of what was nearest to it; only 3MF has room for them.
    """
    if file_format != "3mf" or (len(file.names) == 1 and file.colours[0] is None):
        return mesh_bytes(mended, name, file_format)
    nearest = MeshDistance(file.in_mm()).unsigned_distance(mended.corners.mean(axis=1))[1]
    parts = [(n or name, c or CLAY) for n, c in zip(file.names, file.colours, strict=True)]
    return mesh_bytes(mended, name, file_format, NamedParts(np.asarray(file.body_of[nearest]), parts))
