"""Small tangles of a skin that the kernel made: where faces met at a hair's angle it leaves slivers, and their corners,
rounded, can put triangles through each other. The corners of such a tangle become one.
"""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.contract_edges import with_edges_contracted
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology

FIRST_REACH = 1e-7
"""Of the longest side of the box around a mesh: the edges that are drawn together first, about what rounding makes."""

ROUNDS = 14
"""Each reaches twice as far as the one before: the last to about a thousandth of that side."""


def drawn_together(mesh: Mesh) -> Mesh:
    """A closed mesh that nowhere crosses itself, without the short edges in and beside a tangle; or the mesh itself,
    where nothing crosses or that does not help. Its box stays the same.
    """
    from noble_clay.core.mesh.crossings import crossing_pairs

    pairs = crossing_pairs(mesh)
    if len(pairs) == 0:
        return mesh
    low, high = mesh.corners.min(axis=(0, 1)), mesh.corners.max(axis=(0, 1))
    tangled = np.zeros(len(mesh.vertices), dtype=bool)
    tangled[mesh.triangles[pairs].reshape(-1)] = True
    edges = Topology(mesh).edges
    beside = edges[tangled[edges].any(axis=1)]
    lengths = np.linalg.norm(mesh.vertices[beside[:, 0]] - mesh.vertices[beside[:, 1]], axis=1)
    reach = FIRST_REACH * float((high - low).max())
    for _ in range(ROUNDS):
        found, _ = with_edges_contracted(mesh, beside[lengths < reach])
        if Topology(found).is_manifold and len(crossing_pairs(found)) == 0:
            return found
        reach *= 2
    return mesh
