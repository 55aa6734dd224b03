"""Where the run of a part into its list begins: there its radius is drawn out in the view."""

from __future__ import annotations

import numpy as np

from noble_clay.core.field.forms import Form
from noble_clay.core.handles import Handle, Triple
from noble_clay.core.mesh.affine import inverse
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.piece.models import Part
from noble_clay.core.piece.placing import place_matrix, standing
from noble_clay.core.primitives.base import Primitive, stretched

MOST_PARTS = 40
"""Parts of a list beyond which no place is looked for."""

MOST_EDGES = 400
"""Edges of a part that are tried."""

STEPS = 4
"""Steps towards the place along an edge."""

STEP = 1e-3
"""How far to either side the slope is looked at, in radii."""


def seam_handle(part: Part, mesh: Mesh, before: tuple[Part, ...], blend: float) -> Handle | None:
    """The handle of a part's radius, on its surface where that is just so far from what stands before it in its list,
    at the front; none for one that is sharp or nowhere near, or that stands beside shapes with no distance at hand.

    mesh: of the part's own, in its frame. before: the parts that come before it, of a list of that blend.
    """
    radius = part.radius_in(blend)
    if radius <= 0 or not before or len(before) >= MOST_PARTS or len(mesh.triangles) == 0:
        return None
    seen = [(form, frame) for other in before if other.op == "union" for form, frame in _forms(other)]
    if not seen:
        return None
    matrix = place_matrix(part.place, part.flip)
    # Forms that are too far away to be run into are left out.
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    middle = ((low + high) / 2 @ matrix[:, :3].T + matrix[:, 3])[None]
    far = float(np.linalg.norm(high - low)) / 2 * max(part.place.scale) + radius
    seen = [each for each in seen if _nearest([each], middle)[0] < far]
    if not seen:
        return None
    ends = np.concatenate([mesh.triangles[:, [0, 1]], mesh.triangles[:, [1, 2]]])
    ends = ends[:: -(-len(ends) // MOST_EDGES)]
    there = mesh.vertices @ matrix[:, :3].T + matrix[:, 3]
    low, high = there[ends[:, 0]], there[ends[:, 1]]
    over_low, over_high = _nearest(seen, low) - radius, _nearest(seen, high) - radius
    some = np.flatnonzero((over_low < 0) != (over_high < 0))
    if len(some) == 0:
        return None
    low, high, over_low, over_high = low[some], high[some], over_low[some], over_high[some]
    for _ in range(STEPS):
        share = over_low / (over_low - over_high)
        at = low + (high - low) * share[:, None]
        over = _nearest(seen, at) - radius
        below = (over < 0) == (over_low < 0)
        low, over_low = np.where(below[:, None], at, low), np.where(below, over, over_low / 2)
        high, over_high = np.where(below[:, None], high, at), np.where(below, over_high / 2, over)
    front = at[np.argmin(at[:, 1])]
    step = STEP * radius
    around = np.concatenate([front + step * np.eye(3), front - step * np.eye(3)])
    slope = _nearest(seen, around)
    back = inverse(matrix)
    along = back[:, :3] @ (slope[:3] - slope[3:])
    return Handle(
        field="blend",
        label="Blend",
        at=_triple(back[:, :3] @ front + back[:, 3]),
        along=_triple(along / max(float(np.linalg.norm(along)), 1e-300)),
        value=radius,
        least=0.0,
        of_part=True,
    )


def _triple(values: Floats) -> Triple:
    x, y, z = values.tolist()
    return x, y, z


def _nearest(seen: list[tuple[Form, Floats]], points: Floats) -> Floats:
    """(n,) the distance from points (n, 3) to the nearest of some forms, each with its frame."""
    every = []
    for form, frame in seen:
        back = inverse(frame)
        every.append(form(points @ back[:, :3].T + back[:, 3]) * float(np.linalg.norm(frame[:, 0])))
    found: Floats = np.min(every, axis=0)
    return found


def _forms(part: Part) -> list[tuple[Form, Floats]]:
    """The distance to a part's shape and where it stands, for each copy; none where it is not at hand."""
    if part.primitive is None or part.changed:
        return []
    scale, place = part.place.scale, part.place
    primitive: Primitive | None = part.primitive
    if scale[0] != scale[1] or scale[1] != scale[2]:
        primitive = stretched(part.primitive, scale)
        place = place.model_copy(update={"scale": (1.0, 1.0, 1.0)})
    form = primitive.form() if primitive else None
    if form is None:
        return []
    return [(form, matrix) for matrix in standing(part, place)]
