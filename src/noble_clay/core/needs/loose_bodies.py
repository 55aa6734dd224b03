"""Bodies beside the largest one, crumbs among them: sunk into it, or, where a cut left them, cut away."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from noble_clay.core.kernel.booleans import block, boolean
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.measure.contact import contact, sink_by
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.inspect import CRUMB_MM3
from noble_clay.core.mesh.mesh import Floats, Mesh, diagonal
from noble_clay.core.mesh.tolerances import ROUNDING
from noble_clay.core.needs.grow import grown
from noble_clay.core.needs.need import InspectionContext, Need, Remedy, move
from noble_clay.core.piece.edits import apply
from noble_clay.core.piece.edits.parts import AddParts
from noble_clay.core.piece.models import Part, Piece, Place
from noble_clay.core.piece.tree import find
from noble_clay.core.primitives.box import Box

MOST_BODIES = 50
AROUND_MM = 0.2
"""How far a cutter that takes a crumb away reaches beyond it."""


def loose_bodies(context: InspectionContext, cuts: bool = True) -> Iterator[Need]:
    """The bodies beside the largest one, at most `MOST_BODIES`. cuts: whether to offer to cut crumbs away.

    Of a mesh that is several bodies by itself only the largest is told: the rest is found, and mended, in the mesh.
    """
    mesh, result = context.result.mesh, context.result
    if result.inspection.bodies < 2:
        return
    shell, volumes = context.bodies
    bodies = [int(i) for i in np.argsort(-volumes) if volumes[i] > 0][: MOST_BODIES + 1]
    parts_of = {i: tuple(result.part_ids[p] for p in np.unique(result.part_of[shell == i])) for i in bodies}
    bodies = _without_rests_of_meshes(context, bodies, parts_of)
    if len(bodies) < 2:
        return
    main_mesh = mesh.keep(shell == bodies[0])
    main, distance = Solid.from_mesh(main_mesh, "main"), MeshDistance(main_mesh)
    for i in bodies[1:]:
        body = mesh.keep(shell == i)
        crumb = volumes[i] < CRUMB_MM3
        movers = _movers(context.piece, parts_of[i], parts_of[bodies[0]])
        remedies, gap = [], float(distance.unsigned_distance(body.vertices)[0].min())
        if movers and all(map(context.movable, movers)):
            solid = Solid.from_mesh(body, "loose")
            meets = contact(main, solid)
            way, gap = sink_by(main, solid, meets=meets), meets.gap
            remedies.append(Remedy("sink", movers[0], float(np.linalg.norm(way)), move(way, *movers)))
        elif crumb and cuts:
            remedies += _without(context, parts_of[i], body, main)
        yield Need(
            "crumb" if crumb else "loose_body",
            tuple(dict.fromkeys((*movers, *parts_of[i]))),
            body.vertices.mean(axis=0),
            diagonal(body.vertices),
            {"volume_mm3": float(volumes[i]), "gap_mm": gap},
            triangles=body,
            other=parts_of[bodies[0]][0] if parts_of[bodies[0]] else None,
            remedies=tuple(remedies),
        )


def _without_rests_of_meshes(
    context: InspectionContext, bodies: list[int], parts_of: dict[int, tuple[str, ...]]
) -> list[int]:
    """Some bodies, the largest first, without those of one mesh alone of which a larger body came before."""
    found, met = [], set[str]()
    for i in bodies:
        if not (len(parts_of[i]) == 1 and parts_of[i][0] in met and _of_several_bodies(context, parts_of[i][0])):
            found.append(i)
        met.update(parts_of[i])
    return found


def _of_several_bodies(context: InspectionContext, part_id: str) -> bool:
    """Whether a part is a mesh that is several bodies by itself, as it was brought in."""
    part = find(context.piece, part_id).part
    if part.mesh is None or context.copied(part_id):
        return False
    return context.neighbours.evaluator.geometry(part).bodies > 1


def copied_whole(piece: Piece, parts: tuple[str, ...]) -> str | None:
    """The innermost part with copies that holds all of a body's parts; None where there is none."""
    wanted, found = set(parts), None
    for part in piece.walk():
        if part.copies is not None and wanted <= {p.id for p in part.walk()}:
            found = part.id  # parents come first
    return found


def _movers(piece: Piece, loose: tuple[str, ...], main: tuple[str, ...]) -> tuple[str, ...]:
    """The outermost parts and joins that hold all of a loose body between them and nothing of the main one, in the
    order of the recipe; none where it shares a part with that.
    """
    inside, outside = set(loose), set(main)

    def search(parts: tuple[Part, ...]) -> Iterator[str]:
        for part in parts:
            held = {p.id for p in part.walk()}
            if inside & held:
                if part.copies is None and not outside & held:
                    yield part.id
                else:
                    yield from search(part.children)

    movers = tuple(search(piece.parts))
    held = {p.id for mover in movers for p in find(piece, mover).part.walk()}
    return movers if inside <= held else ()


def _without(context: InspectionContext, parts: tuple[str, ...], crumb: Mesh, main: Solid) -> Iterator[Remedy]:
    """Ways to be rid of what a cut left over: the cutter widened over it, or a small cutter of its own."""
    middle = crumb.vertices.mean(axis=0)
    for cutter in parts:
        if not context.cuts(cutter) or not context.movable(cutter):
            continue
        side = _side_towards(context, cutter, middle)
        if side is None:
            continue
        at, way = side
        by = float(np.max((crumb.vertices - at) @ way)) + AROUND_MM
        edit = grown(context, cutter, at, way, by) if by > 0 else None
        if edit is not None and _swallowed(context, cutter, apply(context.piece, edit).piece, crumb):
            yield Remedy("widen", cutter, by, edit)
            break
    box = np.array([crumb.vertices.min(axis=0) - AROUND_MM, crumb.vertices.max(axis=0) + AROUND_MM])
    if boolean("intersection", [main, block(box)]).empty:
        size, at = box[1] - box[0], box.mean(axis=0)
        own = Part(
            id="crumb-cutter",
            name="Crumb cutter",
            op="difference",
            primitive=Box(kind="box", size=tuple(np.round(size, 6))),
            place=Place(position=tuple(np.round(at, 6))),
        )
        yield Remedy("cut_away", parts[0], float(size.max()), AddParts(kind="add_parts", parts=(own,)))


def _side_towards(context: InspectionContext, part: str, point: Floats) -> tuple[Floats, Floats] | None:
    """Of a part's box as it stands, the middle of the side that looks most towards a point, and its outward way."""
    view = context.standing.get(part)
    if view is None or view.own is None:
        return None
    frame, own = view.matrices[0], view.own
    middle = frame[:, :3] @ own.mean(axis=0) + frame[:, 3]
    axes = frame[:, :3] / np.linalg.norm(frame[:, :3], axis=0)
    half = np.linalg.norm(frame[:, :3], axis=0) * (own[1] - own[0]) / 2
    beyond = (point - middle) @ axes
    axis = int(np.argmax(np.abs(beyond) / np.maximum(half, ROUNDING)))
    way = axes[:, axis] * (np.sign(beyond[axis]) or 1.0)
    return middle + way * half[axis], way


def _swallowed(context: InspectionContext, cutter: str, after: Piece, crumb: Mesh) -> bool:
    """Whether a cutter, as it would be, takes all of a crumb."""
    (frame,) = next(v.matrices for v in context.views.of(after) if v.id == cutter)
    solid = context.neighbours.evaluator.geometry(find(after, cutter).part).placed(frame)
    return boolean("difference", [Solid.from_mesh(crumb, "crumb"), solid]).empty
