"""What a join did, step by step, as facts: volumes, bodies, and how each tool met the body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.coincidence import snap_coincident
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.measure.contact import Contact, contact
from noble_clay.core.mesh.close_points import DIRECTION
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import CONTACT
from noble_clay.core.piece.models import Op, Part
from noble_clay.core.piece.placing import place_matrix

Towards = Literal["right", "left", "back", "front", "top", "under"]
SIDES: tuple[tuple[Towards, Towards], ...] = (("right", "left"), ("back", "front"), ("top", "under"))
"""Names of the directions +x and -x, +y and -y, +z and -z."""


@dataclass(frozen=True)
class Reach:
    """How far a tool goes into a body that it overlaps.

    through: it leaves the body on two opposite sides. left: where it ends inside, mm of the body beyond its end. out:
    the sides on which it stands out beyond the body's box.
    """

    through: bool
    left: float | None
    out: tuple[Towards, ...]


@dataclass(frozen=True)
class StepFacts:
    """One line of a join: the part that entered, volumes (mm³) and bodies around it, and how it met the body.

    reach: for a difference, how far the tool goes. emptied: nothing is left.
    """

    part: str
    op: Op
    volume_before: float
    volume_after: float
    bodies_before: int
    bodies_after: int
    meets: Contact | None
    reach: Reach | None
    emptied: bool


def join_facts(parts: tuple[Part, ...], evaluator: Evaluator) -> list[StepFacts]:
    """The facts of each line after the body of a list of parts, in order."""
    lines = [p for p in parts if not p.reference]
    solids = snap_coincident([evaluator.part_solid(p) for p in lines], [p.op for p in lines])
    found: list[StepFacts] = []
    if not solids:
        return found
    body = solids[0]
    for part, tool in zip(lines[1:], solids[1:], strict=True):
        after = boolean(part.op, [body, tool])
        meets = None if body.empty or tool.empty else contact(body, tool)
        found.append(
            StepFacts(
                part=part.id,
                op=part.op,
                volume_before=body.volume,
                volume_after=after.volume,
                bodies_before=body.bodies,
                bodies_after=after.bodies,
                meets=meets,
                reach=reach_of(body, tool, place_matrix(part.place, part.flip)[:, :3])
                if part.op == "difference" and meets is not None and meets.relation == "overlapping"
                else None,
                emptied=after.empty and not body.empty,
            )
        )
        body = after
    return found


def reach_of(body: Solid, tool: Solid, frame: Floats) -> Reach:
    """How far a tool goes. frame: (3, 3), its columns the tool's own axes.

    It passes right through when, along one of those axes, the line through the middle of what the two share leaves the
    body before it reaches the tool's end, on both sides. Where it leaves on one side only, the other end is inside.
    """
    shared = boolean("intersection", [body, tool])
    low, high = tool.bounds[0] - body.bounds[0], tool.bounds[1] - body.bounds[1]
    over = np.column_stack([high > CONTACT, low < -CONTACT])
    out = tuple(SIDES[k][end] for k, end in np.argwhere(over))
    if shared.empty:
        return Reach(False, None, out)
    middle = _middle_inside(shared)
    left: list[float] = []
    for axis in (2, 0, 1):
        direction = frame[:, axis] / np.linalg.norm(frame[:, axis])
        heights = (tool.vertices - middle) @ direction
        if not heights.min() < 0 < heights.max():
            continue
        tips = [middle + direction * heights.min(), middle + direction * heights.max()]
        inside = [holds(body, tip) for tip in tips]
        if not any(inside):
            return Reach(True, None, out)
        if not all(inside):
            end = 0 if inside[0] else 1
            left.append(_body_beyond(body, tips[end], -direction if end == 0 else direction))
    return Reach(False, min(left) if left else None, out)


def _body_beyond(body: Solid, tip: Floats, direction: Floats) -> float:
    """How far it is from a point inside a body to where a ray from there first leaves it, mm."""
    hits = body.manifold.ray_cast(tuple(tip), tuple(tip + direction * _far(body)))
    return min((float(np.linalg.norm(np.array(h.position) - tip)) for h in hits), default=0.0)


def _far(solid: Solid) -> float:
    """Further than from any point in a solid's box to any other."""
    return float(np.linalg.norm(solid.bounds[1] - solid.bounds[0])) * 2 + 1


def holds(solid: Solid, point: Floats) -> bool:
    """Whether a point lies inside a solid: a ray from it leaves the solid once more than it enters."""
    hits = solid.manifold.ray_cast(tuple(point), tuple(point + DIRECTION * _far(solid)))
    return len(hits) % 2 == 1


def _middle_inside(shared: Solid) -> Floats:
    """The middle of a solid, or, where that lies outside it, a point inside its largest body."""
    points = shared.vertices
    middle: Floats = points.mean(axis=0)
    if holds(shared, middle):
        return middle
    centres = shared.mesh_only().corners.mean(axis=1)
    for start in centres[np.linspace(0, len(centres) - 1, 8).astype(int)]:
        candidate: Floats = start + (middle - start) * 0.05
        if holds(shared, candidate):
            return candidate
    return middle
