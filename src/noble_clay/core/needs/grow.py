"""Growing a part on one side by a distance, in its own measures where they can say it."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.mesh import Floats, triple
from noble_clay.core.needs.need import InspectionContext
from noble_clay.core.piece.edits.fields import Resize
from noble_clay.core.piece.models import Part
from noble_clay.core.piece.tree import find
from noble_clay.core.primitives.base import stretched

LEAST_SHARE = 0.5
"""Cosine of the angle between the way asked for and an axis of the part, below which no side of it faces that way."""

LEAST_SIZE_MM = 0.05
"""What would be smaller, is not offered."""


def grown(
    context: InspectionContext, part_id: str, at: Floats, way: Floats, by: float, both: bool = False
) -> Resize | None:
    """The edit after which a part's side at a point reaches `by` mm further along a way; None where that cannot be.

    at: (3,) on the wheel, where the side is. way: (3,) unit. both: on the opposite side too. A round part becomes
    wider all round, so that it stays round.
    """
    view, part = context.standing.get(part_id), find(context.piece, part_id).part
    if view is None or view.own is None or view.size is None or part.locked:
        return None
    frame = _nearest_copy(view.matrices, view.own, at)
    lengths = np.linalg.norm(frame[:, :3], axis=0)
    along = way @ frame[:, :3] / lengths
    axis = int(np.argmax(np.abs(along)))
    if abs(along[axis]) < LEAST_SHARE:
        return None
    scale = np.abs(part.place.scale)
    more = by / abs(along[axis]) * scale[axis] / lengths[axis]
    axes = _together(part, axis)
    one_sided = len(axes) == 1 and not both
    size = view.size.copy()
    for k in axes:
        size[k] += more if one_sided else 2 * more
    if size.min() < LEAST_SIZE_MM:
        return None
    held = 0.5 if not one_sided else 0.0 if along[axis] > 0 else 1.0
    hold = [held if k == axis else 0.5 for k in range(3)]
    return Resize(
        kind="resize",
        id=part_id,
        size=triple(np.round(size, 9)),
        was=triple(view.size),
        hold=(hold[0], hold[1], hold[2]),
        own=(triple(view.own[0]), triple(view.own[1])),
    )


def _nearest_copy(matrices: Floats, own: Floats, at: Floats) -> Floats:
    """(3, 4) of the copy whose own box, (2, 3), is nearest to a point on the wheel."""

    def away(matrix: Floats) -> float:
        inner = np.linalg.solve(matrix[:, :3], at - matrix[:, 3])
        outside = np.maximum(np.maximum(own[0] - inner, inner - own[1]), 0) * np.linalg.norm(matrix[:, :3], axis=0)
        return float(np.linalg.norm(outside))

    return min(matrices, key=away)


def _together(part: Part, axis: int) -> tuple[int, ...]:
    """The axes that a part's own measures lengthen with one: alone, across, or all."""
    if part.primitive is None or any(not c.off and not c.keeps_box for c in part.changes):
        return (axis,)
    for axes in ((axis,), (0, 1), (0, 1, 2)):
        factors = tuple(2.0 if k in axes else 1.0 for k in range(3))
        if axis in axes and stretched(part.primitive, factors) is not None:  # type: ignore[arg-type]
            return axes
    return (axis,)
