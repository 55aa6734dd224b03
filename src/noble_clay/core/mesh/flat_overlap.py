"""Whether triangles that lie in one plane cover any of the same ground (the separating axis theorem, in the plane)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import SOME


def cover_the_same(ours: Floats, theirs: Floats, normals: Floats, depth: float) -> NDArray[np.bool_]:
    """(n,) whether two triangles in a plane share ground deeper than `depth` mm; an edge or a corner that they have in
    common is none.

    ours, theirs: (n, 3, 3), mm. normals: (n, 3), unit, of the plane of each pair.
    """
    found = np.ones(len(ours), dtype=bool)
    for triangles in (ours, theirs):
        for corner in range(3):
            across = np.cross(triangles[:, (corner + 1) % 3] - triangles[:, corner], normals)
            across /= np.linalg.norm(across, axis=1, keepdims=True) + SOME
            one, other = (np.einsum("nci,ni->nc", each, across) for each in (ours, theirs))
            shared = np.minimum(one.max(axis=1), other.max(axis=1)) - np.maximum(one.min(axis=1), other.min(axis=1))
            found &= shared > depth
    return found
