"""Reading a mesh file of any known format; its name's ending says which, and what is in it must agree."""

from __future__ import annotations

from collections.abc import Callable

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.glb import glb_file
from noble_clay.core.formats.mesh_file import MeshFile
from noble_clay.core.formats.obj import obj_file
from noble_clay.core.formats.ply import ply_file
from noble_clay.core.formats.stl import stl_file
from noble_clay.core.formats.threemf_read import threemf_file

READERS: dict[str, Callable[[bytes], MeshFile]] = {
    "stl": stl_file,
    "3mf": threemf_file,
    "obj": obj_file,
    "ply": ply_file,
    "glb": glb_file,
}


def read_mesh(data: bytes, ending: str) -> MeshFile:
    """A mesh file's contents. ending: of its name. Raises MeshError that says what is wrong and where."""
    reader = READERS.get(ending.lower().lstrip("."))
    if reader is None:
        raise MeshError(f"meshes are read from .{', .'.join(READERS)}; this is none of them")
    if not data:
        raise MeshError("the file is empty")
    return reader(data)
