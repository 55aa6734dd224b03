"""What stands around a drawn part, cut by the plane that it is drawn in: to be drawn after, or fitted to."""

from __future__ import annotations

import numpy as np

from noble_clay.core.errors import ClayError, PieceError, Problem
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import compose, inverse
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.tree import children_of, find, frame_of

FINE_MM = 0.02
"""How far the rings may be off the cut."""

UPRIGHT = np.array([[1.0, 0.0, 0.0, 0.0], [0.0, 0.0, 1.0, 0.0], [0.0, -1.0, 0.0, 0.0]])
"""(3, 4): lays the plane of a profile, x and z, down."""


def backdrop(piece: Piece, part_id: str, evaluator: Evaluator) -> list[Floats]:
    """(n, 2) rings, in the coordinates of the part's drawing, mm: its neighbours where they meet an outline's floor, or
    the plane of a profile. A neighbour that cannot be made is left out. Raises PieceError for a part that is not drawn
    in a plane.
    """
    spot = find(piece, part_id)
    drawn = spot.part.primitive
    if drawn is None or drawn.editor not in ("profile", "outline"):
        raise PieceError(Problem("this is not drawn on a board", part_id))
    here = inverse(frame_of((*spot.parents, spot.part)))
    origin = drawn.drawn_origin()
    found: list[Floats] = []
    for depth in range(len(spot.parents) + 1):
        above = spot.parents[:depth]
        mine = (*spot.parents, spot.part)[depth]
        frame = compose(here, frame_of(above))
        for part in children_of(piece, above[-1].id if above else None):
            if part.id == mine.id or part.reference or (solid := _solid(part, evaluator)) is None:
                continue
            if drawn.editor == "profile":
                rings = _rings(solid, compose(UPRIGHT, frame), 0.0, origin[[0, 2]])
            else:
                rings = _rings(solid, frame, float(drawn.bounds()[0, 2]), origin[:2])
            found += rings
    return found


def _solid(part: Part, evaluator: Evaluator) -> Solid | None:
    try:
        solid = evaluator.part_solid(part)
    except ClayError:
        return None
    return None if solid.empty else solid


def _rings(solid: Solid, matrix: Floats, height: float, origin: Floats) -> list[Floats]:
    # A hair above the floor: what stands on it is cut, not touched.
    cut = solid.manifold.transform(matrix).slice(height + FINE_MM).simplify(FINE_MM)
    return [np.round(np.array(ring) + origin, 3) for ring in cut.to_polygons()]
