"""The large flat faces of a solid, as planes: what may be meant to meet a neighbour's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh import Floats, Mesh, cross_product

MOST = 64
"""Planes kept of one geometry, the largest first."""

LEAST_SHARE = 0.01
"""A flat face smaller than this share of the whole surface is a facet of something round."""


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
    corners = mesh.corners
    cross = cross_product(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double_area = np.sqrt(np.einsum("ij,ij->i", cross, cross))
    if even_is_round and len(corners) > 1000 and double_area.max() < 4 * double_area.mean():
        return Planes.none()
    solid = double_area > 0
    normals = cross[solid] / double_area[solid, None]
    corners, areas = corners[solid], double_area[solid]
    reach = max(1.0, float(np.abs(mesh.vertices).max(initial=0.0)))
    offsets = np.einsum("ij,ij->i", normals, corners[:, 0])
    rounded = np.round(np.column_stack([normals * 1e6, offsets / reach * 1e7])).astype(np.int64)
    key = rounded @ np.array([73_856_093, 19_349_663, 83_492_791, 1_000_003])
    _, first, group = np.unique(key, return_index=True, return_inverse=True)
    total = np.bincount(group, weights=areas)
    large = np.flatnonzero(total >= LEAST_SHARE * areas.sum())
    large = large[np.argsort(-total[large], kind="stable")][:MOST]
    middles, reaches = [], []
    for g in large:
        points = corners[group == g].reshape(-1, 3)
        middle = (points.min(axis=0) + points.max(axis=0)) / 2
        middles.append(middle)
        reaches.append(np.linalg.norm(points - middle, axis=1).max())
    chosen = first[large]
    return Planes(
        normals[chosen],
        corners[chosen, 0],
        np.array(middles).reshape(-1, 3),
        np.array(reaches),
        np.ones(len(chosen), dtype=bool),
    )
