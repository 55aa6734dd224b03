"""The large flat faces of a solid, as planes: what may be meant to meet a neighbour's."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, double_normals

MOST = 64
"""Planes kept of one geometry, the largest first."""

LEAST_SHARE = 0.01
"""A flat face smaller than this share of the whole surface is a facet of something round."""

SLOTS = 1 << 14
HASH = np.array([73_856_093, 19_349_663, 83_492_791, 1_000_003])


@dataclass(frozen=True, eq=False)
class Planes:
    """normals: (k, 3) unit, outward. points: (k, 3), a vertex on each. middles: (k, 3) and reaches: (k,), a ball around
    each face. exact: (k,), whether `points` are the very numbers that the kernel's vertices have.
    """

    normals: Floats
    points: Floats
    middles: Floats
    reaches: Floats
    exact: NDArray[np.bool_]

    @staticmethod
    def none() -> Planes:
        empty = np.zeros((0, 3))
        return Planes(empty, empty, empty, np.zeros(0), np.zeros(0, dtype=bool))

    @property
    def offsets(self) -> Floats:
        """(k,): n · p of the points on each plane."""
        found: Floats = np.einsum("ij,ij->i", self.normals, self.points)
        return found

    def placed(self, matrix: Floats) -> Planes:
        """The planes of the solid through an affine (3, 4) matrix."""
        if len(self.reaches) == 0:
            return self
        linear = matrix[:, :3]
        normals = self.normals @ np.linalg.inv(linear)
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        square = bool(np.all(np.count_nonzero(linear, axis=1) == 1))
        return Planes(
            normals,
            self.points @ linear.T + matrix[:, 3],
            self.middles @ linear.T + matrix[:, 3],
            self.reaches * np.sqrt((linear * linear).sum(axis=0).max()),
            self.exact & square,
        )

    @property
    def turned(self) -> Planes:
        """The planes of a solid that was taken from another: its faces bound that one from the other side."""
        return replace(self, normals=-self.normals)

    @staticmethod
    def together(many: list[Planes]) -> Planes:
        if not many:
            return Planes.none()
        return Planes(
            np.concatenate([p.normals for p in many]),
            np.concatenate([p.points for p in many]),
            np.concatenate([p.middles for p in many]),
            np.concatenate([p.reaches for p in many]),
            np.concatenate([p.exact for p in many]),
        )


def planes_of(mesh: Mesh, even_is_round: bool = False) -> Planes:
    """The flat faces of a mesh that are at least `LEAST_SHARE` of its surface.

    even_is_round: a fine mesh of triangles of about one size has none; true of primitives, whose flat faces are made
    of few, large triangles.
    """
    across = double_normals(mesh)
    areas = np.sqrt((across * across).sum(axis=0))
    if even_is_round and len(areas) > 1000 and areas.max() < 4 * areas.mean():
        return Planes.none()
    least = LEAST_SHARE * areas.sum()
    areas[areas == 0] = np.inf  # of no plane
    first_corner = mesh.vertices[mesh.triangles[:, 0]]
    normals = across / areas
    reach = max(1.0, float(np.abs(mesh.vertices).max(initial=0.0)))
    rounded = np.rint([*(normals * 1e6), np.einsum("ij,ji->i", first_corner, normals) * (1e7 / reach)])
    key = np.rint(HASH @ rounded).astype(np.int64)
    areas[np.isinf(areas)] = 0
    # Most triangles are facets of something round: a coarse table sets them aside before anything is sorted.
    slot = key & (SLOTS - 1)
    kept = np.flatnonzero(np.bincount(slot, weights=areas, minlength=SLOTS)[slot] >= least)
    _, first, group = np.unique(key[kept], return_index=True, return_inverse=True)
    total = np.bincount(group, weights=areas[kept])
    large = np.flatnonzero(total >= least)
    large = large[np.argsort(-total[large], kind="stable")][:MOST]
    middles, reaches = _around(mesh, kept, group.reshape(-1), large)
    chosen = kept[first[large]]
    return Planes(normals.T[chosen], first_corner[chosen], middles, reaches, np.ones(len(chosen), dtype=bool))


def _around(mesh: Mesh, faces: Ints, group: Ints, wanted: Ints) -> tuple[Floats, Floats]:
    """(k, 3) the middle of the box around each of the `wanted` (k,) groups of faces, and (k,) how far it reaches, mm.

    faces: (j,) triangles. group: (j,) which one each is of.
    """
    place = np.full(int(group.max(initial=-1)) + 1, -1)
    place[wanted] = np.arange(len(wanted))
    order = np.argsort(place[group], kind="stable")
    order = order[np.searchsorted(place[group][order], 0) :]
    if len(order) == 0:
        return np.zeros((0, 3)), np.zeros(0)
    owner = np.repeat(place[group][order], 3)
    points = mesh.vertices[mesh.triangles[faces[order]].reshape(-1)]
    starts = np.searchsorted(owner, np.arange(len(wanted)))
    middles = (np.minimum.reduceat(points, starts) + np.maximum.reduceat(points, starts)) / 2
    off = points - middles[owner]
    return middles, np.sqrt(np.maximum.reduceat((off * off).sum(axis=1), starts))
