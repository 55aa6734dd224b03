"""Making a piece stand: what would have to be done, each as an edit of its recipe, and how it would stand then."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import takewhile
from typing import Literal

import numpy as np
from manifold3d import Manifold

from noble_clay.core.errors import ClayError
from noble_clay.core.evaluate.result import Result
from noble_clay.core.kernel.plain import manifold_of, mesh_of
from noble_clay.core.mesh.mass import centroid
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import HAIR
from noble_clay.core.piece.edits import apply
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

SPREAD_SHARES = 0.04, 0.08, 0.14, 0.22
"""Of the size: how far feet are moved out."""

FOOT_HIGH = 0.02
"""Of the height: what is no higher rests on the floor, or nearly."""

How = Literal["lean", "flatten", "base", "spread"]
Make = Callable[[Piece], Result]
"""What a piece comes to. Raises ClayError."""


@dataclass(frozen=True)
class Steadying:
    """how: what is done; by: degrees it leans, mm that are cut off or that feet are moved, or the radius of a base, mm.
    tip_angle: degrees, as `standing` has it, then.
    """

    how: How
    by: float
    tip_angle: float
    edit: Carry | Several | AddParts


def steadyings(piece: Piece, made: Result, make: Make) -> list[Steadying]:
    """The best of each kind that makes it stand better, the best first. made: what the piece comes to, closed."""
    mesh = made.mesh
    now = _tip_angle(mesh)
    solid = manifold_of(mesh)
    if solid.is_empty() or not piece.parts:
        return []
    found = [_lean(piece, mesh, solid), _flattened(piece, mesh, solid), _based(piece, mesh, solid)]
    found.append(_spread(piece, made, make))
    better = [s for s in found if s is not None and s.tip_angle > now + 0.5]
    return sorted(better, key=lambda s: -s.tip_angle)


def _tip_angle(mesh: Mesh) -> float:
    return standing(set_down(mesh)).tip_angle


def _lean(piece: Piece, mesh: Mesh, solid: Manifold) -> Steadying | None:
    """Onto the face of its hull, not too far from the floor, on which it stands best."""
    best: tuple[float, Floats] | None = None
    for face in hull_faces(solid):
        if face @ DOWN <= math.cos(math.radians(LEAN_DEG)):
            continue
        turned = Mesh(mesh.vertices @ shortest_turn(face, DOWN).T, mesh.triangles)
        angle = _tip_angle(turned)
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
        angle = _tip_angle(mesh_of(solid.trim_by_plane((0, 0, 1), float(low[2]) + by)))
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
        angle = _tip_angle(mesh_of(whole))
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


def _spread(piece: Piece, made: Result, make: Make) -> Steadying | None:
    """Its feet moved out from under its weight, as far as makes it steady, while it stays in one."""
    feet = _feet(piece, made)
    size = float(np.linalg.norm(made.mesh.vertices.max(axis=0) - made.mesh.vertices.min(axis=0)))
    bodies, best = made.inspection.bodies, None
    for share in SPREAD_SHARES if len(feet) > 1 else ():
        by = round(share * size, 1)
        moves = tuple(Carried(id=i, by=_triple(np.array([*(by * out), 0.0]))) for i, out in feet.items())
        edit = Carry(kind="carry", moves=moves)
        try:
            after = make(apply(piece, edit).piece)
        except ClayError:  # one of them is locked, or it cannot be made
            return best
        if after.solid.empty or not after.inspection.manifold or after.inspection.bodies > bodies:
            break
        angle = _tip_angle(after.mesh)
        if best is None or angle > best.tip_angle:
            best = Steadying("spread", by, angle, edit)
        if angle >= STEADY_DEG:
            break
    return best


def _feet(piece: Piece, made: Result) -> dict[str, Floats]:
    """Parts that reach the floor, each the outermost that is a foot and nothing else; and the way out, (2,) a unit."""
    mesh = made.mesh
    low, high = mesh.vertices[:, 2].min(), mesh.vertices[:, 2].max()
    middles = mesh.corners.mean(axis=1)
    resting = np.flatnonzero(mesh.corners[:, :, 2].max(axis=1) <= low + FOOT_HIGH * (high - low))
    paths = {part.id: path for path, part in _paths(piece.parts, ())}
    leaves = {made.part_ids[k] for k in np.unique(made.part_of[resting])} & set(paths)
    common = _alike([paths[leaf] for leaf in leaves])
    weight = centroid(mesh)[:2]
    found: dict[str, list[Floats]] = {}
    for leaf in leaves:
        if len(paths[leaf]) > common:
            its = resting[made.part_of[resting] == made.part_ids.index(leaf)]
            found.setdefault(paths[leaf][common], []).append(middles[its].mean(axis=0)[:2] - weight)
    ways = {foot: np.mean(offs, axis=0) for foot, offs in found.items()}
    return {foot: way / np.linalg.norm(way) for foot, way in ways.items() if np.linalg.norm(way) > HAIR}


def _alike(paths: Sequence[tuple[str, ...]]) -> int:
    """With how many of the same ids all of them begin."""
    together = zip(*paths, strict=False)
    return sum(1 for _ in takewhile(lambda ids: len(set(ids)) == 1, together))


def _paths(parts: Iterable[Part], above: tuple[str, ...]) -> Iterator[tuple[tuple[str, ...], Part]]:
    """Every part with the ids that lead to it, its own last."""
    for part in parts:
        yield (*above, part.id), part
        yield from _paths(part.children, (*above, part.id))


def _triple(point: Floats) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 9) for v in point)
    return x, y, z
