"""Where a part and its copies stand in its parent's frame, as matrices."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from noble_clay.core.mesh.affine import IDENTITY, compose, mirror_signs, rotation
from noble_clay.core.mesh.boxes import around, through
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Part, Place


def place_matrix(place: Place, flip: Sequence[str]) -> Floats:
    """(3, 4): p to position + R · (scale * (flip * p))."""
    linear = rotation(place.rotation) * (np.array(place.scale) * mirror_signs(flip))
    return np.column_stack([linear, place.position])


def copy_matrices(part: Part) -> list[Floats]:
    """(3, 4) each: from a part as it is placed to each of its copies, in its parent's frame, the part itself first."""
    if part.copies is None:
        return [IDENTITY.copy()]
    matrices = part.copies.matrices()
    if part.copies.vary is None:
        return matrices
    middle = place_matrix(part.place, part.flip) @ np.append(_own_box(part).mean(axis=0), 1.0)
    own_ways = part.copies.vary.matrices(len(matrices), middle)
    return [compose(matrix, way) for matrix, way in zip(matrices, own_ways, strict=True)]


def standing(part: Part, place: Place | None = None) -> list[Floats]:
    """(3, 4) each: from a part's own frame to where it stands in its parent's, and each of its copies. place: another
    than its own, for the part itself.
    """
    here = place_matrix(place or part.place, part.flip)
    return [compose(matrix, here) for matrix in copy_matrices(part)] if part.copies else [here]


def _own_box(part: Part) -> Floats:
    """(2, 3): around what a part is made of, in its own frame, whatever is cut from it or changed."""
    if part.primitive is not None:
        return part.primitive.bounds()
    boxes = [
        through(_own_box(p), place_matrix(p.place, p.flip))
        for p in part.children
        if p.op == "union" and not p.reference
    ]
    if not boxes:  # a mesh has its own frame about its middle
        return np.zeros((2, 3))
    return around(boxes)
