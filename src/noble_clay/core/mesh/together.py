"""Several meshes as one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from noble_clay.core.mesh.mesh import Mesh


def together(meshes: Sequence[Mesh]) -> Mesh:
    """Several meshes as one, their points and triangles in that order."""
    starts = np.cumsum([0, *(len(m.vertices) for m in meshes)])
    return Mesh(
        np.concatenate([m.vertices for m in meshes]),
        np.concatenate([m.triangles + s for m, s in zip(meshes, starts, strict=False)]),
    )
