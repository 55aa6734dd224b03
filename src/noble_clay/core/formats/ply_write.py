"""Writing PLY, binary, with a colour on every face."""

from __future__ import annotations

import numpy as np

from noble_clay.core.formats.named_parts import NamedParts, colours_of
from noble_clay.core.formats.rounding import rounded
from noble_clay.core.mesh.mesh import Mesh

FACE = [("count", "u1"), ("corners", "<i4", (3,)), ("colour", "u1", (3,))]


def write_ply(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """Numbers are millimetres."""
    if parts is None:
        mesh = rounded(mesh)
    head = [
        "ply",
        "format binary_little_endian 1.0",
        "comment made with Noble Clay; in millimetres",
        f"element vertex {len(mesh.vertices)}",
        *(f"property float {axis}" for axis in "xyz"),
        f"element face {len(mesh.triangles)}",
        "property list uchar int vertex_indices",
        *((f"property uchar {c}" for c in ("red", "green", "blue")) if parts is not None else ()),
        "end_header\n",
    ]
    faces = np.zeros(len(mesh.triangles), dtype=FACE if parts is not None else FACE[:2])
    faces["count"], faces["corners"] = 3, mesh.triangles
    if parts is not None:
        faces["colour"] = colours_of(parts)
    return "\n".join(head).encode() + mesh.vertices.astype("<f4").tobytes() + faces.tobytes()
