"""Dovetails: rails along a cut, wider at their top, and the grooves that they are slid into.

A part with rails and grooves is what of the whole lies in a room of its own: a block, the rails added and the grooves
taken away. So only simple shapes are put together, none face to face with another, and the whole, whatever its form, is
cut but once: a rail ends where its skin ends, and nothing of it is left over where a rail meets its foot.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold

from noble_clay.core.kernel.booleans import WALL, block, boolean
from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Floats

TOUCH_MM = 1e-3
"""What is this near to the plane of a cut lies in it."""

WALL_MM = 1.2
"""Left around what something goes into (common practice: three lines)."""

SHARE = 0.35
"""Of the narrower way of an area: how wide a rail is at its foot."""

FEET_MM = 2.0
"""The narrowest foot."""

HEIGHTS_MM = 1.5, 6.0
LEAN = 0.25
"""Of its height: how much wider a rail is on either side at its top."""

BELOW_MM = 1.0
"""mm that rails and grooves begin below the cut."""

BEYOND_MM = 0.05
"""mm that a rail's room goes on beyond its end."""


@dataclass(frozen=True, eq=False)
class Room:
    """Where of the whole a part lies: in a box (2, 3), with rails and without grooves."""

    box: Floats
    shape: Solid

    @staticmethod
    def of(box: Floats) -> Room:
        return Room(box, block(box))

    def with_rail(self, up: Manifold) -> Room:
        return self._with("union", up)

    def with_groove(self, hole: Manifold) -> Room:
        return self._with("difference", hole)

    def _with(self, op: str, shape: Manifold) -> Room:
        return Room(self.box, boolean(op, [self.shape, Solid.from_mesh(mesh_of(shape), WALL)]))

    def part(self, whole: Solid) -> Solid:
        return boolean("intersection", [whole, self.shape])


@dataclass(frozen=True, eq=False)
class Rail:
    """In the frame in which the plane is level. up: the rail's room, added to the lower side's; hole: the groove's,
    taken from the upper side's, which comes off along the axis.
    """

    up: Manifold
    hole: Manifold


def longer_way(area: CrossSection) -> int:
    """The axis along which an area is longer, 0 or 1."""
    low_x, low_y, high_x, high_y = area.bounds()
    return int(high_y - low_y > high_x - low_x)


def rail_along(area: CrossSection, axis: int, at: float, upper: Manifold, box: Floats, clearance: float) -> Rail | None:
    """A rail along an axis on an area that both sides share; None where there is no room for it between walls. at: the
    height of the cut. upper: what lies above it, in a box (2, 3).
    """
    bounds = np.array(area.bounds()).reshape(2, 2)
    size, middle = bounds[1] - bounds[0], bounds.mean(axis=0)
    foot = SHARE * float(size.min())
    height = float(np.clip(0.5 * foot, *HEIGHTS_MM))
    half, lean = foot / 2, LEAN * height
    if foot < FEET_MM or half + lean + clearance + WALL_MM > size[1 - axis] / 2:
        return None
    ridge = [(half, 0), (half + lean, height), (-half - lean, height), (-half, 0)]
    profile = CrossSection([[(-half, -BELOW_MM), (half, -BELOW_MM), *ridge]])

    def laid(shape: CrossSection, start: float, end: float) -> Manifold:
        """Drawn across and up, it runs along the axis."""
        rail = shape.extrude(end - start).rotate((90, 0, 0)).translate((0, end, 0))
        across = float(middle[1 - axis])
        return rail.translate((across, 0, at)) if axis else rail.rotate((0, 0, -90)).translate((0, across, at))

    first, last = box[:, axis]
    above = laid(profile, first, last).trim_by_plane((0, 0, 1), at) ^ upper
    # What else is above, and hangs on nothing, stays with what it is of.
    standing = [p.bounding_box() for p in above.decompose() if not (p.slice(at + TOUCH_MM) ^ area).is_empty()]
    if not standing:
        return None
    start = max(first, min(p[axis] for p in standing) - BEYOND_MM)
    end = min(last, max(p[3 + axis] for p in standing) + BEYOND_MM)
    up = laid(profile, start, end).trim_by_plane((0, 0, -1), -float(box[1, 2]))
    # All of the upper side that comes over the rail has its groove; what lies beyond the rail has none.
    hole = laid(profile.offset(clearance, JoinType.Miter, 10.0), first - BELOW_MM, end + clearance)
    return Rail(up, hole)
