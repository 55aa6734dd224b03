"""Whether a file that was written holds what it should: it is read again, and compared triangle by triangle."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.registry import is_read
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.written import PLACES

DECIMALS = 10.0**-PLACES
"""mm that a 3MF's decimals cut off."""

EPSILON = float(np.finfo(np.float32).eps)
WEIGHTS = (np.array([2 * k * 0x9E3779B97F4A7C15 + 1 for k in range(1, 10)], dtype=object) % 2**64).astype(np.uint64)
"""Odd numbers, one for each coordinate of a triangle."""


def check_read_back(data: bytes, file_format: str, mesh: Mesh, off: float = 0.0) -> None:
    """Raise MeshError unless a file, one of `FORMATS` by its ending, has every triangle of a mesh and no other.

    mesh: mm, its corners float32. off: mm by which points of a 3MF may be elsewhere beyond what its decimals round.
    What nothing here can read is not compared.
    """
    inner = file_format.removesuffix(".zip").rpartition(".")[2]
    if not is_read(inner):
        return
    if file_format != inner and file_format.endswith(".zip"):
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            data = archive.read(next(name for name in archive.namelist() if name.endswith(f".{inner}")))
    again = read_mesh(data, inner).mesh
    if not (_near if file_format == "3mf" else _same)(again, mesh, off):
        raise MeshError(f"the .{file_format} file does not hold what was written into it, so it is not given out")


def _near(again: Mesh, mesh: Mesh, off: float) -> bool:
    """Whether the points are as near as decimals allow, and the triangles have the same."""
    if len(again.vertices) != len(mesh.vertices):
        return False
    far = np.abs(again.vertices - mesh.vertices).max(initial=0.0)
    most = off + DECIMALS + EPSILON * np.abs(mesh.vertices).max(initial=0.0)
    return bool(far <= most) and np.array_equal(_marks(again.triangles), _marks(mesh.triangles))


def _same(again: Mesh, mesh: Mesh, _: float) -> bool:
    """Whether the triangles have the same corners to the bit; points may be numbered otherwise."""

    def marks(of: Mesh) -> NDArray[np.uint64]:
        corners = np.ascontiguousarray(of.corners.reshape(-1, 9), dtype=np.float32)
        return _marks((corners + np.float32(0)).view(np.uint32))  # no zero is negative

    return np.array_equal(marks(again), marks(mesh))


def _marks(rows: NDArray[Any]) -> NDArray[np.uint64]:
    """(m,) sorted: a number for each row (m, k) of whole numbers that follows from them and their order."""
    weighed = rows.astype(np.uint64) * WEIGHTS[: rows.shape[1]]
    found: NDArray[np.uint64] = np.sort(weighed.sum(axis=1, dtype=np.uint64))
    return found
