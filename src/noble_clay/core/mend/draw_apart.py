"""Draw apart: what lies on itself to within a hair, as bodies that were almost flush leave it, gets that hair."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import lowest_of_components
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.mesh.written import not_cancelled

HAIR = 4.0
"""How far points are moved in each round, in slacks."""

ROUNDS = 6

FLAT = 0.9
"""Cosine: triangles that cross lie on each other where they are no steeper to each other."""

NEEDLE = 1e-5
"""Of the mesh's diagonal: points no farther apart may become one to take a fold out."""

LAYERS = 0.25
"""The share of the pairs that cross which must lie on each other: more others are a tangle."""


def draw_apart(mesh: Mesh) -> tuple[Mesh, Done]:
    """Points of triangles that lie on each other are moved along their normals, until none do; all stays as it was
    where that leaves half as many pairs that cross.

    Those that face each other are drawn back, each into its own side; those that look the same way, which are the two
    sides of a wall or a gap no wider than a hair at its blunt end, are drawn out.
    """
    pairs = crossing_pairs(mesh)
    if len(pairs) == 0 or np.mean(_ways(mesh, pairs) != 0) < LAYERS:
        return mesh, Done("draw_apart", 0)
    now = _unfolded(mesh, pairs)
    left = pairs if now is mesh else crossing_pairs(now)
    for _ in range(ROUNDS):
        way = _ways(now, left)
        if not way.any() or len(left) > 2 * len(pairs):
            break
        now = Mesh(now.vertices + HAIR * slack_of(mesh) * _drawn(now, left, way), now.triangles)
        left = crossing_pairs(now)
    if 2 * len(left) >= len(pairs) or len(Topology(now).open_halves) > len(Topology(mesh).open_halves):
        return mesh, Done("draw_apart", 0)
    return now, Done("draw_apart", len(pairs) - len(left), {"left": len(left)})


def _unfolded(mesh: Mesh, pairs: Ints) -> Mesh:
    """Without needles that are folded over their own edge: points about such a pair that lie all but together become
    one, unless that would make an edge of more than two triangles, or a pinch.
    """
    folded = [pair for pair in mesh.triangles[pairs] if len(np.intersect1d(*pair)) > 1]
    if not folded:
        return mesh
    around = mesh.triangles[np.isin(mesh.triangles, np.concatenate(folded)).any(axis=1)]
    edges = np.concatenate([around[:, [0, 1]], around[:, [1, 2]], around[:, [2, 0]]])
    short = np.linalg.norm(mesh.vertices[edges[:, 0]] - mesh.vertices[edges[:, 1]], axis=1)
    short_edges = np.ascontiguousarray(edges[short <= NEEDLE * diagonal(mesh.vertices)])
    triangles = lowest_of_components(len(mesh.vertices), short_edges)[mesh.triangles]
    a, b, c = triangles.T
    triangles = triangles[(a != b) & (b != c) & (c != a)]
    found = Mesh(mesh.vertices, triangles[not_cancelled(triangles)]).compact()
    return found if _wrong(found) <= _wrong(mesh) else mesh


def _wrong(mesh: Mesh) -> int:
    """Edges of more than two triangles, and pinches."""
    topology = Topology(mesh)
    return int((topology.faces_per_edge > 2).sum()) + len(topology.pinched)


def _ways(mesh: Mesh, pairs: Ints) -> Floats:
    """(k,) of every pair, which way along their normals it is drawn: 1 out, -1 back; 0 where it is no layer."""
    out = normals(mesh)
    alike = np.einsum("ij,ij->i", out[pairs[:, 0]], out[pairs[:, 1]])
    found: Floats = np.where(np.abs(alike) < FLAT, 0.0, np.sign(alike))
    return found


def _drawn(mesh: Mesh, pairs: Ints, way: Floats) -> Floats:
    """(n, 3) unit vectors along which points are drawn, 0 for those that stay."""
    total = np.zeros_like(mesh.vertices)
    faces = pairs.reshape(-1)
    each = np.repeat(way, 2)[:, None] * normals(mesh)[faces]
    np.add.at(total, mesh.triangles[faces], each[:, None, :])
    length = np.linalg.norm(total, axis=1, keepdims=True)
    return np.divide(total, length, out=np.zeros_like(total), where=length > SOME)
