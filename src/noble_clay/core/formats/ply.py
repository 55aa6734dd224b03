"""PLY, text or binary of either byte order: points with coordinates and colours, faces as lists of points."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import MAX_TRIANGLES, Body, MeshFile, hex_colour, mesh_file
from noble_clay.core.formats.polygons import as_triangles

TYPES = {
    "char": "i1",
    "uchar": "u1",
    "short": "i2",
    "ushort": "u2",
    "int": "i4",
    "uint": "u4",
    "float": "f4",
    "double": "f8",
    "int8": "i1",
    "uint8": "u1",
    "int16": "i2",
    "uint16": "u2",
    "int32": "i4",
    "uint32": "u4",
    "float32": "f4",
    "float64": "f8",
}
FORMATS = {"ascii": "", "binary_little_endian": "<", "binary_big_endian": ">"}
FACES = ("vertex_indices", "vertex_index")

_Property = tuple[str, str, str | None]
"""Name, type, and for a list the type of its length."""


class _Element:
    def __init__(self, name: str, count: int) -> None:
        self.name, self.count, self.properties = name, count, list[_Property]()


def ply_file(data: bytes) -> MeshFile:
    """The mesh in a PLY file. Raises MeshError."""
    order, elements, body = _header(data)
    read = _text(elements, body) if order == "" else _binary(elements, body, order)
    vertex, face = read.get("vertex"), read.get("face")
    if vertex is None or not {"x", "y", "z"} <= vertex.keys():
        raise MeshError("the PLY file has no points with x, y and z")
    points = np.column_stack([vertex[axis] for axis in "xyz"]).astype(np.float64)
    lists = None if face is None else next((face[n] for n in FACES if n in face), None)
    if lists is None:
        raise MeshError("the PLY file has no faces, only points" if face is None else "its faces do not name points")
    if not isinstance(lists, tuple):
        raise MeshError("the PLY file's faces are no lists of points")
    if any(isinstance(vertex[axis], tuple) for axis in "xyz"):
        raise MeshError("the PLY file's coordinates are lists, not numbers")
    sizes, corners = lists
    triangles, _ = as_triangles(points, corners, sizes)
    colour = None
    if {"red", "green", "blue"} <= vertex.keys() and len(points):
        colour = hex_colour(
            *(float(vertex[c].mean()) / (255 if vertex[c].dtype.kind in "iu" else 1) for c in ("red", "green", "blue"))
        )
    return mesh_file([Body(points, triangles, "", colour)])


def _header(data: bytes) -> tuple[str, list[_Element], bytes]:
    if not data.startswith(b"ply"):
        raise MeshError("this is not a PLY file: it does not begin with the word ply")
    end = data.find(b"end_header", 0, 100_000)
    if end < 0:
        raise MeshError("the PLY file's header has no end")
    order: str | None = None
    elements: list[_Element] = []
    for number, line in enumerate(data[:end].decode("ascii", "replace").splitlines(), 1):
        words = line.split()
        try:
            if words[:1] == ["format"]:
                order = FORMATS[words[1]]
            elif words[:1] == ["element"]:
                elements.append(_Element(words[1], int(words[2])))
                if not 0 <= elements[-1].count <= 8 * MAX_TRIANGLES:
                    raise MeshError(f"the header promises {elements[-1].count:,} of {words[1]}, which is too many")
            elif words[:2] == ["property", "list"]:
                elements[-1].properties.append((words[4], TYPES[words[3]], TYPES[words[2]]))
            elif words[:1] == ["property"]:
                elements[-1].properties.append((words[2], TYPES[words[1]], None))
        except (KeyError, IndexError, ValueError):
            raise MeshError(f"line {number} of the PLY header cannot be read: {line.strip()[:60]}") from None
    if order is None:
        raise MeshError("the PLY header does not say its format")
    start = data.find(b"\n", end) + 1
    return order, elements, data[start:] if start else b""


def _short(element: _Element) -> MeshError:
    return MeshError(f"the file ends before its {element.count:,} of {element.name}: it is not whole")


def _text(elements: list[_Element], body: bytes) -> dict[str, dict[str, Any]]:
    found: dict[str, dict[str, Any]] = {}
    lines = [line for line in body.splitlines() if line.strip()]
    at = 0
    for element in elements:
        rows = lines[at : at + element.count]
        at += element.count
        if len(rows) < element.count:
            raise _short(element)
        if element.name not in ("vertex", "face"):
            continue
        try:
            found[element.name] = _text_rows(element, rows)
        except (ValueError, IndexError, OverflowError):
            raise MeshError(
                f"a {element.name} of the PLY file cannot be read: a number is missing or is none"
            ) from None
    return found


def _text_rows(element: _Element, rows: list[bytes]) -> dict[str, Any]:
    split = [r.split() for r in rows]
    found: dict[str, Any] = {}
    if not any(p[2] for p in element.properties):
        table = np.array([s[: len(element.properties)] for s in split], dtype=np.float64)
        table = table.reshape(len(rows), len(element.properties))
        for k, (name, kind, _) in enumerate(element.properties):
            found[name] = table[:, k].astype(kind) if kind[0] != "f" else table[:, k]
        return found
    columns: dict[str, list[list[int]]] = {p[0]: [] for p in element.properties if p[2]}
    for words in split:
        place = 0
        for name, _, length in element.properties:
            if length is None:
                place += 1
                continue
            count = int(words[place])
            own = [int(w) for w in words[place + 1 : place + 1 + count]]
            if len(own) != count or count < 0:
                raise ValueError
            columns[name].append(own)
            place += 1 + count
    for name, lists in columns.items():
        sizes = np.array([len(one) for one in lists], dtype=np.int64)
        found[name] = sizes, np.array([i for one in lists for i in one], dtype=np.int64)
    return found


def _binary(elements: list[_Element], body: bytes, order: str) -> dict[str, dict[str, Any]]:
    found: dict[str, dict[str, Any]] = {}
    at = 0
    for element in elements:
        lists = [p for p in element.properties if p[2]]
        if not lists:
            row = np.dtype([(f"p{k}", order + kind) for k, (_, kind, _) in enumerate(element.properties)])
            if at + row.itemsize * element.count > len(body):
                raise _short(element)
            table = np.frombuffer(body, dtype=row, count=element.count, offset=at)
            found[element.name] = {name: table[f"p{k}"] for k, (name, _, _) in enumerate(element.properties)}
            at += row.itemsize * element.count
        else:
            found[element.name], at = _binary_lists(element, body, at, order)
    return found


def _binary_lists(element: _Element, body: bytes, at: int, order: str) -> tuple[dict[str, Any], int]:
    """All lists of three is what most files have: those are read at once, any others row by row."""
    threes: list[Any] = []
    for k, (_, kind, length) in enumerate(element.properties):
        threes += [(f"n{k}", order + length), (f"p{k}", order + kind, 3)] if length else [(f"p{k}", order + kind)]
    row = np.dtype(threes)
    if at + row.itemsize * element.count <= len(body):
        table = np.frombuffer(body, dtype=row, count=element.count, offset=at)
        numbers = [k for k, p in enumerate(element.properties) if p[2]]
        if all((table[f"n{k}"] == 3).all() for k in numbers):
            sizes = np.full(element.count, 3, dtype=np.int64)
            found: dict[str, Any] = {
                element.properties[k][0]: (sizes, table[f"p{k}"].astype(np.int64).reshape(-1)) for k in numbers
            }
            return found, at + row.itemsize * element.count
    sizes_of: dict[str, list[int]] = {p[0]: [] for p in element.properties if p[2]}
    items: dict[str, list[np.ndarray]] = {name: [] for name in sizes_of}
    total = 0
    for _ in range(element.count):
        for name, kind, length in element.properties:
            one = np.dtype(order + kind)
            if length is None:
                at += one.itemsize
                continue
            head = np.dtype(order + length)
            if at + head.itemsize > len(body):
                raise _short(element)
            count = int(np.frombuffer(body, head, 1, at)[0])
            at += head.itemsize
            if count < 0 or at + count * one.itemsize > len(body):
                raise _short(element)
            items[name].append(np.frombuffer(body, one, count, at))
            sizes_of[name].append(count)
            at += count * one.itemsize
            total += count
    if at > len(body):
        raise _short(element)
    return {
        name: (np.array(sizes_of[name], dtype=np.int64), np.concatenate([*items[name], np.zeros(0)]).astype(np.int64))
        for name in items
    }, at
