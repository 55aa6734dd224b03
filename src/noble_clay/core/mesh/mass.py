"""Volume, area and centroid of triangle meshes.

Volumes and centroids by the divergence theorem over signed tetrahedra (B. Mirtich, "Fast and accurate computation of
polyhedral mass properties", 1996).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, cross_product, double_normals
from noble_clay.core.mesh.tolerances import SOME


def signed_volumes(mesh: Mesh, origin: Floats | None = None) -> Floats:
    """(m,) mm³: the tetrahedron of every triangle with `origin`, by default the middle of the mesh."""
    if len(mesh.triangles) == 0:
        return np.zeros(0)
    middle = mesh.vertices.mean(axis=0) if origin is None else origin
    a, b, c = (mesh.corners - middle).transpose(1, 0, 2)
    found: Floats = np.einsum("ij,ij->i", a, cross_product(b, c)) / 6
    return found


def volumes_and_areas(mesh: Mesh) -> tuple[Floats, Floats]:
    """(m,) mm³ and (m,) mm²: `signed_volumes` and `areas`, their common work done once."""
    if len(mesh.triangles) == 0:
        return np.zeros(0), np.zeros(0)
    across = double_normals(mesh)
    from_middle = (mesh.vertices - mesh.vertices.mean(axis=0))[mesh.triangles[:, 0]]
    volumes: Floats = np.einsum("ij,ji->i", from_middle, across) / 6
    return volumes, np.sqrt((across * across).sum(axis=0)) / 2


def shell_volumes(mesh: Mesh, shell: Ints, number: int) -> tuple[Floats, Floats]:
    """(number,) mm³ and mm² of every shell (m,); the volume of an open one is told from the middle of its own faces."""
    middles = np.zeros((number, 3))
    np.add.at(middles, shell, mesh.corners.mean(axis=1))
    middles /= np.maximum(np.bincount(shell, minlength=number), 1)[:, None]
    across = double_normals(mesh)
    each = np.einsum("ij,ji->i", mesh.vertices[mesh.triangles[:, 0]] - middles[shell], across) / 6
    surface = np.sqrt((across * across).sum(axis=0)) / 2
    return shell_sums(shell, each, number), shell_sums(shell, surface, number)


def shell_sums(shell: Ints, values: Floats, number: int) -> Floats:
    """(number,): the sum of the values (m,) of each shell's triangles."""
    return np.bincount(shell, weights=values, minlength=number).astype(np.float64)


def is_film(volumes: Floats, areas: Floats, thickness: float) -> NDArray[np.bool_]:
    """(n,) which closed shells of these volumes, mm³, and areas, mm², are at most `thickness` mm thick in the mean."""
    found: NDArray[np.bool_] = np.abs(volumes) <= thickness / 2 * areas
    return found


def areas(mesh: Mesh) -> Floats:
    """(m,) mm²."""
    across = double_normals(mesh)
    found: Floats = np.sqrt((across * across).sum(axis=0)) / 2
    return found


def heights(mesh: Mesh) -> Floats:
    """(m,) the least height of every triangle, mm."""
    across = double_normals(mesh)
    x, y, z = np.ascontiguousarray(mesh.vertices.T)
    longest = np.zeros(len(mesh.triangles))
    a, b, c = np.ascontiguousarray(mesh.triangles.T)
    for start, end in ((a, b), (b, c), (c, a)):
        np.maximum(longest, (x[end] - x[start]) ** 2 + (y[end] - y[start]) ** 2 + (z[end] - z[start]) ** 2, out=longest)
    found: Floats = np.sqrt((across * across).sum(axis=0) / np.maximum(longest, SOME))
    return found


def volume(mesh: Mesh) -> float:
    """mm³ enclosed by a closed mesh."""
    return float(signed_volumes(mesh).sum())


def centroid(mesh: Mesh) -> Floats:
    """(3,) mm: the centre of mass of the solid that a closed mesh encloses."""
    middle = mesh.vertices.mean(axis=0)
    parts = signed_volumes(mesh, middle)
    centres = (mesh.corners - middle).sum(axis=1) / 4
    found: Floats = middle + (parts[:, None] * centres).sum(axis=0) / parts.sum()
    return found


def normals(mesh: Mesh) -> Floats:
    """(m, 3) unit normals; zero for a triangle without area."""
    cross = double_normals(mesh).T
    length = np.linalg.norm(cross, axis=1, keepdims=True)
    found: Floats = np.divide(cross, length, out=np.zeros_like(cross), where=length > 0)
    return found
