"""3MF read: the objects that the file means to build, with components, transforms, unit, names and colours."""

from __future__ import annotations

import ctypes
import io
import re
import zipfile
import zlib
from typing import Any

import lib3mf
import numpy as np
from lib3mf import get_wrapper

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import Body, MeshFile, check_count, check_placed, hex_colour, mesh_file
from noble_clay.core.mesh.mesh import Floats, Ints

MOST_UNPACKED = 600_000_000
"""Bytes that a package may unpack to."""

MOST_RATIO = 200
"""Times that any text in it may shrink by being packed; triangles as text shrink by 5 to 20."""

UNITS = {0: "micron", 1: "millimeter", 2: "centimeter", 3: "inch", 4: "foot", 5: "meter"}
DEEPEST = 64

_BASE, _COLOURS = 1, 3

LONGEST_TAG = 1_000
_TAG = re.compile(rb"<(?:\w+:)?(object|component)\b([^<>]{0,%d})>" % LONGEST_TAG)
_ID = re.compile(rb"""(?<![\w:])id\s*=\s*["'](\d+)["']""")
_OBJECT_ID = re.compile(rb"""(?<![\w:])objectid\s*=\s*["'](\d+)["']""")
_LAST = "last"
"""Under which the id of the object is noted that is being read."""


def threemf_file(data: bytes) -> MeshFile:
    """The mesh in a 3MF package. Raises MeshError."""
    _check_package(data)
    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    try:
        model.QueryReader("3mf").ReadFromBuffer(data)
        bodies = _Reader(wrapper, model).bodies()
    except lib3mf.ELib3MFException as error:
        raise MeshError(f"the 3MF package cannot be read: {' '.join(str(error).split())[:160]}") from None
    if not bodies:
        raise MeshError("the 3MF package builds nothing: it has no object with triangles")
    return mesh_file(bodies, UNITS[int(model.GetUnit())])


def _check_package(data: bytes) -> None:
    """What the reader below is not to be trusted with. Raises MeshError."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            infos = archive.infolist()
            for info in infos:
                path = info.filename.replace("\\", "/")
                if path.startswith("/") or ".." in path.split("/") or ":" in path.split("/")[0]:
                    raise MeshError(f'the 3MF package names a file outside itself: "{info.filename[:60]}"')
            unpacked = sum(i.file_size for i in infos)
            if unpacked > MOST_UNPACKED:
                raise MeshError(
                    f"the 3MF package unpacks to {unpacked / 1e6:,.0f} MB; at most {MOST_UNPACKED // 10**6} MB"
                )
            if any(i.file_size > 10_000_000 and i.file_size > MOST_RATIO * max(i.compress_size, 1) for i in infos):
                raise MeshError("the 3MF package unpacks to far more than any model does")
            models = [i for i in infos if i.filename.lower().endswith(".model")]
            if not models:
                raise MeshError("this ZIP file is no 3MF package: it has no model in it")
            children: dict[str, list[str]] = {}
            for info in models:
                with archive.open(info) as file:  # to its end: its size may be a lie, and its sum wrong
                    head = before = file.read(65_536)
                    _note_components(head, children)
                    while block := file.read(1 << 20):
                        # A name may lie across two blocks.
                        _note_components(before[-LONGEST_TAG:] + block, children)
                        before = block
                _check_components(children)
                if b"<!DOCTYPE" in head or b"<!ENTITY" in head:
                    raise MeshError("the 3MF model refers to things outside itself (a DOCTYPE), which is not followed")
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise MeshError(f"this is not a whole 3MF package: {str(error)[:80]}") from None


def _note_components(text: bytes, children: dict[str, list[str]]) -> None:
    """Which objects each object of a part of a model is made of, by their ids; added to what was noted before it."""
    for name, attributes in _TAG.findall(text):
        if name == b"object":
            found = _ID.search(attributes)
            children[_LAST] = [found[1].decode("ascii", "replace") if found else ""]
        elif (found := _OBJECT_ID.search(attributes)) and children.get(_LAST):
            children.setdefault(children[_LAST][0], []).append(found[1].decode("ascii", "replace"))


def _check_components(children: dict[str, list[str]]) -> None:
    """Raises MeshError for components that repeat each other too often, or lie in themselves."""
    placed: dict[str, int] = {}

    def count(name: str, above: tuple[str, ...]) -> int:
        if name in above or len(above) > DEEPEST:
            raise MeshError("the 3MF package's components lie too deep in each other, or in themselves")
        if name not in placed:
            placed[name] = 1 + sum(count(child, (*above, name)) for child in children.get(name, []))
            check_placed(placed[name])
        return placed[name]

    for name in list(children):
        if name != _LAST:
            count(name, ())


class _Reader:
    def __init__(self, wrapper: Any, model: Any) -> None:
        self._wrapper, self._model = wrapper, model
        self._total = 0
        self._placed = 0

    def bodies(self) -> list[Body]:
        found: list[Body] = []
        items = self._model.GetBuildItems()
        while items.MoveNext():
            item = items.GetCurrent()
            frame = _frame(item.GetObjectTransform()) if item.HasObjectTransform() else np.eye(4)
            found += self._object(item.GetObjectResource(), frame, 0)
        return found

    def _object(self, resource: Any, frame: Floats, depth: int) -> list[Body]:
        if depth > DEEPEST:
            raise MeshError("the 3MF package's components lie too deep in each other")
        self._placed += 1
        check_placed(self._placed)
        if resource.IsMeshObject():
            return self._mesh(self._model.GetMeshObjectByID(resource.GetResourceID()), frame)
        if not resource.IsComponentsObject():
            return []
        found: list[Body] = []
        parts = self._model.GetComponentsObjectByID(resource.GetResourceID())
        for k in range(parts.GetComponentCount()):
            part = parts.GetComponent(k)
            inner = _frame(part.GetTransform()) if part.HasTransform() else np.eye(4)
            found += self._object(part.GetObjectResource(), frame @ inner, depth + 1)
        return found

    def _mesh(self, mesh: Any, frame: Floats) -> list[Body]:
        count = int(mesh.GetTriangleCount())
        self._total += count
        check_count(self._total)
        if count == 0:
            return []
        points = self._filled(mesh, "getvertices", lib3mf.Position, int(mesh.GetVertexCount()), np.float32)
        points = points.reshape(-1, 3).astype(np.float64) @ frame[:3, :3].T + frame[:3, 3]
        triangles = self._filled(mesh, "gettriangleindices", lib3mf.Triangle, count, np.uint32).reshape(-1, 3)
        triangles = triangles.astype(np.int64)
        if np.linalg.det(frame[:3, :3]) < 0:
            triangles = triangles[:, ::-1]
        return self._by_material(mesh, points, triangles, str(mesh.GetName())[:80])

    def _by_material(self, mesh: Any, points: Floats, triangles: Ints, name: str) -> list[Body]:
        """A mesh in runs of one base material or colour each, where it has such."""
        raw = self._filled(
            mesh, "getalltriangleproperties", lib3mf.TriangleProperties, len(triangles), np.uint32
        ).reshape(-1, 4)
        kinds, which = np.unique(raw[:, :2], axis=0, return_inverse=True)
        if len(kinds) > 256:  # a painting, not parts
            kinds, which = kinds[:1], np.zeros(len(triangles), dtype=np.int64)
        found = []
        for k, (resource, item) in enumerate(kinds.tolist()):
            label, colour = self._material(resource, item)
            label = label or name
            found.append(Body(points, triangles[which.reshape(-1) == k], label[:80], colour))
        return found

    def _material(self, resource: int, item: int) -> tuple[str, str | None]:
        if resource == 0:
            return "", None
        kind = int(self._model.GetPropertyTypeByID(resource))
        if kind == _BASE:
            group = self._model.GetBaseMaterialGroupByID(resource)
            shown = group.GetDisplayColor(item)
            return str(group.GetName(item)), hex_colour(shown.Red / 255, shown.Green / 255, shown.Blue / 255)
        if kind == _COLOURS:
            shown = self._model.GetColorGroupByID(resource).GetColor(item)
            return "", hex_colour(shown.Red / 255, shown.Green / 255, shown.Blue / 255)
        return "", None

    def _filled(self, mesh: Any, call: str, kind: Any, count: int, number: Any) -> Any:
        """An array that the library fills; its own wrapper would make an object of every element."""
        buffer = (kind * count)()
        function = getattr(self._wrapper.lib, f"lib3mf_meshobject_{call}")
        status = function(mesh._handle, ctypes.c_uint64(count), ctypes.c_uint64(0), buffer)
        self._wrapper.checkError(mesh, status)
        return np.frombuffer(buffer, dtype=number)


def _frame(transform: Any) -> Floats:
    """(4, 4) of a transform of four rows of three, which multiplies from the left."""
    fields = np.array([[transform.Fields[row][column] for column in range(3)] for row in range(4)])
    found = np.eye(4)
    found[:3, :] = fields.T
    return found
