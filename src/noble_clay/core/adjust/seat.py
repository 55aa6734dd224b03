"""Seat: put parts on a face of another, base to face, turned with it, sunk by a depth."""

from __future__ import annotations

from typing import Literal

import numpy as np

from noble_clay.core.adjust.adjust import (
    Adjust,
    movers,
    something,
    tidy_triple,
    world_box,
    world_matrix,
    world_points,
)
from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.fields import LengthOrZero, Point
from noble_clay.core.measure.contact import SINK_MM
from noble_clay.core.measure.faces import Face, face_at
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import UNIT
from noble_clay.core.piece.edits.carry import Carried, Carry, Turn, unit
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.tree import find, less


class Seat(Adjust):
    """On the face that a ray from `eye` along `direction` meets first, both on the wheel.

    where: the part's base comes to the middle of the face, or to the point that was met; on something round there is
    no middle. turned: whether the parts turn with the face, or keep their turn and only move. depth: mm below it.
    """

    kind: Literal["seat"]
    eye: Point
    direction: Point
    where: Literal["middle", "point"] = "middle"
    turned: bool = True
    depth: LengthOrZero = SINK_MM

    def carry(self, piece: Piece, evaluator: Evaluator) -> Carry:
        ids = movers(piece, self.ids)
        face = seen_face(piece, set(self.ids), self.eye, self.direction, evaluator)
        target = face.middle if self.where == "middle" and face.middle is not None else face.point
        base, up = _base(piece, ids, evaluator)
        if self.turned:
            turn = _between(up, face.normal, base)
            landing = target - self.depth * face.normal - base
        else:
            turn = None
            lowest = float(((world_points(piece, ids, evaluator) - base) @ face.normal).min())
            landing = target - (self.depth + lowest) * face.normal - base
        moves = tuple(Carried(id=i, turn=turn, by=tidy_triple(landing)) for i in ids)
        return Carry(kind="carry", moves=moves, how="Seated")


def seen_face(piece: Piece, without: set[str], eye: Point, direction: Point, evaluator: Evaluator) -> Face:
    """The face of the joined piece, less the parts `without`, that a ray meets first. Raises PieceError for none."""
    rest = evaluator.list_solid(less(piece.parts, without))
    found = face_at(rest, np.array(eye), unit(direction, "direction"))
    if found is None:
        raise PieceError(Problem("there is no face of another part under the pointer"))
    return found


def _base(piece: Piece, ids: list[str], evaluator: Evaluator) -> tuple[Floats, Floats]:
    """The middle of the underside, (3,) on the wheel, and which way is up: a single part's own, else the wheel's."""
    if len(ids) > 1:
        low, high = world_box(piece, ids, evaluator)
        return np.array([*(low + high)[:2] / 2, low[2]]), np.array([0.0, 0.0, 1.0])
    part = find(piece, ids[0]).part
    points = something(evaluator.geometry(part), part).vertices
    low, high = points.min(axis=0), points.max(axis=0)
    matrix = world_matrix(piece, ids[0])
    base = matrix[:, :3] @ np.array([*(low + high)[:2] / 2, low[2]]) + matrix[:, 3]
    # The plane z = low stays a plane through any linear map; its normal goes by the inverse transpose.
    up = np.linalg.inv(matrix[:, :3]).T @ np.array([0.0, 0.0, 1.0])
    return base, up / np.linalg.norm(up)


def _between(up: Floats, normal: Floats, centre: Floats) -> Turn | None:
    """The least turn that takes `up` to `normal`; from upside down about x."""
    axis = np.cross(up, normal)
    sine, cosine = float(np.linalg.norm(axis)), float(up @ normal)
    if sine < UNIT:
        if cosine > 0:
            return None
        side = np.array([1.0, 0.0, 0.0]) if abs(up[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
        axis = side - (side @ up) * up
    angle = float(np.degrees(np.arctan2(sine, cosine)))
    x, y, z = (float(v) for v in axis / np.linalg.norm(axis))
    return Turn(axis=(x, y, z), angle=angle, centre=(float(centre[0]), float(centre[1]), float(centre[2])))
