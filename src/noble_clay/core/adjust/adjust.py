"""What every adjustment is, and what they have in common: parts as they stand on the wheel."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.fields import Model, Point
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import compose, degrees_of, rotation_between
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.edits.carry import Carry, unit
from noble_clay.core.piece.edits.edit import Ids
from noble_clay.core.piece.models import Part, Piece, Place
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.piece.tree import find, frame_of, outermost


class Adjust(Model):
    """An adjustment of the parts `ids`."""

    ids: Ids

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        """The edit that makes the adjustment. Raises PieceError where it cannot be made."""
        raise NotImplementedError


class Floor(Model):
    """A plane that counts as the floor: the wheel itself, or a face that the maker works on. `normal` points up."""

    point: Point = (0.0, 0.0, 0.0)
    normal: Point = (0.0, 0.0, 1.0)


def standing_on(floor: Floor, foot: float) -> Place:
    """The place of a part whose foot, `foot` mm below its origin, stands on a floor's point, upright on it."""
    frame = frame_on(floor)
    return Place(position=tidy_triple(frame[:, 3] + foot * frame[:, 2]), rotation=degrees_of(frame[:, :3]))


def frame_on(floor: Floor) -> Floats:
    """(3, 4): from a frame that stands upright on a floor's point to the wheel."""
    turn = rotation_between(np.array([0.0, 0.0, 1.0]), unit(floor.normal, "normal"))
    return np.column_stack([turn, np.array(floor.point)])


def standing_above(boxes: list[Floats]) -> list[Floats]:
    """Those of boxes (2, 3), in the frame of a floor, that stand on it: more above than below it."""
    return [box for box in boxes if box[:, 2].mean() > 0]


def movers(piece: Piece, ids: tuple[str, ...]) -> list[str]:
    """`ids` in their order, without those that lie in another one of them."""
    kept = {s.part.id for s in outermost(piece, ids)}
    return [i for i in dict.fromkeys(ids) if i in kept]


def world_matrix(piece: Piece, part_id: str) -> Floats:
    """(3, 4): from a part's own frame to the wheel; of its original, not of its copies."""
    spot = find(piece, part_id)
    return compose(frame_of(spot.parents), place_matrix(spot.part.place, spot.part.flip))


def in_world(piece: Piece, part_id: str, evaluator: Evaluator) -> Solid:
    """A part's original where it stands on the wheel. Raises PieceError for a part of nothing."""
    part = find(piece, part_id).part
    return something(evaluator.geometry(part), part).placed(world_matrix(piece, part_id))


def something(solid: Solid, part: Part) -> Solid:
    if solid.empty:
        raise PieceError(Problem("nothing is left of this part, so it has no size to go by", part.id))
    return solid


def world_points(piece: Piece, ids: list[str], evaluator: Evaluator) -> Floats:
    """(n, 3): the vertices of the originals of some parts, mm on the wheel."""
    return np.concatenate([in_world(piece, i, evaluator).vertices for i in ids])


def world_box(piece: Piece, ids: list[str], evaluator: Evaluator) -> Floats:
    """(2, 3) bounds of the originals of some parts together, mm on the wheel."""
    points = world_points(piece, ids, evaluator)
    return np.array([points.min(axis=0), points.max(axis=0)])


def tidy_triple(vector: Iterable[float]) -> tuple[float, float, float]:
    """A vector (3,) as plain numbers without the noise of binary fractions, 1e-9 mm."""
    x, y, z = (round(float(v), 9) + 0.0 for v in vector)
    return x, y, z
