"""The face of a solid under a ray: its plane, and its middle where it is a flat face rather than a facet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.mesh.topology import vertex_shells

SAME_DIRECTION = 1 - 1e-9
ROUND = np.cos(np.radians(16))
"""Facets that meet at a flatter angle than 16° belong to something round: 24 sides or more."""


@dataclass(frozen=True, eq=False)
class Face:
    """point: (3,) where the ray meets the face, mm. normal: (3,) unit, outward. middle: (3,) the centroid of a flat
    face; None where the ray meets something round. triangle: of the solid's mesh, that the point lies on.
    """

    point: Floats
    normal: Floats
    middle: Floats | None
    triangle: int


def face_at(solid: Solid, eye: Floats, direction: Floats) -> Face | None:
    """The face that a ray from `eye` (3,) along the unit vector `direction` (3,) enters first; None when it misses."""
    if solid.empty:
        return None
    mesh = solid.mesh_only()
    middle = mesh.vertices.mean(axis=0)
    far = float(np.linalg.norm(mesh.vertices - middle, axis=1).max() + np.linalg.norm(middle - eye)) + 1
    hits = solid.manifold.ray_cast(tuple(eye), tuple(eye + direction * far))
    entering = [h for h in hits if np.dot(h.normal, direction) < 0]
    if not entering:
        return None
    hit = min(entering, key=lambda h: h.distance)
    # The hit's own numbers are rounded; its plane is exact in the vertices of the triangle.
    facing = normals(mesh)
    triangle = _triangle_at(mesh, facing, np.array(hit.position), np.array(hit.normal))
    normal = facing[triangle]
    corner = mesh.vertices[mesh.triangles[triangle, 0]]
    point = np.array(hit.position) - ((np.array(hit.position) - corner) @ normal) * normal
    return Face(point, normal, _middle(mesh, facing, triangle), triangle)


def _triangle_at(mesh: Mesh, facing: Floats, point: Floats, normal: Floats) -> int:
    """The triangle that holds a point on the surface: among those in its plane, the one it lies least outside of."""
    first = mesh.vertices[mesh.triangles[:, 0]]
    off = np.abs(np.einsum("ij,ij->i", facing, point - first)) + (1 - facing @ normal) * 1e3
    near = np.flatnonzero(off <= off.min() + HAIR)
    a, b, c = mesh.vertices[mesh.triangles[near]].transpose(1, 0, 2)
    outside = np.max(
        [-np.einsum("ij,ij->i", np.cross(q - p, point - p), facing[near]) for p, q in ((a, b), (b, c), (c, a))], axis=0
    )
    return int(near[np.argmin(off[near] + np.maximum(outside, 0))])


def _middle(mesh: Mesh, facing: Floats, triangle: int) -> Floats | None:
    """The centroid of the flat region around a triangle, or None where it is one facet among others like it."""
    normal, corner = facing[triangle], mesh.vertices[mesh.triangles[triangle, 0]]
    off = np.abs((mesh.corners - corner) @ normal).max(axis=1)
    level = (facing @ normal > SAME_DIRECTION) & (off < HAIR)
    candidates = np.flatnonzero(level)
    here = int(np.searchsorted(candidates, triangle))
    _, shell = vertex_shells(Mesh(mesh.vertices, mesh.triangles[candidates]))
    region = candidates[shell == shell[here]]
    inside = np.zeros(len(mesh.triangles), dtype=bool)
    inside[region] = True
    rim = np.zeros(len(mesh.vertices), dtype=bool)
    rim[mesh.triangles[region]] = True
    around = ~inside & (rim[mesh.triangles].sum(axis=1) >= 2)
    each = areas(mesh)
    weights = each[region]
    gently = around & (facing @ normal > ROUND)
    # The thin strips of a filleted edge bend away gently too, but they are no facets like this one.
    if np.any(each[gently] > weights.sum() / 4):
        return None
    centres = mesh.corners[region].mean(axis=1)
    found: Floats = (weights[:, None] * centres).sum(axis=0) / weights.sum()
    return found
