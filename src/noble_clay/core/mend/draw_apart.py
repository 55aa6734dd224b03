"""Draw apart: what lies on itself to within a hair, as bodies that were almost flush leave it, gets that hair."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import SOME

HAIR = 4.0
"""How far points are moved in each round, in slacks."""

ROUNDS = 6

FLAT = 0.9
"""Cosine: triangles that cross lie on each other where they are no steeper to each other."""

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
    now, left = mesh, pairs
    for _ in range(ROUNDS):
        way = _ways(now, left)
        if not way.any() or len(left) > 2 * len(pairs):
            break
        now = Mesh(now.vertices + HAIR * slack_of(mesh) * _drawn(now, left, way), now.triangles)
        left = crossing_pairs(now)
    if 2 * len(left) >= len(pairs):
        return mesh, Done("draw_apart", 0)
    return now, Done("draw_apart", len(pairs) - len(left), {"left": len(left)})


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
