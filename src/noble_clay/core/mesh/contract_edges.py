"""Edges so short that a file, or what reads it, takes their ends for one point."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import lowest_of_components, row_codes
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.topology import Topology


def contracted(mesh: Mesh, length: float) -> tuple[Mesh, NDArray[np.bool_]] | None:
    """A closed mesh with the ends of edges shorter than `length` mm made one, and which of its triangles (m,) are left;
    None where it has no such edges, or nothing would be left without them, or no manifold.
    """
    edges = Topology(mesh).edges
    short = np.linalg.norm(mesh.vertices[edges[:, 0]] - mesh.vertices[edges[:, 1]], axis=1) < length
    if not short.any():
        return None
    found, kept = with_edges_contracted(mesh, edges[short])
    return (found, kept) if kept.any() and Topology(found).is_manifold else None


def with_edges_contracted(mesh: Mesh, edges: Ints) -> tuple[Mesh, NDArray[np.bool_]]:
    """The mesh with the ends of some edges (k, 2) made one, and which of its triangles (m,) are left: not those that
    had them, nor two that come to lie back to back. Its box stays the same.
    """
    low, high = mesh.corners.min(axis=(0, 1)), mesh.corners.max(axis=(0, 1))
    outermost: NDArray[np.bool_] = ((mesh.vertices == low) | (mesh.vertices == high)).any(axis=1)
    # Of those that become one the first in this order stays: the box is held by its corners.
    order = np.argsort(~outermost, kind="stable")
    place = np.empty_like(order)
    place[order] = np.arange(len(order))
    to = order[lowest_of_components(len(order), place[edges])][place]
    triangles = to[mesh.triangles]
    a, b, c = triangles.T
    kept = (a != b) & (b != c) & (c != a)
    _, same, uses = np.unique(row_codes(np.sort(triangles[kept], axis=1)), return_inverse=True, return_counts=True)
    kept[kept] = uses[same.reshape(-1)] == 1
    return Mesh(mesh.vertices, triangles[kept]).compact(), kept
