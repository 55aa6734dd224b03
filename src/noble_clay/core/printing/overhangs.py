"""Surface that faces down so steeply that a printer lays it into the air."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.printing.standing import contact_of

STEEP_DEG = 45.0
"""From the upright; what leans out further wants support (common practice)."""


def overhanging(mesh: Mesh, steep: float = STEEP_DEG) -> NDArray[np.bool_]:
    """(m,) whether each triangle of a mesh that is set down faces down by more than `steep` degrees from the upright,
    and does not lie on the bed.
    """
    on_bed = (mesh.corners[:, :, 2] <= contact_of(mesh)).all(axis=1)
    down = normals(mesh)[:, 2] < -math.sin(math.radians(steep)) - 1e-9
    found: NDArray[np.bool_] = down & ~on_bed
    return found
