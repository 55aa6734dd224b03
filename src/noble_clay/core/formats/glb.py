"""GLB, the binary form of glTF 2.0: nodes with transforms, meshes of triangles, base colours. Read without following
anything that lies outside the file.
"""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import Body, MeshFile, check_count, check_placed, hex_colour, mesh_file
from noble_clay.core.mesh.mesh import Floats, Ints

JSON, BIN = 0x4E4F534A, 0x004E4942
TYPES = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}
TRIANGLES, STRIP, FAN = 4, 5, 6
DEEPEST = 64
"""Nodes under each other."""


def glb_file(data: bytes) -> MeshFile:
    """The mesh in a GLB file, its nodes placed; numbers as the file has them. Raises MeshError."""
    document, binary = _chunks(data)
    try:
        return mesh_file(_Reader(document, binary).bodies())
    except (AttributeError, KeyError, IndexError, TypeError, ValueError, OverflowError, RecursionError) as error:
        raise MeshError(f"the GLB file contradicts itself: {type(error).__name__} {str(error)[:60]}") from None


def _chunks(data: bytes) -> tuple[dict[str, Any], bytes]:
    if data[:4] != b"glTF":
        raise MeshError("this is not a GLB file: it does not begin with glTF")
    if len(data) < 20 or int.from_bytes(data[8:12], "little") > len(data):
        promised = int.from_bytes(data[8:12], "little")
        raise MeshError(f"this is not a whole GLB file: it promises {promised:,} bytes, but has {len(data):,}")
    if int.from_bytes(data[4:8], "little") != 2:
        raise MeshError(f"this is GLB version {int.from_bytes(data[4:8], 'little')}; version 2 can be read")
    at, document, binary = 12, None, b""
    while at + 8 <= len(data):
        size, kind = int.from_bytes(data[at : at + 4], "little"), int.from_bytes(data[at + 4 : at + 8], "little")
        chunk = data[at + 8 : at + 8 + size]
        if len(chunk) < size:
            raise MeshError("this is not a whole GLB file: it ends within a chunk")
        if kind == JSON and document is None:
            try:
                document = json.loads(chunk)
            except (ValueError, RecursionError):
                raise MeshError("the GLB file's description is not JSON") from None
        elif kind == BIN and not binary:
            binary = chunk
        at += 8 + size
    if not isinstance(document, dict):
        raise MeshError("the GLB file has no description")
    return document, binary


class _Reader:
    def __init__(self, document: dict[str, Any], binary: bytes) -> None:
        self._document, self._binary = document, binary
        self._total = 0
        self._placed = 0

    def bodies(self) -> list[Body]:
        needed = set(self._document.get("extensionsRequired", []))
        if needed - {"KHR_materials_unlit", "KHR_mesh_quantization", "KHR_texture_transform"}:
            raise MeshError(f"the GLB file needs {', '.join(sorted(needed))}, which cannot be read")
        scenes = self._document.get("scenes", [])
        roots = scenes[self._document.get("scene", 0)].get("nodes", []) if scenes else []
        if not scenes:
            roots = range(len(self._document.get("nodes", [])))
        found: list[Body] = []
        for root in roots:
            found += self._node(root, np.eye(4), 0)
        return found

    def _node(self, index: int, frame: Floats, depth: int) -> list[Body]:
        if depth > DEEPEST:
            raise MeshError("the GLB file's nodes lie too deep in each other, or in themselves")
        self._placed += 1
        check_placed(self._placed)
        node = self._document["nodes"][index]
        here = frame @ _matrix(node)
        found = []
        if "mesh" in node:
            mesh = self._document["meshes"][node["mesh"]]
            name = str(node.get("name") or mesh.get("name") or "")[:80]
            for primitive in mesh["primitives"]:
                body = self._primitive(primitive, here, name)
                found += [body] if body else []
        for child in node.get("children", []):
            found += self._node(child, here, depth + 1)
        return found

    def _primitive(self, primitive: dict[str, Any], frame: Floats, name: str) -> Body | None:
        mode = primitive.get("mode", TRIANGLES)
        if mode not in (TRIANGLES, STRIP, FAN):
            return None  # points and lines enclose nothing
        points = self._accessor(primitive["attributes"]["POSITION"]).astype(np.float64)
        if "indices" in primitive:
            order = self._accessor(primitive["indices"]).astype(np.int64).reshape(-1)
        else:
            order = np.arange(len(points))
        triangles = _triangles(order, mode)
        self._total += len(triangles)
        check_count(self._total)
        if np.linalg.det(frame[:3, :3]) < 0:
            triangles = triangles[:, ::-1]
        colour = None
        if "material" in primitive:
            material = self._document["materials"][primitive["material"]]
            base = material.get("pbrMetallicRoughness", {}).get("baseColorFactor")
            colour = hex_colour(*(_standard(float(c)) for c in base[:3])) if base else None
        with np.errstate(invalid="ignore"):  # what is no number is told of with the others
            placed = points @ frame[:3, :3].T + frame[:3, 3]
        return Body(placed, triangles, name, colour)

    def _accessor(self, index: int) -> Any:
        accessor = self._document["accessors"][index]
        if "sparse" in accessor or "bufferView" not in accessor:
            raise MeshError("the GLB file stores points sparsely, which cannot be read")
        view = self._document["bufferViews"][accessor["bufferView"]]
        if view.get("buffer", 0) != 0 or "uri" in self._document["buffers"][0]:
            raise MeshError("the GLB file's points lie in another file; save it as one file")
        kind = np.dtype(TYPES[accessor["componentType"]])
        width, count = WIDTHS[accessor["type"]], int(accessor["count"])
        start = int(view.get("byteOffset", 0)) + int(accessor.get("byteOffset", 0))
        stride = int(view.get("byteStride", 0)) or kind.itemsize * width
        end = start + stride * (count - 1) + kind.itemsize * width
        if count < 0 or start < 0 or stride < kind.itemsize * width or (count and end > len(self._binary)):
            raise MeshError("the GLB file names bytes that it does not have")
        if count == 0:
            return np.zeros((0, width), dtype=kind)
        shape, steps = (count, width), (stride, kind.itemsize)
        raw = np.frombuffer(self._binary, dtype=np.uint8, count=end - start, offset=start)
        return np.ndarray(shape, dtype=kind, buffer=raw.data, strides=steps)


def _triangles(order: Ints, mode: int) -> Ints:
    if mode == TRIANGLES:
        return order[: len(order) // 3 * 3].reshape(-1, 3)
    if len(order) < 3:
        return np.zeros((0, 3), dtype=np.int64)
    if mode == FAN:
        return np.column_stack([np.full(len(order) - 2, order[0]), order[1:-1], order[2:]])
    found = np.column_stack([order[:-2], order[1:-1], order[2:]])
    found[1::2] = found[1::2, ::-1]
    return found


def _matrix(node: dict[str, Any]) -> Floats:
    """(4, 4) of a node: its matrix, or its scale, rotation (a quaternion) and translation."""
    if "matrix" in node:
        return np.array(node["matrix"], dtype=np.float64).reshape(4, 4).T
    found = np.eye(4)
    x, y, z, w = (float(c) for c in node.get("rotation", (0, 0, 0, 1)))
    turn = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    )
    found[:3, :3] = turn * np.array([float(c) for c in node.get("scale", (1, 1, 1))])
    found[:3, 3] = [float(c) for c in node.get("translation", (0, 0, 0))]
    return found


def _standard(linear: float) -> float:
    """A colour share from linear light to sRGB (IEC 61966-2-1)."""
    return 12.92 * linear if linear <= 0.0031308 else 1.055 * max(linear, 0.0) ** (1 / 2.4) - 0.055
