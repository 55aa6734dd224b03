"""OBJ: text lines of points (`v`) and faces (`f`); names of objects and groups, colours of points."""

from __future__ import annotations

import re

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import MAX_TRIANGLES, Body, MeshFile, hex_colour, mesh_file
from noble_clay.core.formats.polygons import as_triangles

_BEHIND_SLASH = re.compile(r"/\S*")


def obj_file(data: bytes) -> MeshFile:
    """The mesh in an OBJ file. Lines other than points, faces and names are passed over. Raises MeshError."""
    text = _decoded(data).replace("\\\n", " ").replace("\\\r\n", " ")
    points, faces, named, name = [], [], list[tuple[int, str]](), ""
    at: list[int] = []
    for number, line in enumerate(text.splitlines(), 1):
        kind, _, rest = line.strip().partition(" ")
        if kind == "v":
            points.append(rest)
        elif kind == "f":
            faces.append(rest)
            at.append(number)
        elif kind in ("o", "g") and rest.strip() != name:
            name = rest.strip()
            named.append((len(faces), name))
    if not points:
        raise MeshError("this is not an OBJ file: it has no line that begins with v, for a point")
    if not faces:
        raise MeshError("the file holds no faces: no line begins with f")
    if len(faces) > MAX_TRIANGLES:
        raise MeshError(f"{len(faces):,} faces; at most {MAX_TRIANGLES:,} triangles can be read")
    vertices, colours = _points(points)
    corners, sizes = _faces(faces, at, len(vertices))
    triangles, owner = as_triangles(vertices, corners, sizes)
    if len(triangles) == 0:
        raise MeshError("the file holds no triangles: every face has fewer than three corners")
    ends = [*(start for start, _ in named), len(faces)]
    runs = [(0, ends[0], "")] + [(start, end, n) for (start, n), end in zip(named, ends[1:], strict=True)]
    bodies = []
    for start, end, body in runs:
        own = triangles[(owner >= start) & (owner < end)]
        colour = None if colours is None or len(own) == 0 else hex_colour(*colours[own.reshape(-1)].mean(axis=0))
        bodies.append(Body(vertices, own, body[:80], colour))
    return mesh_file(bodies)


def _decoded(data: bytes) -> str:
    for mark, encoding in ((b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"), (b"\xef\xbb\xbf", "utf-8-sig")):
        if data.startswith(mark):
            return data.decode(encoding, "replace")
    if b"\0" in data[:4096]:
        raise MeshError("this is not an OBJ file: it is not text")
    return data.decode("utf-8", "replace")


def _points(lines: list[str]) -> tuple[np.ndarray, np.ndarray | None]:
    width = len(lines[0].split())
    if width < 3:
        raise MeshError(f"point 1 has {width} coordinates, not three")
    try:
        table = np.array(" ".join(lines).split(), dtype=np.float64).reshape(len(lines), -1)
        if table.shape[1] != width:
            raise ValueError
    except ValueError:
        rows = []
        for number, line in enumerate(lines, 1):
            try:
                rows.append([float(t) for t in line.split()[:3]])
            except ValueError:
                raise MeshError(f"point {number:,} has a coordinate that is not a number: {line[:40]}") from None
            if len(rows[-1]) < 3:
                raise MeshError(f"point {number:,} has fewer than three coordinates: {line[:40]}") from None
        table = np.array(rows)
    return table[:, :3], table[:, 3:6] if table.shape[1] >= 6 else None


def _faces(lines: list[str], at: list[int], points: int) -> tuple[np.ndarray, np.ndarray]:
    plain = [_BEHIND_SLASH.sub("", line) if "/" in line else line for line in lines]
    split = [line.split() for line in plain]
    sizes = np.array([len(s) for s in split], dtype=np.int64)
    try:
        corners = np.array([t for s in split for t in s], dtype=np.int64)
    except (ValueError, OverflowError):
        bad = next(i for i, s in enumerate(split) if not all(re.fullmatch(r"[+-]?\d{1,18}", t) for t in s))
        raise MeshError(f"line {at[bad]:,}: a face names its points by whole numbers, not {lines[bad][:40]}") from None
    if (corners == 0).any():
        bad = int(np.searchsorted(np.cumsum(sizes), int(np.flatnonzero(corners == 0)[0]), "right"))
        raise MeshError(f"line {at[bad]:,}: points are counted from 1, so there is no point 0")
    return np.where(corners > 0, corners - 1, corners + points), sizes
