"""Whether a body stands: its contact with the floor, its centre of mass over that, and how far it may be tipped."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection

from noble_clay.core.mesh.mass import areas, centroid
from noble_clay.core.mesh.mesh import Floats, Mesh

CONTACT_MM = 0.005
"""What is so near to the floor rests on it; of something small, so much of its height: `CONTACT_SHARE`."""

CONTACT_SHARE = 1e-4


@dataclass(frozen=True, eq=False)
class Standing:
    """support: (n, 2) corners of the polygon on which it rests, counter-clockwise; fewer than 3 for a point or a line.
    centre: (3,) of mass, mm. tip_angle: degrees that it may be tipped in the weakest direction, 0 where it falls by
    itself. tip_towards: that direction, degrees from +x. floor_area: mm² that lie on the floor.
    """

    support: Floats
    centre: Floats
    tip_angle: float
    tip_towards: float
    floor_area: float

    @property
    def stands(self) -> bool:
        return self.tip_angle > 0


def set_down(mesh: Mesh) -> Mesh:
    """The mesh with its lowest point at z = 0."""
    low = float(mesh.vertices[:, 2].min())
    return Mesh(mesh.vertices - [0.0, 0.0, low], mesh.triangles)


def contact_of(mesh: Mesh) -> float:
    """mm above the floor to which what is set down rests on it."""
    return min(CONTACT_MM, CONTACT_SHARE * float(mesh.vertices[:, 2].max()))


def standing(mesh: Mesh) -> Standing:
    """How a solid that is set down stands. The mesh must be closed, and not empty.

    A body tips over an edge of its support polygon once its centre of mass is beyond it: with d from the centre's foot
    to that edge, and h its height, at atan(d / h).
    """
    rests = mesh.vertices[:, 2] <= contact_of(mesh)
    flat = rests[mesh.triangles].all(axis=1)
    floor_area = float(areas(Mesh(mesh.vertices, mesh.triangles[flat])).sum()) if flat.any() else 0.0
    centre = centroid(mesh)
    support = hull(mesh.vertices[rests][:, :2])
    return Standing(support, centre, *tipping(support, centre), floor_area)


def tipping(support: Floats, centre: Floats) -> tuple[float, float]:
    """How far what rests on a polygon (n, 2), its centre of mass over it (3,), may be tipped in the weakest direction,
    degrees, 0 where it falls by itself; and that direction, degrees from +x.
    """
    foot = centre[:2]
    if len(support) < 3:
        return 0.0, _degrees(foot - support.mean(axis=0))
    along = np.roll(support, -1, axis=0) - support
    outward = np.column_stack([along[:, 1], -along[:, 0]]) / np.linalg.norm(along, axis=1)[:, None]
    inside = np.einsum("ij,ij->i", support - foot, outward)
    weakest = int(np.argmin(inside))
    angle = math.degrees(math.atan2(float(inside[weakest]), float(centre[2])))
    return max(angle, 0.0), _degrees(outward[weakest])


def _degrees(way: Floats) -> float:
    return math.degrees(math.atan2(float(way[1]), float(way[0])))


def hull(points: Floats) -> Floats:
    """(k, 2) corners of the convex hull of points (n, 2), counter-clockwise; of a line or a point, the points."""
    rings = CrossSection.hull_points(points).to_polygons()
    return np.array(rings[0]) if rings and len(rings[0]) > 2 else np.unique(points, axis=0)
