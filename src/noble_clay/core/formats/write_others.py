"""OBJ, PLY and GLB, written by trimesh: the shape only."""

from __future__ import annotations

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.rounding import rounded
from noble_clay.core.mesh.mesh import Mesh


def write_obj(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    return _exported(mesh, "obj")


def write_ply(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    return _exported(rounded(mesh), "ply")


def write_glb(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    return _exported(rounded(mesh), "glb")


def _exported(mesh: Mesh, file_type: str) -> bytes:
    import trimesh

    found = trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False).export(file_type=file_type)
    return found.encode() if isinstance(found, str) else bytes(found)
