"""A triangle mesh as a value."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles over shared vertices.

    vertices: (n, 3) float64, mm. triangles: (m, 3) int64, counter-clockwise seen from outside.
    """

    vertices: Floats
    triangles: Ints

    @staticmethod
    def empty() -> Mesh:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64))

    @property
    def nbytes(self) -> int:
        return self.vertices.nbytes + self.triangles.nbytes

    @property
    def corners(self) -> Floats:
        """(m, 3, 3): the three corner points of every triangle."""
        return self.vertices[self.triangles]

    @cached_property
    def bounds(self) -> Floats | None:
        """(2, 3): lowest and highest corner of the box around all triangles, not to be changed; None when empty."""
        if len(self.triangles) == 0:
            return None
        used = self.vertices[self._used]
        found = np.array([used.min(axis=0), used.max(axis=0)])
        found.flags.writeable = False
        return found

    @property
    def _used(self) -> NDArray[np.bool_]:
        """(n,) whether any triangle uses a vertex."""
        found = np.zeros(len(self.vertices), dtype=bool)
        found[self.triangles] = True
        return found

    def keep(self, mask: NDArray[np.bool_]) -> Mesh:
        """The triangles where `mask` (m,) is true, over the vertices they still use."""
        return Mesh(self.vertices, self.triangles[mask]).compact()

    def compact(self) -> Mesh:
        """The same triangles without unused vertices."""
        used = self._used
        return Mesh(self.vertices[used], (np.cumsum(used) - 1)[self.triangles])


def diagonal(points: Floats) -> float:
    """mm: how far the box around points (n, 3) reaches from corner to corner; 0 around none."""
    return float(np.linalg.norm(np.ptp(points, axis=0))) if len(points) else 0.0


def triple(values: Iterable[float]) -> tuple[float, float, float]:
    """Three numbers as plain floats."""
    x, y, z = (float(v) for v in values)
    return x, y, z


def cross_product(a: Floats, b: Floats) -> Floats:
    """(n, 3): a x b row by row; several times as fast as numpy's general one."""
    found = np.empty_like(a)
    found[:, 0] = a[:, 1] * b[:, 2] - a[:, 2] * b[:, 1]
    found[:, 1] = a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]
    found[:, 2] = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return found


def double_normals(mesh: Mesh) -> Floats:
    """(3, m): along every triangle's outward normal, as long as twice its area; by columns, which is quick."""
    x, y, z = np.ascontiguousarray(mesh.vertices.T)
    a, b, c = np.ascontiguousarray(mesh.triangles.T)
    xa, ya, za = x[a], y[a], z[a]
    bx, by, bz = x[b] - xa, y[b] - ya, z[b] - za
    cx, cy, cz = x[c] - xa, y[c] - ya, z[c] - za
    return np.array([by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx])


def average_of_neighbours(mesh: Mesh) -> csr_matrix:
    """(n, n): takes the points of a closed mesh to the mean of the points that share an edge with each."""
    from scipy.sparse import csr_matrix, diags

    start, end = mesh.triangles.reshape(-1), np.roll(mesh.triangles, -1, axis=1).reshape(-1)
    number = len(mesh.vertices)
    together = csr_matrix((np.ones(len(start)), (start, end)), shape=(number, number))
    return diags(1 / np.maximum(np.asarray(together.sum(axis=1)).ravel(), 1)) @ together
