"""Making a piece stand: what would have to be done, each as an edit of its recipe, and how it would stand then."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from manifold3d import Manifold

from noble_clay.core.kernel.plain import manifold_of, mesh_of
from noble_clay.core.mesh.mass import centroid
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.piece.edits.carry import Carried, Carry, Turn
from noble_clay.core.piece.edits.fields import Move
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.edits.several import Several
from noble_clay.core.piece.models import Part, Piece, Place
from noble_clay.core.primitives.box import Box
from noble_clay.core.primitives.cylinder import Cylinder
from noble_clay.core.printing.bed import DOWN, shortest_turn
from noble_clay.core.printing.hull_faces import hull_faces
from noble_clay.core.printing.standing import set_down, standing

STEADY_DEG = 15.0
"""What may be tipped so far stands well on a shelf (common practice)."""

LEAN_DEG = 40.0
"""What would have to lean further is another pose."""

CUT_SHARES = 0.004, 0.008, 0.015, 0.025, 0.04, 0.06, 0.09
"""Of the height: how much of the foot may be cut off."""

BASE_SHARES = 0.12, 0.2, 0.3, 0.45, 0.65
"""Of the size: radii of a base."""

BASE_HIGH = 0.05
"""Of the height; at least `BASE_LEAST` mm."""

BASE_LEAST = 2.0

How = Literal["lean", "flatten", "base"]


@dataclass(frozen=True)
class Steadying:
    """how: what is done; by: degrees it leans, mm that are cut off, or the radius of a base, mm. tip_angle: degrees,
    as `standing` has it, then.
    """

    how: How
    by: float
    tip_angle: float
    edit: Carry | Several | AddParts


def steadyings(piece: Piece, mesh: Mesh) -> list[Steadying]:
    """The best of each kind that makes it stand better, the best first. mesh: what the piece comes to, closed."""
    now = standing(set_down(mesh)).tip_angle
    solid = manifold_of(mesh)
    if solid.is_empty() or not piece.parts:
        return []
    found = [_lean(piece, mesh, solid), _flattened(piece, mesh, solid), _based(piece, mesh, solid)]
    better = [s for s in found if s is not None and s.tip_angle > now + 0.5]
    return sorted(better, key=lambda s: -s.tip_angle)


def _tip_angle(solid: Manifold) -> float:
    return standing(set_down(mesh_of(solid))).tip_angle


def _lean(piece: Piece, mesh: Mesh, solid: Manifold) -> Steadying | None:
    """Onto the face of its hull, not too far from the floor, on which it stands best."""
    best: tuple[float, Floats] | None = None
    for face in hull_faces(solid):
        if face @ DOWN <= math.cos(math.radians(LEAN_DEG)):
            continue
        turned = Mesh(mesh.vertices @ shortest_turn(face, DOWN).T, mesh.triangles)
        angle = standing(set_down(turned)).tip_angle
        if best is None or angle > best[0]:
            best = angle, face
    if best is None:
        return None
    angle, face = best
    axis = np.cross(face, DOWN)
    by = math.degrees(math.atan2(float(np.linalg.norm(axis)), float(face @ DOWN)))
    if by < 0.05:
        return None
    middle = centroid(mesh)
    axis /= np.linalg.norm(axis)
    turn = shortest_turn(face, DOWN)
    low = float(mesh.vertices[:, 2].min())
    sunk = float(((mesh.vertices - middle) @ turn.T)[:, 2].min()) + float(middle[2])
    moved = Carried(
        id=piece.parts[0].id,
        turn=Turn(axis=_triple(axis), angle=by, centre=_triple(middle)),
        by=(0.0, 0.0, round(low - sunk, 9)),
    )
    edit = Carry(kind="carry", moves=tuple(moved.model_copy(update={"id": p.id}) for p in piece.parts), how="Turned")
    return Steadying("lean", by, angle, edit)


def _flattened(piece: Piece, mesh: Mesh, solid: Manifold) -> Steadying | None:
    """Its foot cut off level: by as little as makes it steady, or as far as that helps."""
    assert mesh.bounds is not None
    low, high = mesh.bounds
    best: tuple[float, float] | None = None
    for share in CUT_SHARES:
        by = round(share * float(high[2] - low[2]), 2)
        if by <= 0:
            continue
        angle = _tip_angle(solid.trim_by_plane((0, 0, 1), float(low[2]) + by))
        if best is None or angle > best[0] + 0.5:
            best = angle, by
        if angle >= STEADY_DEG:
            break
    if best is None:
        return None
    angle, by = best
    size = (*((high - low)[:2] + 2.0).tolist(), by + 1.0)
    middle = (low + high) / 2
    cutter = Part(
        id="flat-foot",
        name="Flat foot",
        op="difference",
        primitive=Box(kind="box", size=size),
        # After all has sunk by as much, its top lies where the floor was.
        place=Place(position=_triple(np.array([middle[0], middle[1], float(low[2]) - size[2] / 2]))),
    )
    sink = Move(kind="move", ids=tuple(p.id for p in piece.parts), by=(0.0, 0.0, -by))
    put = AddParts(kind="add_parts", parts=(cutter,))
    return Steadying("flatten", by, angle, Several(kind="several", edits=(sink, put), how="Made it stand"))


def _based(piece: Piece, mesh: Mesh, solid: Manifold) -> Steadying | None:
    """A round base under its weight, in which its feet stand: as small as makes it steady."""
    assert mesh.bounds is not None
    low, high = mesh.bounds
    thick = round(max(BASE_LEAST, BASE_HIGH * float(high[2] - low[2])), 1)
    centre = centroid(mesh)
    best: tuple[float, float] | None = None
    for share in BASE_SHARES:
        radius = round(share * float(np.linalg.norm(high - low)), 1)
        disc = Manifold.cylinder(thick, radius, circular_segments=64).translate((centre[0], centre[1], low[2]))
        whole = solid + disc
        if len(whole.decompose()) > len(solid.decompose()):
            continue  # its feet are beside it
        angle = _tip_angle(whole)
        if best is None or angle > best[0]:
            best = angle, radius
        if angle >= STEADY_DEG:
            break
    if best is None:
        return None
    angle, radius = best
    base = Part(
        id="base",
        name="Base",
        primitive=Cylinder(kind="cylinder", radius=radius, height=thick),
        place=Place(position=_triple(np.array([centre[0], centre[1], low[2] + thick / 2]))),
    )
    return Steadying("base", radius, angle, AddParts(kind="add_parts", parts=(base,)))


def _triple(point: Floats) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 9) for v in point)
    return x, y, z
