"""Sheets: surfaces that enclose next to nothing, and the wall that gives them a body."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.close_holes import open_loops
from noble_clay.core.mend.orient import LEAST_ROUND
from noble_clay.core.mend.patch import loop_area
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.mass import areas, shell_volumes
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal, double_normals
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.topology import Topology

SHEET = 0.34
"""A shell is a sheet when flat lids over its holes would be at least this share of its own area."""

WALL_MM, WALL_SHARE = 0.8, 0.006
"""The wall that a sheet gets: two lines of a common nozzle, mm, but at most this share of the mesh's size."""


def wall_of(mesh: Mesh) -> float:
    """mm: the wall that a sheet of this mesh gets unless the maker says otherwise."""
    return min(WALL_MM, WALL_SHARE * diagonal(mesh.vertices))


def sheets(mesh: Mesh) -> NDArray[np.bool_]:
    """(shells,), as `Topology.shells` counts them: whether a shell is so open that it is a sheet."""
    topology = Topology(mesh)
    number, shell = topology.shells
    lids = np.zeros(number)
    of_vertex = np.zeros(len(mesh.vertices), dtype=np.int64)
    of_vertex[mesh.triangles[topology.open_halves // 3]] = shell[topology.open_halves // 3][:, None]
    for loop in open_loops(topology.open_half_edges):
        lids[of_vertex[loop[0]]] += np.linalg.norm(loop_area(mesh.vertices[loop]))
    volumes, own = shell_volumes(mesh, shell, number)
    hollow = 36 * np.pi * volumes**2 > LEAST_ROUND * own**3
    found: NDArray[np.bool_] = ~topology.closed_shells & ((lids > SHEET * own) | ~hollow)
    return found


def encloses(mesh: Mesh) -> bool:
    """Whether the mesh, its holes closed flat, would hold more than a crumpled sheet does: by its volume beside that of
    a ball of the same surface, 36 π V² / A³.
    """
    topology = Topology(mesh)
    middle = mesh.vertices.mean(axis=0)
    a, b, c = (mesh.corners - middle).transpose(1, 0, 2)
    volume = np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6
    lid = 0.0
    for loop in open_loops(topology.open_half_edges):
        points = mesh.vertices[loop] - middle
        centre, after = points.mean(axis=0), np.roll(points, -1, axis=0)
        volume += np.einsum("ij,ij->i", points, np.cross(after, centre)).sum() / 6
        lid += float(np.linalg.norm(loop_area(points)))
    surface = float(areas(mesh).sum()) + lid
    return bool(36 * np.pi * volume**2 > 1e-4 * surface**3) if surface > 0 else False


def thicken(mesh: Mesh, thin: NDArray[np.bool_], wall: float) -> tuple[Mesh, Done]:
    """Give the faces where `thin` (m,) is true a wall, half of it on each side, closed along their rims."""
    if not thin.any():
        return mesh, Done("thicken", 0)
    sheet, rest = mesh.keep(thin), mesh.keep(~thin)
    out = _vertex_normals(sheet) * (wall / 2)
    number = len(sheet.vertices)
    rim = Topology(sheet).open_half_edges
    a, b = rim.T
    sides = np.concatenate([np.column_stack([b, a, a + number]), np.column_stack([b, a + number, b + number])])
    body = Mesh(
        np.concatenate([sheet.vertices + out, sheet.vertices - out]),
        np.concatenate([sheet.triangles, sheet.triangles[:, ::-1] + number, sides]),
    )
    count = int(thin.sum())
    return together([rest, body]), Done("thicken", count, {"wall_mm": wall, "area_mm2": float(areas(sheet).sum())})


def _vertex_normals(mesh: Mesh) -> Floats:
    """(n, 3) unit vectors along which every face around a vertex moves out by about as much (area-weighted mean)."""
    total = np.zeros_like(mesh.vertices)
    np.add.at(total, mesh.triangles.reshape(-1), np.repeat(double_normals(mesh).T, 3, axis=0))
    length = np.linalg.norm(total, axis=1, keepdims=True)
    found: Floats = np.divide(total, length, out=np.zeros_like(total), where=length > 0)
    return found


def of_shells(mesh: Mesh, which: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(m,) the faces of the shells where `which` is true."""
    shell: Ints = Topology(mesh).shells[1]
    return which[shell]
