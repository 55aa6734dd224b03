"""A sharp box, as a mesh."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.mesh import Mesh


def hexahedron(size: tuple[float, float, float]) -> Mesh:
    """A sharp box of `size` mm about the origin: 8 vertices, 12 triangles."""
    x, y, z = (s / 2 for s in size)
    corners = [[-x, -y, -z], [x, -y, -z], [x, y, -z], [-x, y, -z], [-x, -y, z], [x, -y, z], [x, y, z], [-x, y, z]]
    quads = [[3, 2, 1, 0], [4, 5, 6, 7], [0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7]]
    triangles = [t for a, b, c, d in quads for t in ([a, b, c], [a, c, d])]
    return Mesh(np.array(corners, dtype=float), np.array(triangles))
