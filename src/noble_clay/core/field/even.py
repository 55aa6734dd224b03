"""A closed mesh rebuilt of even triangles: marching cubes, drawn back onto the surface, sharp edges kept."""

from __future__ import annotations

import numpy as np

from noble_clay.core.field.band import Band
from noble_clay.core.field.sharp import sharpened
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, average_of_neighbours, double_normals

ROUNDS = 6
"""Times that the vertices are drawn towards their neighbours and back to the surface."""


def even_surface(mesh: Mesh, resolution: float) -> Mesh:
    """The surface of a closed mesh, its triangles' sides about `resolution` mm.

    Raises MeshError when that is too fine.
    """
    bounds = mesh.bounds
    if bounds is None:
        return mesh
    cell = resolution
    distance = MeshDistance(mesh)
    room = 2 * cell
    band = Band.where([(distance, -2 * cell, 2 * cell)], bounds[0] - room, bounds[1] + room, cell)
    if len(band.points) == 0:
        return Mesh.empty()
    found = band.surface(distance(band.points))
    if len(found.triangles) == 0:
        return found
    found, held = sharpened(found, distance.rising(found.vertices)[1], cell, bounds[0] - room)
    return drawn_to(found, held, distance)


def drawn_to(mesh: Mesh, held: Ints, distance: MeshDistance, within: float = np.inf) -> Mesh:
    """A mesh evened out and drawn onto a surface: its vertices go towards their neighbours and back onto it.

    held: vertices (k,) on features, which go onto the surface only. within: those further from it stay, mm.
    """
    average = average_of_neighbours(mesh)
    points = mesh.vertices.copy()
    points[held] = distance.closest_points(
        points[held]
    )  # tangent planes of facets meet a little outside of what is round
    free = distance.unsigned_distance(mesh.vertices)[0] <= within
    free[held] = False
    for _ in range(ROUNDS):
        wanted = points.copy()
        wanted[free] = distance.closest_points((average @ points)[free])
        points = _without_turning(mesh, points, wanted)
    return Mesh(points, mesh.triangles)


def _without_turning(mesh: Mesh, old: Floats, new: Floats) -> Floats:
    """`new` points (n, 3), but `old` ones where a triangle would turn over or collapse."""
    points = new
    before = double_normals(Mesh(old, mesh.triangles))
    for _ in range(8):
        after = double_normals(Mesh(points, mesh.triangles))
        lengths = (before * before).sum(axis=0) * (after * after).sum(axis=0)
        bad = (before * after).sum(axis=0) <= 0.2 * np.sqrt(lengths)
        bad |= (after * after).sum(axis=0) < 1e-6 * (before * before).sum(axis=0)
        if not bad.any():
            return points
        points = points.copy()
        back = distinct(mesh.triangles[bad])
        points[back] = old[back]
    return old
