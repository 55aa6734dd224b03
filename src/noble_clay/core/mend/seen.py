"""What of a surface can be seen from outside, and how much of that another surface still has."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.box_tree import Tree
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Mesh, diagonal
from noble_clay.core.mesh.nearest import Nearest
from noble_clay.core.mesh.rays import first_met

POINTS = 1_500
RAYS, AT_ONCE = 32, 8
"""Ways from a point into the half space before it, spread evenly; and how many are looked along before those points
are left that are seen by then.
"""

FREE = 2
"""A point is seen where so many rays meet nothing."""

GOLDEN = math.pi * (3 - math.sqrt(5))
"""Radians from one way to the next, about the normal."""

WORTH = 0.02
"""So much of what can be seen is worth another way: a step is not taken that loses more, and what changes more than
another, as walls do than lids, must keep more than that to be taken.
"""

NEAR = 0.005
"""Of the mesh's diagonal: what lies no farther off is there still."""

LIFTED = 1e-5
"""Of the mesh's diagonal: how far off the surface a ray begins."""


@dataclass(frozen=True)
class Seen:
    """points: (k, 3) of a surface, evenly strewn, that can be seen from outside. near: mm."""

    points: Floats
    near: float

    @staticmethod
    def of(mesh: Mesh) -> Seen:
        """Points are seen where, on one of the surface's sides, rays of many directions meet nothing."""
        draw = np.random.default_rng(1)
        own = areas(mesh)
        faces = draw.choice(len(own), POINTS, p=own / own.sum())
        u, v = np.sort(draw.random((2, POINTS)), axis=0)
        weights = np.stack([u, v - u, 1 - v], axis=1)
        points = np.einsum("ij,ijk->ik", weights, mesh.corners[faces])
        out, size = normals(mesh)[faces], diagonal(mesh.vertices)
        turn, seen, tree = draw.random(POINTS), np.zeros(POINTS, dtype=bool), Tree.of(mesh)
        for side in (out, -out):
            left = np.flatnonzero(~seen)
            starts = points[left] + LIFTED * size * side[left]
            seen[left] = _sees_out(mesh, tree, starts, side[left], turn[left])
        return Seen(points[seen], NEAR * size)

    def kept_by(self, mesh: Mesh) -> float:
        """The share of it that another surface has."""
        if len(self.points) == 0:
            return 1.0
        if len(mesh.triangles) == 0:
            return 0.0
        squared, _, _ = Nearest(mesh).to(self.points)
        return float(np.mean(np.sqrt(squared) < self.near))


def _sees_out(mesh: Mesh, tree: Tree, points: Floats, out: Floats, turn: Floats) -> NDArray[np.bool_]:
    """(k,) whether rays from points (k, 3) meet nothing before them. out: (k, 3) unit vectors that say where that is.
    turn: (k,) by which share of a turn each point's ways are turned, so that no two look along the same.
    """
    aside = np.eye(3)[np.argmin(np.abs(out), axis=1)]
    across = np.cross(out, aside)
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    along = np.cross(out, across)
    free = np.zeros(len(points), dtype=np.int64)
    for first in range(0, RAYS, AT_ONCE):
        left = np.flatnonzero(free < FREE)
        number = np.arange(first, first + AT_ONCE) * 0.618034 % 1.0  # any few of them are spread evenly too
        angle = 2 * math.pi * turn[left, None] + GOLDEN * np.arange(first, first + AT_ONCE)
        flat = np.sqrt(1 - number**2)
        parts = (flat * np.cos(angle), flat * np.sin(angle), np.broadcast_to(number, angle.shape))
        axes = (across[left], along[left], out[left])
        ways = sum(part[:, :, None] * axis[:, None, :] for part, axis in zip(parts, axes, strict=True))
        starts = np.repeat(points[left], AT_ONCE, axis=0)
        met, _ = first_met(mesh, starts, np.reshape(ways, (-1, 3)), np.inf, tree)
        free[left] += (met < 0).reshape(-1, AT_ONCE).sum(axis=1)
    return free >= FREE
