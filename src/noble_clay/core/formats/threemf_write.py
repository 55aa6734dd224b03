"""3MF: one object in millimetres, each part a named, coloured base material of its triangles."""

from __future__ import annotations

import ctypes
import locale
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import CLAY


def write_threemf(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    """A 3MF package; points rounded to float32, every triangle kept, since it carries what part it is of."""
    if parts is None:
        parts = NamedParts(np.zeros(len(mesh.triangles), dtype=np.int64), [(name, CLAY)])
    import lib3mf

    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    model.SetLanguage("en")
    model.GetMetaDataGroup().AddMetaData("", "Title", name, "xs:string", True)
    materials = model.AddBaseMaterialGroup()
    ids = [materials.AddMaterial(part, _colour(wrapper, colour)) for part, colour in parts.names]
    body = model.AddMeshObject()
    body.SetName(name)
    body.SetGeometry(
        _filled(lib3mf.Position, mesh.vertices, np.float32), _filled(lib3mf.Triangle, mesh.triangles, np.uint32)
    )
    group = materials.GetResourceID()
    if ids:
        body.SetObjectLevelProperty(group, ids[0])
    if len(ids) > 1:  # else the object's says it all
        properties = (lib3mf.TriangleProperties * len(mesh.triangles))()
        view = np.frombuffer(properties, dtype=np.uint32).reshape(-1, 4)
        view[:, 0] = group
        view[:, 1:] = np.array(ids, dtype=np.uint32)[parts.part_of][:, None]
        body.SetAllTriangleProperties(properties)
    model.AddBuildItem(body, wrapper.GetIdentityTransform())
    writer = model.QueryWriter("3mf")
    # Into a buffer the library writes all of it twice: the first time only to learn how large it becomes.
    with tempfile.TemporaryDirectory(prefix="noble-clay-3mf-") as folder, _same_locale():
        file = Path(folder) / "model.3mf"
        writer.WriteToFile(str(file))
        return file.read_bytes()


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
