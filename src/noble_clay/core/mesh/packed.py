"""A mesh as bytes, for the view.

"NCM1", the number of vertices, of triangles, and 1 where parts follow (uint32 each); vertices (float32 x 3); triangles
(uint32 x 3); for each triangle the index of its part (uint32). All little-endian.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Mesh


def mesh_blocks(mesh: Mesh, part_of: NDArray[np.int64] | None = None) -> Iterator[bytes]:
    """A mesh, block by block."""
    yield b"NCM1" + struct.pack("<III", len(mesh.vertices), len(mesh.triangles), part_of is not None)
    yield mesh.vertices.astype("<f4").tobytes()
    yield mesh.triangles.astype("<u4").tobytes()
    if part_of is not None:
        yield part_of.astype("<u4").tobytes()


def packed_mesh(data: bytes) -> tuple[Mesh, NDArray[np.int64] | None]:
    """A mesh of `mesh_blocks`, and the part of every triangle where that follows. Raises ValueError for other bytes."""
    if data[:4] != b"NCM1":
        raise ValueError("these are no bytes of a mesh")
    vertices, triangles, parts = struct.unpack_from("<III", data, 4)
    at = 16
    corners = np.frombuffer(data, "<f4", 3 * vertices, at).reshape(-1, 3).astype(np.float64)
    at += 12 * vertices
    faces = np.frombuffer(data, "<u4", 3 * triangles, at).reshape(-1, 3).astype(np.int64)
    at += 12 * triangles
    part_of = np.frombuffer(data, "<u4", triangles, at).astype(np.int64) if parts else None
    return Mesh(corners, faces), part_of
