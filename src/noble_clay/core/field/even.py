"""A closed mesh rebuilt of even triangles: marching cubes, drawn back onto the surface, sharp edges kept."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from noble_clay.core.field.band import Band
from noble_clay.core.field.sharp import sharpened
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mesh import Ints, Mesh, average_of_neighbours

ROUNDS = 6
"""Times that the vertices are drawn towards their neighbours and back to the surface."""

LEAST_TURN, LEAST_LEFT = 0.2, 1e-6
"""Where the cosine of a triangle's turn in one round is less it turns over; of less of its area, squared, it collapses.
"""


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
        points = _without_turning(mesh.triangles, points, wanted)
    return Mesh(points, mesh.triangles)


@compiled
def _without_turning(triangles: Any, old: Any, new: Any) -> Any:
    """`new` points (n, 3), but `old` ones where a triangle would turn over or collapse."""
    points = new.copy()
    changed = np.ones(len(points), dtype=np.bool_)
    before, after = np.empty(3), np.empty(3)
    for _ in range(8):
        bad = np.zeros(len(points), dtype=np.bool_)
        found = False
        for t in range(len(triangles)):
            a, b, c = triangles[t]
            if not (changed[a] or changed[b] or changed[c]):
                continue
            _double_normal(old, a, b, c, before)
            _double_normal(points, a, b, c, after)
            along = was = now = 0.0
            for k in range(3):
                along, was, now = along + before[k] * after[k], was + before[k] ** 2, now + after[k] ** 2
            if along <= LEAST_TURN * math.sqrt(was * now) or now < LEAST_LEFT * was:
                bad[a] = bad[b] = bad[c] = found = True
        if not found:
            return points
        for i in range(len(points)):
            if bad[i]:
                for k in range(3):
                    points[i, k] = old[i, k]
        changed = bad
    return old.copy()


@small
def _double_normal(points: Any, a: Any, b: Any, c: Any, into: Any) -> None:
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        into[k] = (points[b, i] - points[a, i]) * (points[c, j] - points[a, j])
        into[k] -= (points[b, j] - points[a, j]) * (points[c, i] - points[a, i])
