"""Which part of a solid is nearest to a point: so a surface that is built anew keeps its parts."""

from __future__ import annotations

import numpy as np

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mesh import Floats, Ints


def nearest_parts(solid: Solid, points: Floats) -> Ints:
    """(n,) for points (n, 3), which of the solid's `part_names` is nearest."""
    if len(solid.part_names) == 1:
        return np.zeros(len(points), dtype=np.int64)
    mesh, part_of, _ = solid.mesh_with_parts()
    return part_of[MeshDistance(mesh).unsigned_distance(points)[1]]
