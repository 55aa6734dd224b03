"""Turn slivers: a triangle whose corners lie in a line gives its long edge up to the triangle beside it."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.inspect import collapsed_faces, degenerate_faces
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology

ROUNDS = 4


def turn_slivers(mesh: Mesh, among: Ints | None = None, height: float = 0.0) -> tuple[Mesh, Done]:
    """Split the neighbour across the long side at the middle corner: the surface stays where it was, or moves by no
    more than the height.

    among: triangles (j,) that may be turned; by default all. height: mm, over their long sides, up to which triangles
    are slivers; by default those in a line to rounding.
    """
    turned = 0
    for _ in range(ROUNDS):
        thin = degenerate_faces(mesh) if height == 0 else _heights(mesh) <= height
        slivers = np.flatnonzero(thin & ~collapsed_faces(mesh))
        if among is not None:
            slivers = np.intersect1d(slivers, among)
        if len(slivers) == 0:
            break
        mesh, count = _turned(mesh, slivers)
        turned += count
        if count == 0:
            break
    return mesh, Done("turn_slivers", turned)


def _heights(mesh: Mesh) -> Floats:
    """(m,) how high the triangles are over their longest sides, mm."""
    corners = mesh.corners
    sides = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    return np.divide(2 * areas(mesh), sides, out=np.zeros_like(sides), where=sides > 0)


def _turned(mesh: Mesh, slivers: np.ndarray) -> tuple[Mesh, int]:
    topology = Topology(mesh)
    halves, agree = topology.pairs
    other = np.full(3 * len(mesh.triangles), -1, dtype=np.int64)
    other[halves[agree, 0]], other[halves[agree, 1]] = halves[agree, 1], halves[agree, 0]
    known = set(map(tuple, topology.edges[np.isin(topology.edges, mesh.triangles[slivers]).any(axis=1)].tolist()))
    triangles = mesh.triangles.copy()
    touched: set[int] = set()
    count = 0
    for face in slivers.tolist():
        corners = mesh.vertices[triangles[face]]
        k = int(np.argmax(((corners - np.roll(corners, -1, axis=0)) ** 2).sum(axis=1)))
        half = int(other[3 * face + k])
        beside = half // 3
        if half < 0 or face in touched or beside in touched or beside == face:
            continue
        a, b, middle = (int(triangles[face, (k + i) % 3]) for i in range(3))
        far = int(triangles[beside, (half % 3 + 2) % 3])
        edge = (min(middle, far), max(middle, far))
        if far == middle or edge in known:
            continue
        known.add(edge)
        triangles[face] = (b, middle, far)
        triangles[beside] = (middle, a, far)
        touched.update((face, beside))
        count += 1
    return Mesh(mesh.vertices, triangles), count
