"""3MF: objects in millimetres, each part a named, coloured base material of its triangles."""

from __future__ import annotations

import ctypes
import locale
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.piece.models import CLAY


def write_threemf(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """A 3MF package of one object; points rounded to float32, every triangle kept, since it says what part it is of."""
    return write_threemf_of([Body(mesh, name, parts, [np.eye(3, 4)])], name)


@dataclass(frozen=True, eq=False)
class Body:
    """An object of a package: a mesh, mm, and for each time that it stands there the (3, 4) that carries it."""

    mesh: Mesh
    name: str
    parts: NamedParts | None
    matrices: list[Floats]


def write_threemf_of(bodies: Sequence[Body], title: str) -> bytes:
    """A 3MF package of several objects, each kept once however often it stands there."""
    import lib3mf

    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    model.SetLanguage("en")
    model.GetMetaDataGroup().AddMetaData("", "Title", title, "xs:string", True)
    for body in bodies:
        added = _added(wrapper, model, body)
        for matrix in body.matrices:
            fields = [[matrix[row, column] for row in range(3)] for column in range(4)]
            model.AddBuildItem(added, lib3mf.Transform(tuple(tuple(map(ctypes.c_float, f)) for f in fields)))
    writer = model.QueryWriter("3mf")
    # Into a buffer the library writes all of it twice, the first time only to learn how large it becomes; and a disk
    # that is full has it end the process. So it writes to a file that is in memory only.
    with os.fdopen(os.memfd_create("model.3mf"), "rb") as held, _same_locale():
        writer.WriteToFile(f"/proc/self/fd/{held.fileno()}")
        held.seek(0)
        return held.read()


def _added(wrapper: Any, model: Any, body: Body) -> Any:
    """The object in a model, its parts as base materials."""
    import lib3mf

    parts = body.parts or NamedParts(np.zeros(len(body.mesh.triangles), dtype=np.int64), [(body.name, CLAY)])
    materials = model.AddBaseMaterialGroup()
    ids = [materials.AddMaterial(part, _colour(wrapper, colour)) for part, colour in parts.names]
    added = model.AddMeshObject()
    added.SetName(body.name)
    added.SetGeometry(
        _filled(lib3mf.Position, body.mesh.vertices, np.float32),
        _filled(lib3mf.Triangle, body.mesh.triangles, np.uint32),
    )
    group = materials.GetResourceID()
    if ids:
        added.SetObjectLevelProperty(group, ids[0])
    if len(ids) > 1:  # else the object's says it all
        properties = (lib3mf.TriangleProperties * len(body.mesh.triangles))()
        view = np.frombuffer(properties, dtype=np.uint32).reshape(-1, 4)
        view[:, 0] = group
        view[:, 1:] = np.array(ids, dtype=np.uint32)[parts.part_of][:, None]
        added.SetAllTriangleProperties(properties)
    return added


@contextmanager
def _same_locale() -> Iterator[None]:
    """The library sets the process's locale to C while it writes, and leaves it so: text files would be ASCII then."""
    before = locale.setlocale(locale.LC_ALL)
    try:
        yield
    finally:
        locale.setlocale(locale.LC_ALL, before)


def _colour(wrapper: object, colour: str) -> object:
    red, green, blue = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
    return wrapper.RGBAToColor(red, green, blue, 255)  # type: ignore[attr-defined]


def _filled(kind: Any, values: NDArray[Any], number: type[np.generic]) -> ctypes.Array[Any]:
    """Rows (n, k) as so many of the library's structures."""
    data = np.ascontiguousarray(values, dtype=number)
    return (kind * len(data)).from_buffer_copy(data.tobytes())  # type: ignore[no-any-return]
