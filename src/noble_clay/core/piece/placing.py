"""Where a part stands in its parent's frame, as a matrix."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from noble_clay.core.mesh.affine import mirror_signs, rotation
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Place


def place_matrix(place: Place, flip: Sequence[str]) -> Floats:
    """(3, 4): p to position + R · (scale * (flip * p))."""
    linear = rotation(place.rotation) * (np.array(place.scale) * mirror_signs(flip))
    return np.column_stack([linear, place.position])
