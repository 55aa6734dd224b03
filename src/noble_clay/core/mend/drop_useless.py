"""Drop faces that enclose nothing: degenerate ones and duplicates."""

from __future__ import annotations

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.inspect import collapsed_faces, duplicate_faces
from noble_clay.core.mesh.mesh import Mesh


def drop_useless(mesh: Mesh) -> tuple[Mesh, Done]:
    """Without triangles that name a vertex twice and without second triangles on the same three vertices.

    A triangle whose three different vertices lie in a line is kept: it closes the surface between its neighbours.
    """
    degenerate = collapsed_faces(mesh)
    mesh = mesh.keep(~degenerate)
    duplicate = duplicate_faces(mesh)
    counts = {"degenerate": int(degenerate.sum()), "duplicate": int(duplicate.sum())}
    return mesh.keep(~duplicate), Done("drop_useless", sum(counts.values()), counts)
