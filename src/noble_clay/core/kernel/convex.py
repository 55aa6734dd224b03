"""Convex solids: whether one is, and the exact solid some way inside its faces."""

from __future__ import annotations

import numpy as np
from manifold3d import Manifold

from noble_clay.core.mesh.mesh import Floats, Mesh, double_normals
from noble_clay.core.mesh.tolerances import SHARE

SAME_VOLUME = 1e-9
"""Share of its hull's volume that a convex solid may lack."""


def is_convex(manifold: Manifold) -> bool:
    hull = manifold.hull().volume()
    return bool(hull - manifold.volume() <= SAME_VOLUME * hull)


def half_spaces(mesh: Mesh) -> tuple[Floats, Floats]:
    """Normals (k, 3) and offsets (k,): a convex mesh is where n · p <= offset for every face."""
    across = double_normals(mesh).T
    area = np.linalg.norm(across, axis=1)
    large = area > 1e-12 * area.max()
    normals = across[large] / area[large, None]
    offsets = np.einsum("ij,ij->i", normals, mesh.vertices[mesh.triangles[large, 0]])
    _, first = np.unique(np.round(np.column_stack([normals, offsets]), 7), axis=0, return_index=True)
    return normals[first], offsets[first]


def deepest(normals: Floats, offsets: Floats) -> tuple[Floats, float]:
    """The point deepest inside half-spaces (Chebyshev's centre), and how deep it is, mm."""
    from scipy.optimize import linprog

    best = linprog(
        [0, 0, 0, -1],
        A_ub=np.column_stack([normals, np.ones(len(normals))]),
        b_ub=offsets,
        bounds=[(None, None)] * 3 + [(0, None)],
    )
    return best.x[:3], float(best.x[3])


def inset(mesh: Mesh, by: float) -> Manifold | None:
    """The part of a convex mesh that lies at least `by` mm inside every face; None when nothing does."""
    from scipy.spatial import HalfspaceIntersection

    normals, offsets = half_spaces(mesh)
    middle, depth = deepest(normals, offsets)
    if depth <= by * (1 + SHARE):
        return None
    corners = HalfspaceIntersection(np.column_stack([normals, by - offsets]), middle).intersections
    return Manifold.hull_points(corners)
