"""Patch over: the last few triangles that cross are cut out with those around them, and the hole is closed."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology

MOST_SHARE, FEW = 0.05, 60
"""Of the triangles, that may be cut out; and so many may be of a mesh of few."""

RINGS = 4
"""How many rings of neighbours are cut out with them at most."""


def patch_over(mesh: Mesh) -> tuple[Mesh, Done]:
    """The smallest such hole whose patch leaves the surface closed and fewer pairs that cross; else all as it was."""
    pairs = known_crossings(mesh)
    if len(pairs) == 0:
        return mesh, Done("patch_over", 0)
    gone: NDArray[np.bool_] = np.zeros(len(mesh.triangles), dtype=np.bool_)
    gone[pairs] = True
    for _ in range(RINGS):
        if gone.sum() > max(FEW, MOST_SHARE * len(mesh.triangles)):
            break
        found = separate(close_holes(mesh.keep(~gone))[0])[0]
        topology = Topology(found)
        closed = len(topology.open_halves) == 0 and not (topology.faces_per_edge > 2).any()
        left = len(known_crossings(found)) if closed else len(pairs)
        if left < len(pairs):
            return found, Done("patch_over", len(pairs) - left, {"left": left, "cut_out": int(gone.sum())})
        touched = np.zeros(len(mesh.vertices), dtype=bool)
        touched[mesh.triangles[gone]] = True
        gone = np.any(touched[mesh.triangles], axis=1)
    return mesh, Done("patch_over", 0)
