"""Points of a surface that are so close that files and checks would take them for one, parted by a hair."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.inspect import contact_pairs
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.tolerances import CONTACT

APART = 3 * CONTACT
"""mm that they are from each other then."""


def parted(mesh: Mesh) -> Mesh:
    """The mesh, its points that no edge links no longer within `CONTACT` of each other."""
    pairs = contact_pairs(mesh, CONTACT)
    if len(pairs) == 0:
        return mesh
    points = mesh.vertices.copy()
    way = points[pairs[:, 1]] - points[pairs[:, 0]]
    length = np.linalg.norm(way, axis=1, keepdims=True)
    way = np.where(length > 0, way / np.maximum(length, 1e-300), [1.0, 0.0, 0.0]) * (APART - length) / 2
    np.subtract.at(points, pairs[:, 0], way)
    np.add.at(points, pairs[:, 1], way)
    return Mesh(points, mesh.triangles)
