"""A writer: the points of a mesh, a line each."""

from __future__ import annotations

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.registry import Format
from noble_clay.core.mesh.mesh import Mesh


def write_points(mesh: Mesh, name: str, parts: NamedParts | None = None) -> bytes:
    return "".join(f"{x:g} {y:g} {z:g}\n" for x, y, z in mesh.vertices).encode()


FORMATS = [
    Format(
        "pts", "Points", "its corners, a line each", "text/plain", writes="tests.toy.formats:write_points", offered=True
    )
]
