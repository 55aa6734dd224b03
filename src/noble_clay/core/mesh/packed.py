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
