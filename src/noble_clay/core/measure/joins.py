"""What a join did, step by step, as facts: volumes, bodies, and how each tool met the body."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.measure.contact import Contact, contact
from noble_clay.core.mesh import Floats
from noble_clay.core.nearby import DIRECTION
from noble_clay.core.piece.models import Op, Part
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.solid.evaluate import Evaluator
from noble_clay.core.solid.meet import made_to_meet
from noble_clay.core.solid.solid import Solid, boolean


@dataclass(frozen=True)
class StepFacts:
    """One line of a join: the part that entered, volumes (mm³) and bodies around it, and how it met the body.

    through: for a difference, whether the tool passes right through. emptied: nothing is left.
    """

    part: str
    op: Op
    volume_before: float
    volume_after: float
    bodies_before: int
    bodies_after: int
    meets: Contact | None
    through: bool
    emptied: bool


def join_facts(parts: tuple[Part, ...], evaluator: Evaluator) -> list[StepFacts]:
    """The facts of each line after the body of a list of parts, in order."""
    lines = [p for p in parts if not p.reference]
    solids = made_to_meet([evaluator.part_solid(p) for p in lines], [p.op for p in lines])
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
                through=part.op == "difference"
                and meets is not None
                and meets.relation == "overlapping"
                and passes_through(body, tool, place_matrix(part.place, part.flip)[:, :3]),
                emptied=after.empty and not body.empty,
            )
        )
        body = after
    return found


def passes_through(body: Solid, tool: Solid, frame: Floats) -> bool:
    """Whether a tool that overlaps a body comes out of it again on the far side.

    True when, along one of the tool's own axes (the columns of `frame`, 3 x 3), the line through the middle of what
    the two share leaves the body before it reaches the tool's end, on both sides.
    """
    shared = boolean("intersection", [body, tool])
    if shared.empty:
        return False
    middle = _middle_inside(shared)
    ends = tool.vertices
    for axis in (2, 0, 1):
        direction = frame[:, axis] / np.linalg.norm(frame[:, axis])
        heights = (ends - middle) @ direction
        tips = [middle + direction * heights.min(), middle + direction * heights.max()]
        if heights.min() < 0 < heights.max() and not any(holds(body, tip) for tip in tips):
            return True
    return False


def holds(solid: Solid, point: Floats) -> bool:
    """Whether a point lies inside a solid: a ray from it leaves the solid once more than it enters."""
    low_x, low_y, low_z, high_x, high_y, high_z = solid.manifold.bounding_box()
    far = float(np.linalg.norm([high_x - low_x, high_y - low_y, high_z - low_z])) * 2 + 1
    away = DIRECTION
    hits = solid.manifold.ray_cast(tuple(point), tuple(point + away * far))
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
