"""Weld: points that should be one become one."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh import Mesh


def weld(mesh: Mesh, distance: float) -> tuple[Mesh, Done]:
    """Merge vertices at most `distance` mm apart, also in chains, into the first of them."""
    pairs = cKDTree(mesh.vertices).query_pairs(distance, output_type="ndarray")
    number = len(mesh.vertices)
    graph = coo_matrix((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), shape=(number, number))
    clusters, label = connected_components(graph, directed=False)
    first = np.full(clusters, number)
    np.minimum.at(first, label, np.arange(number))
    welded = Mesh(mesh.vertices, first[label][mesh.triangles]).compact()
    return welded, Done("weld", number - clusters, {"distance_mm": distance})
