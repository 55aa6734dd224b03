"""STL, binary and ASCII: triangles without shared vertices, no unit, no colour.

Binary: 80 bytes of header, a count, then for every triangle a normal, three corners (float32) and two unused bytes.
"""

from __future__ import annotations

import io
import re

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import Body, MeshFile, check_count, mesh_file
from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.rounding import rounded
from noble_clay.core.mesh.mesh import Floats, Mesh

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("unused", "<u2")])
AT_A_TIME = 8_192
"""Triangles that a processor's cache holds."""

_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)


def write_stl(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """Of a piece, whose parts are known, the mesh is as a file holds it by now."""
    return stl_bytes(mesh if parts is not None else rounded(mesh), name)


def stl_bytes(mesh: Mesh, title: str) -> bytes:
    """A binary STL of 84 + 50 · n bytes; coordinates are rounded to float32."""
    count = len(mesh.triangles)
    held = io.BytesIO()  # gives what was written into its buffer without a copy
    held.seek(84 + 50 * count - 1)
    held.write(b"\0")
    with held.getbuffer() as buffer:
        # A header that begins with "solid" would pass for an ASCII file.
        header = b"Noble Clay, mm: " + title.encode("ascii", "replace")[:60]
        buffer[:84] = header.ljust(80, b"\0") + np.uint32(count).tobytes()
        records = np.frombuffer(buffer, dtype=_RECORD, offset=84)
        points = mesh.vertices.astype(np.float32)
        for start in range(0, count, AT_A_TIME):
            part = slice(start, start + AT_A_TIME)
            corners = points.take(mesh.triangles[part], axis=0)
            records["normal"][part] = _normals(corners)
            records["corners"][part] = corners
        del records
    return held.getvalue()


def _normals(corners: NDArray[np.float32]) -> NDArray[np.float32]:
    """(n, 3) unit normals of triangles (n, 3, 3), 0 of those without area."""
    a, b, c = np.ascontiguousarray(corners.transpose(1, 2, 0))
    (ax, ay, az), (bx, by, bz) = b - a, c - a
    x, y, z = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    least = np.finfo(np.float32).tiny
    return np.stack([x, y, z], axis=1) / np.maximum(np.sqrt(x * x + y * y + z * z), least)[:, None]


def stl_file(data: bytes) -> MeshFile:
    """The mesh in an STL file, equal corners merged. Raises MeshError that says what is wrong and where."""
    if not data:
        raise MeshError("the file is empty")
    count = _count(data)
    if promised(data, len(data)) >= 0:
        corners, name = _binary(data, count), ""
    elif data.lstrip()[:5].lower() == b"solid" and (b"facet" in data[:2000].lower() or len(data) < 2000):
        corners, name = _ascii(data), _solid_name(data)
    elif count >= 0 and len(data) > 84:
        expected = 84 + 50 * count
        raise MeshError(
            f"this is not a whole STL file: its header promises {count:,} triangles, {expected:,} bytes, "
            f"but it has {len(data):,}"
        )
    else:
        raise MeshError(f"this is not an STL file: {len(data):,} bytes with neither a header nor the word solid")
    if not np.isfinite(corners).all():
        bad = int(np.flatnonzero(~np.isfinite(corners).all(axis=(1, 2)))[0])
        raise MeshError(f"triangle {bad + 1:,} has a coordinate that is not a finite number")
    points = corners.reshape(-1, 3)
    return mesh_file([Body(points, np.arange(len(points)).reshape(-1, 3), name)])


def promised(head: bytes, size: int) -> int:
    """How many triangles a binary STL of `size` bytes that begins so holds; -1 where it is none, or not whole."""
    count = _count(head)
    return count if size == 84 + 50 * count else -1


def _count(head: bytes) -> int:
    """What a binary header says; -1 for less than one."""
    return int.from_bytes(head[80:84], "little") if len(head) >= 84 else -1


def stl_mesh(data: bytes) -> Mesh:
    """As `stl_file`, the mesh only."""
    return stl_file(data).mesh


def _binary(data: bytes, count: int) -> Floats:
    check_count(count)
    return np.frombuffer(data, dtype=_RECORD, count=count, offset=84)["corners"].astype(np.float64)


def _ascii(data: bytes) -> Floats:
    found = _VERTEX.findall(data)
    if len(found) % 3:
        raise MeshError(f"the text stops within triangle {len(found) // 3 + 1:,}: {len(found):,} corners in all")
    check_count(len(found) // 3)
    facets = len(re.findall(rb"\bendfacet\b", data, re.IGNORECASE))
    if facets != len(found) // 3:
        raise MeshError(f"the text has {len(found) // 3:,} triangles but {facets:,} facet ends")
    try:
        return np.array(found, dtype=np.float64).reshape(-1, 3, 3)
    except ValueError:
        bad = next(i for i, v in enumerate(found) if not _all_numbers(v))
        raise MeshError(f"triangle {bad // 3 + 1:,} has a coordinate that is not a number") from None


def _solid_name(data: bytes) -> str:
    return data.lstrip()[5:500].split(b"\n", 1)[0].strip()[:80].decode("utf-8", "replace")


def _all_numbers(texts: tuple[bytes, ...]) -> bool:
    try:
        [float(t) for t in texts]
    except ValueError:
        return False
    return True
