"""How two solids stand to each other: apart, touching, overlapping, one in the other; and how to sink them together."""

from __future__ import annotations

from dataclasses import dataclass
from operator import itemgetter
from typing import Literal

import numpy as np

from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import CONTACT, SHARE, UNIT

Relation = Literal["apart", "touching", "overlapping", "inside", "swallows"]
SINK_MM = 0.4
"""How deep one part is sunk into another unless the maker says otherwise: one line of a common nozzle."""

DEPTHS = 1.0, 1.5, 2.5, 5.0, 10.0, 25.0
"""Of the depth that is asked for, tried in turn: where slanted faces meet, what both have is thinner than that."""


@dataclass(frozen=True)
class Contact:
    """How `b` stands to `a`.

    relation: "inside" when b lies wholly in a, "swallows" when a lies wholly in b. gap: mm between them, 0 when they
    meet. depth: mm of overlap, the least width of what they share. shared: mm³. along: for touching, "face", "edge"
    or "corner". direction: (3,) unit, the way to move b into a; None when they overlap. at: (3,) where they are
    nearest.
    """

    relation: Relation
    gap: float = 0.0
    depth: float = 0.0
    shared: float = 0.0
    along: Literal["face", "edge", "corner"] | None = None
    direction: tuple[float, float, float] | None = None
    at: tuple[float, float, float] | None = None


def contact(a: Solid, b: Solid, nearest: bool = True) -> Contact:
    """How solid b stands to solid a. Both must not be empty. nearest: whether to say where they are, when apart."""
    both = boolean("intersection", [a, b])
    depth, _ = thinnest(both) if not both.empty else (0.0, None)
    if depth >= 2 * CONTACT:
        shared = both.volume
        relation: Relation = "overlapping"
        if shared >= b.volume * (1 - SHARE):
            relation = "inside"
        elif shared >= a.volume * (1 - SHARE):
            relation = "swallows"
        return Contact(relation, depth=depth, shared=shared)
    gap = gap_between(a, b)
    if gap < CONTACT:
        point, towards = _facing(a, b)
        along = _contact_shape(a, b, towards)
        return Contact("touching", gap, depth, along=along, direction=_triple(towards), at=_triple(point))
    if not nearest:
        return Contact("apart", gap)
    point, towards = _nearest(a.mesh_only(), b.mesh_only(), gap)
    return Contact("apart", gap, direction=_triple(towards), at=_triple(point))


def gap_between(a: Solid, b: Solid) -> float:
    """The least distance between two solids, mm; 0 when they meet."""
    from scipy.spatial import cKDTree

    va, vb = a.vertices, b.vertices
    few, many = (va, vb) if len(va) < len(vb) else (vb, va)
    limit, _ = cKDTree(many).query(few)
    return float(a.manifold.min_gap(b.manifold, float(limit.min()) * 1.001 + CONTACT))


def sink_by(a: Solid, b: Solid, depth: float = SINK_MM, meets: Contact | None = None) -> Floats:
    """The way (3,) mm to move b so that it overlaps a by about `depth`. Zero when they overlap that much already.

    meets: how b stands to a, where that is known.
    """
    found = meets or contact(a, b)
    if found.direction is None:
        return np.zeros(3)
    direction = np.array(found.direction)
    ways: list[tuple[float, Floats]] = []  # how thick what both have is then, and the way
    for share in DEPTHS:
        way: Floats = direction * (found.gap + depth * share)
        moved = b.placed(np.column_stack([np.eye(3), way]))
        both = boolean("intersection", [a, moved])
        ways.append((0.0 if both.empty else thinnest(both)[0], way))
        if ways[-1][0] >= depth * 0.5:
            break
    # Where thin corners meet it is never as thick, and a long way leads past them: then the thickest.
    return max(ways, key=itemgetter(0))[1]


def thinnest(solid: Solid) -> tuple[float, Floats]:
    """The least width of a solid and its direction, among x, y, z and the normals of its largest faces."""
    mesh = solid.mesh_only()
    largest = np.argsort(-areas(mesh))[:32]
    directions = np.concatenate([np.eye(3), normals(mesh)[largest]])
    directions = directions[np.linalg.norm(directions, axis=1) > 0.5]
    heights = mesh.vertices @ directions.T
    widths = np.ptp(heights, axis=0)
    best = int(np.argmin(widths))
    return float(widths[best]), directions[best]


def _triple(v: Floats) -> tuple[float, float, float]:
    x, y, z = (round(float(c), 9) + 0.0 for c in v)
    return x, y, z


def _nearest(a: Mesh, b: Mesh, gap: float) -> tuple[Floats, Floats]:
    """Where two meshes that are `gap` mm apart are nearest, and the unit direction from b to a there."""
    a, b = _near_part(a, b, gap), _near_part(b, a, gap)
    found = []
    for source, target, sign in ((b, a, 1.0), (a, b, -1.0)):
        feet = MeshDistance(target).closest_points(source.vertices)
        away = np.linalg.norm(feet - source.vertices, axis=1)
        best = int(np.argmin(away))
        point = source.vertices[best]
        found.append((float(away[best]), point, sign * (feet[best] - point)))
    _, point, way = min(found, key=lambda f: f[0])
    length = np.linalg.norm(way)
    if length < UNIT:
        return _facing_normals(a, b)
    return point, way / length


def _near_part(mesh: Mesh, other: Mesh, gap: float) -> Mesh:
    """The triangles of a mesh that come within `gap` mm of the box around another one."""
    bounds = other.bounds
    assert bounds is not None
    low, high = bounds[0] - 1.001 * gap - CONTACT, bounds[1] + 1.001 * gap + CONTACT
    beyond = np.column_stack([mesh.vertices < low, mesh.vertices > high])
    outside = np.any(beyond[mesh.triangles].all(axis=1), axis=1)  # all corners beyond one side
    return mesh.keep(~outside)


def _facing(a: Solid, b: Solid) -> tuple[Floats, Floats]:
    """Where two touching solids touch and the direction that takes b into a: across facing flat faces if any."""
    for i in range(len(b.planes.reaches)):
        normal, point = b.planes.normals[i], b.planes.points[i]
        facing = a.planes.normals @ normal < -1 + 1e-6
        level = np.abs((a.planes.points - point) @ normal) < 2 * CONTACT
        near = np.linalg.norm(a.planes.middles - b.planes.middles[i], axis=1) <= a.planes.reaches + b.planes.reaches[i]
        if np.any(facing & level & near):
            moved = b.placed(np.column_stack([np.eye(3), normal * 1e-3]))
            both = boolean("intersection", [a, moved])
            if not both.empty and thinnest(both)[0] > 1e-4:
                return both.vertices.mean(axis=0), normal
    return _facing_normals(a.mesh_only(), b.mesh_only())


def _facing_normals(a: Mesh, b: Mesh) -> tuple[Floats, Floats]:
    """As `_facing`, from the mean normals of the triangles near the contact: b's outward less a's."""
    total, places = np.zeros(3), []
    for mesh, other, sign in ((b, a, 1.0), (a, b, -1.0)):
        low, high = other.vertices.min(axis=0) - CONTACT * 2, other.vertices.max(axis=0) + CONTACT * 2
        touching = np.all((mesh.corners.max(axis=1) >= low) & (mesh.corners.min(axis=1) <= high), axis=1)
        total += sign * normals(mesh)[touching].sum(axis=0) / max(1, touching.sum())
        places.append(np.clip(mesh.vertices.mean(axis=0), low, high))
    if np.linalg.norm(total) < 1e-6:
        total = a.vertices.mean(axis=0) - b.vertices.mean(axis=0)
    length = np.linalg.norm(total)
    return np.mean(places, axis=0), total / length if length > 0 else np.array([0.0, 0.0, -1.0])


def _contact_shape(a: Solid, b: Solid, direction: Floats) -> Literal["face", "edge", "corner"]:
    """Push b a little into a and look how far what they then share extends: in two directions, in one, in none."""
    little = 1e-3
    both = boolean("intersection", [a, b.placed(np.column_stack([np.eye(3), direction * little]))])
    if both.empty:
        return "corner"
    spread = both.vertices - both.vertices.mean(axis=0)
    across = spread - np.outer(spread @ direction, direction)
    reach = np.linalg.svd(across, compute_uv=False) / max(1.0, np.sqrt(len(across)))
    wide = int(np.sum(reach > 20 * little))
    return "face" if wide >= 2 else "edge" if wide == 1 else "corner"
