"""The smooth run of one solid into another: only what is to be added to their union, as a closed mesh of its own.

With a and b the distances to two solids and r the radius, the smooth minimum

    f = max(r, min(a, b)) - |(max(r - a, 0), max(r - b, 0))|

is min(a, b) wherever either is further than r away, and rounds a right angle between them to a fillet of radius r: a
ball of that radius that rolls along the seam touches both. What f < 0 has beyond the union lies within r of both
surfaces, so it is sampled there only. The mesh dips a little into the solids where nothing is rounded (`RETREAT`), so
that united with them it leaves their own surfaces as they were.
"""

from __future__ import annotations

import numpy as np

from noble_clay.core.field.band import Band
from noble_clay.core.mesh.distance import Distance
from noble_clay.core.mesh.mesh import Floats, Mesh

RETREAT = 0.1
"""How deep the mesh lies inside the solids where nothing is rounded, in cells."""

DEPTH = 1.5
"""How far it reaches into them, in cells."""


def smooth_minimum(a: Floats, b: Floats, radius: float) -> Floats:
    """The field above, mm: distances (n,) to two solids, run together over `radius`."""
    near_a, near_b = np.maximum(radius - a, 0), np.maximum(radius - b, 0)
    found: Floats = np.maximum(radius, np.minimum(a, b)) - np.hypot(near_a, near_b)
    return found


def fillet(
    a: Distance,
    b: Distance,
    radius: float,
    cell: float,
    low: Floats,
    high: Floats,
    error: float = 0.0,
) -> Mesh:
    """What the smooth minimum of two solids has beyond their union, in a box; empty where they are too far apart.

    cell: the lattice's, mm. error: how far the distances are off the meshes that the result is united with, mm.
    Raises MeshError when the lattice is too fine.
    """
    depth, far = DEPTH * cell, radius + cell / 2

    def field(points: Floats) -> Floats:
        # The field grows at most by the square root of two in a mm, where both distances grow the same way.
        return smooth_minimum(a(points), b(points), radius) / np.sqrt(2)

    band = Band.where([(a, -depth, far), (b, -depth, far), (field, -np.inf, 0.0)], low, high, cell)
    if len(band.points) == 0:
        return Mesh.empty()
    to_a, to_b = a(band.points), b(band.points)
    smooth = smooth_minimum(to_a, to_b, radius)
    rounded = np.minimum(to_a, to_b) - smooth
    deep = RETREAT * cell + 1.5 * error
    retreat = deep * np.clip(1 - rounded / (2 * deep), 0, 1)
    return band.surface(np.max([smooth + retreat, -to_a - depth, -to_b - depth, to_a - far, to_b - far], axis=0))
