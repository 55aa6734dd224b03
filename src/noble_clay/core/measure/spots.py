"""Points of a solid to measure from: what a ray meets, caught by the corner, edge or middle that is near."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.measure.faces import face_at
from noble_clay.core.mesh.half_edges import across
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import HAIR

Kind = Literal["corner", "edge", "middle", "surface"]

SHARP = np.cos(np.radians(32))
"""Faces that meet at a wider angle have an edge between them; the view shades them so too."""

STRAIGHT = np.cos(np.radians(20))
"""Edges that go on into each other bend less: else there is a corner."""

EXACT = 1e-4
"""A round fits where no vertex is farther off it than this share of its radius."""


@dataclass(frozen=True, eq=False)
class Spot:
    """point: (3,) mm. kind: what it was caught by. normal: (3,) of the face that the ray met; of what it only passed,
    the way back along the ray. radius: of the ball or cylinder that this face is of, mm; thickness: from the surface
    straight in to where the solid ends, mm; None where there is none.
    """

    point: Floats
    kind: Kind
    normal: Floats
    radius: float | None
    thickness: float | None


@dataclass(frozen=True, eq=False)
class Edges:
    """The sharp edges of a mesh. facing: (m, 3) the normals of its triangles. ends: (e, 2, 3) mm. corners: (c, 3) where
    they end, fork or bend. beside: (m, 3) the triangle across each side of every triangle, -1 where that side is a
    sharp edge.
    """

    mesh: Mesh
    facing: Floats
    ends: Floats
    corners: Floats
    beside: Ints


def sharp_edges(mesh: Mesh) -> Edges:
    """Of a closed mesh."""
    facing = normals(mesh)
    beside = across(mesh.triangles.astype(np.int64), len(mesh.vertices))
    cosine = np.einsum("mj,mkj->mk", facing, facing[beside])
    sharp = (beside < 0) | (cosine < SHARP)
    first = sharp & (np.arange(len(beside))[:, None] > beside)  # each edge once
    triangle, side = np.nonzero(first)
    a, b = mesh.triangles[triangle, side], mesh.triangles[triangle, (side + 1) % 3]
    ends = mesh.vertices[np.stack([a, b], axis=1)]
    return Edges(mesh, facing, ends, mesh.vertices[_corners(mesh, a, b)], np.where(sharp, -1, beside))


def _corners(mesh: Mesh, a: Ints, b: Ints) -> Ints:
    """The vertices where sharp edges from a to b do not just go on."""
    vertex, other = np.concatenate([a, b]), np.concatenate([b, a])
    times = np.bincount(vertex, minlength=len(mesh.vertices))
    order = np.argsort(vertex, kind="stable")
    vertex, other = vertex[order], other[order]
    two = np.flatnonzero(times[vertex] == 2)[::2]
    ways = mesh.vertices[other] - mesh.vertices[vertex]
    ways /= np.maximum(np.linalg.norm(ways, axis=1), 1e-300)[:, None]
    bent = np.einsum("ij,ij->i", ways[two], -ways[two + 1]) < STRAIGHT
    found: Ints = np.union1d(np.flatnonzero((times > 0) & (times != 2)), vertex[two[bent]])
    return found


def spot_at(solid: Solid, edges: Edges, eye: Floats, direction: Floats, reach: float) -> Spot | None:
    """What a ray from `eye` (3,) along the unit vector `direction` meets first, or else passes within reach.

    It is caught by what is within `reach` mm of where it meets the surface, or of the ray that misses it: a corner
    before the middle of an edge or of a flat face, and that before an edge. None where there is nothing. edges: of the
    solid's mesh.
    """
    face = face_at(solid, eye, direction)
    if face is None:
        return _passed(edges, eye, direction, reach)
    point, kind = _caught(edges, face.point, face.middle, reach)
    radius = None if face.middle is not None else _radius(edges, face.triangle)
    return Spot(point, kind, face.normal, radius, _thickness(solid, face.point, face.normal))


def _caught(edges: Edges, point: Floats, middle: Floats | None, reach: float) -> tuple[Floats, Kind]:
    near = _nearest(edges.corners, point, reach)
    if near is not None:
        return near, "corner"
    middles = edges.ends.mean(axis=1)
    if middle is not None:
        middles = np.concatenate([middles, middle[None]])
    near = _nearest(middles, point, reach)
    if near is not None:
        return near, "middle"
    a, b = edges.ends[:, 0], edges.ends[:, 1]
    along = b - a
    share = np.einsum("ij,ij->i", point - a, along) / np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
    near = _nearest(a + np.clip(share, 0, 1)[:, None] * along, point, reach)
    return (point, "surface") if near is None else (near, "edge")


def _passed(edges: Edges, eye: Floats, direction: Floats, reach: float) -> Spot | None:
    """Of the edges that a ray passes within reach the point that it comes nearest to, caught by what is there."""
    if len(edges.ends) == 0:
        return None
    a = edges.ends[:, 0]
    along, back = edges.ends[:, 1] - a, a - eye
    # Where two lines come nearest to each other, on the edge kept between its ends (value from memory).
    b = along @ direction
    length = np.einsum("ij,ij->i", along, along)
    rest = np.maximum(length - b * b, 1e-300)
    share = (b * (back @ direction) - np.einsum("ij,ij->i", along, back)) / rest
    points = a + np.clip(share, 0, 1)[:, None] * along
    away = points - eye
    off = np.linalg.norm(away - (away @ direction)[:, None] * direction, axis=1)
    best = int(np.argmin(off))
    if off[best] > reach:
        return None
    point, kind = _caught(edges, points[best], None, reach)
    return Spot(point, kind, -direction, None, None)


def _nearest(points: Floats, point: Floats, reach: float) -> Floats | None:
    """The nearest of (n, 3) points, where one is within reach."""
    if len(points) == 0:
        return None
    far = np.linalg.norm(points - point, axis=1)
    best = int(np.argmin(far))
    found: Floats = points[best]
    return found if far[best] <= reach else None


def _thickness(solid: Solid, point: Floats, normal: Floats) -> float | None:
    start = point - HAIR * normal
    size = float(np.linalg.norm(solid.bounds[1] - solid.bounds[0])) + 1
    hits = solid.manifold.ray_cast(tuple(start), tuple(start - size * normal))
    leaving = [h for h in hits if np.dot(h.normal, normal) < 0]
    if not leaving:
        return None
    hit = min(leaving, key=lambda h: h.distance)
    return float(np.linalg.norm(np.array(hit.position) - point))


def _radius(edges: Edges, triangle: int) -> float | None:
    """Of the ball or cylinder whose facets lie around a triangle, up to the sharp edges; None where it is neither."""
    mesh = edges.mesh
    region = _region(edges.beside, triangle)
    facing = edges.facing[region]
    # A vertex made by a cut lies on one facet or between two: only where facets meet is it on the round itself.
    _, facet = np.unique(np.round(facing, 6), axis=0, return_inverse=True)
    met = np.unique(np.column_stack([mesh.triangles[region].reshape(-1), np.repeat(facet.reshape(-1), 3)]), axis=0)
    vertex, facets = np.unique(met[:, 0], return_counts=True)
    # Facets of a cylinder or cone are all inclined alike to its axis, a cylinder's not at all.
    share, spread = np.linalg.eigh(np.cov(facing.T))
    if share[0] > EXACT * share[2]:
        return _round(mesh.vertices[vertex[facets >= 3]])
    if abs(float(facing.mean(axis=0) @ spread[:, 0])) > EXACT:
        return None
    return _round(mesh.vertices[vertex[facets >= 2]] @ spread[:, 1:])


def _region(beside: Ints, triangle: int) -> Ints:
    """The triangles that hang together with one without a sharp edge between them."""
    seen: NDArray[np.bool_] = np.zeros(len(beside), dtype=bool)
    seen[triangle] = True
    front = np.array([triangle])
    while len(front):
        further = np.unique(beside[front])
        front = further[(further >= 0) & ~seen[further]]
        seen[front] = True
    return np.flatnonzero(seen)


def _round(points: Floats) -> float | None:
    """Radius of the circle or ball on which points (n, 2) or (n, 3) lie, by least squares; None where they do not."""
    if len(points) <= points.shape[1] + 1:
        return None
    local = points - points.mean(axis=0)
    size = float(np.abs(local).max())
    local = local / size
    rows = np.column_stack([2 * local, np.ones(len(local))])
    found, _, rank, _ = np.linalg.lstsq(rows, np.einsum("ij,ij->i", local, local), rcond=1e-9)
    square = float(found[-1] + found[:-1] @ found[:-1])
    if rank < rows.shape[1] or square <= 0:
        return None
    radius = np.sqrt(square)
    off = np.abs(np.linalg.norm(local - found[:-1], axis=1) - radius).max()
    return float(radius * size) if off <= EXACT * radius else None
