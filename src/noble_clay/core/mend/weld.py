"""Weld: points that should be one become one."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.close_points import DIRECTION, near_pairs
from noble_clay.core.mesh.gather import lowest_of_components
from noble_clay.core.mesh.mesh import Mesh


def weld(mesh: Mesh, distance: float) -> tuple[Mesh, Done]:
    """Merge vertices at most `distance` mm apart, also in chains, into the first of them."""
    pairs = near_pairs(mesh.vertices, mesh.vertices @ DIRECTION, distance)
    to = lowest_of_components(len(mesh.vertices), pairs)
    merged = int(np.sum(to != np.arange(len(to))))
    return Mesh(mesh.vertices, to[mesh.triangles]).compact(), Done("weld", merged, {"distance_mm": distance})
