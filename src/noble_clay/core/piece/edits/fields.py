"""Changing what a part is: its fields, shape, size and place; and the name and notes of the piece."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.fields import IsNumber, Length, Model, Point
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import ROUNDING
from noble_clay.core.piece.copies import AnyCopies
from noble_clay.core.piece.edits.edit import Edit, Ids, check_free, check_unlocked, given_fields, names
from noble_clay.core.piece.models import (
    Colour,
    FromDrawer,
    InDrawer,
    MeshAsset,
    Name,
    Notes,
    Op,
    Part,
    PartId,
    Piece,
    Place,
)
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.piece.reframe import tidy, tidy_scale
from noble_clay.core.piece.tree import Change, Put, find, into_frame, outermost
from noble_clay.core.primitives.registry import AnyPrimitive

Share = Annotated[float, Field(ge=0, le=1), IsNumber]


class PartFields(Model):
    """New values of some of a part's fields; what is not given stays."""

    name: Name | None = None
    op: Op | None = None
    place: Place | None = None
    flip: tuple[Literal["x", "y", "z"], ...] | None = None
    copies: AnyCopies | None = None
    colour: Colour | None = None
    opacity: Annotated[float, Field(ge=0, le=1)] | None = None
    hidden: bool | None = None
    reference: bool | None = None
    locked: bool | None = None
    follows_body: bool | None = None
    mesh: MeshAsset | None = None
    blend: Annotated[float, Field(ge=0, le=1000), IsNumber] | None = None
    drawer: FromDrawer | None = None


class SetPart(Edit):
    """Change fields of parts; `copies`, `colour`, `blend` and `drawer` given as null are taken away."""

    kind: Literal["set_part"]
    ids: Ids
    fields: PartFields

    @property
    def may_be_impossible(self) -> bool:
        return bool(self.fields.blend)

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        given = {name: getattr(self.fields, name) for name in self.fields.model_fields_set}
        for name, value in given.items():
            if value is None and name not in ("copies", "colour", "blend", "drawer"):
                raise PieceError(Problem("cannot be taken away", field=name))
        found: list[Change] = []
        for part_id in self.ids:
            part = find(piece, part_id).part
            check_unlocked(part, given.keys() - {"locked", "hidden", "name", "drawer"})
            found.append(Put(part.model_copy(update=given)))
        return found, self.ids

    def describe(self, piece: Piece) -> str:
        said = names([find(piece, i).part for i in self.ids])
        fields = self.fields
        words = {
            "name": f"Renamed {{}} to {fields.name}",
            "op": "Changed how {} enters",
            "place": "Placed {}",
            "copies": "Copies of {}",
            "colour": "Glazed {}",
            "blend": "Blended {}",
            "hidden": "Hid {}" if fields.hidden else "Showed {}",
            "locked": "Locked {}" if fields.locked else "Unlocked {}",
            "drawer": "Noted what the drawer has of {}",
        }
        first = next(iter(fields.model_fields_set), "")
        return words.get(first, "Changed {}").replace("{}", said, 1)


class SetPrimitive(Edit):
    """Give a primitive other fields; its foot stays where it was, and of a drawn one all points that were not moved."""

    kind: Literal["set_primitive"]
    id: PartId
    primitive: AnyPrimitive

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        check_unlocked(part)
        check_free(part)
        if part.primitive is None:
            raise PieceError(Problem("only a primitive has such fields", self.id))
        new = part.model_copy(update={"primitive": self.primitive})
        drawn = self.primitive.editor and type(self.primitive) is type(part.primitive)
        return [Put(where_it_was_drawn(part, new) if drawn else on_its_foot(part, new))], (self.id,)

    def describe(self, piece: Piece) -> str:
        return f"Shaped {find(piece, self.id).part.name}"


class SetChordError(Edit):
    """Give a round primitive the fewest sides that stay within `most` mm of its true curve."""

    kind: Literal["set_chord_error"]
    id: PartId
    most: Length

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        check_unlocked(part)
        if part.primitive is None or part.primitive.chord_error() is None:
            raise PieceError(Problem("this has no flat sides for a curve", self.id))
        return [Put(part.model_copy(update={"primitive": part.primitive.with_chord_error(self.most)}))], (self.id,)

    def describe(self, piece: Piece) -> str:
        return f"Rounded {find(piece, self.id).part.name}"


class Resize(Edit):
    """Make a part so wide, deep and high in its own frame; `was` is the size it is seen to have now, mm.

    A primitive whose own fields can say the new size gets them; any other part is scaled. hold: which point of its box,
    in its own frame, stays where it is, 0 for the low side and 1 for the high one, x, y and z; by default the foot of a
    primitive and the origin of any other part. own: (low, high) of the box of a part that is no primitive, as it is
    seen, before scaling; needed with `hold`.
    """

    kind: Literal["resize"]
    id: PartId
    size: tuple[Length, Length, Length]
    was: tuple[Length, Length, Length]
    hold: tuple[Share, Share, Share] | None = None
    own: tuple[Point, Point] | None = None

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        part = find(piece, self.id).part
        check_unlocked(part)
        check_free(part)
        factors = tuple(
            1.0 if abs(new - old) < ROUNDING else new / old for new, old in zip(self.size, self.was, strict=True)
        )
        # A change that depends on the size would make another of what is typed: then the changed part is scaled.
        plain = all(c.off or c.keeps_box for c in part.changes)
        stretched = part.primitive.stretched(factors) if part.primitive and plain else None  # type: ignore[arg-type]
        if stretched is not None:
            values = tidy_values(stretched.model_dump(exclude_none=True))
            new = part.model_copy(update={"primitive": type(stretched).model_validate(values)})
        else:
            scale = tidy_scale(np.multiply(part.place.scale, factors))
            new = part.model_copy(update={"place": part.place.model_copy(update={"scale": tuple(scale)})})
        if self.hold is None:
            return [Put(on_its_foot(part, new))], (self.id,)
        points = [self._held(p, self.hold) for p in (part, new)]
        position = tuple(tidy(np.add(new.place.position, points[0] - points[1])))
        return [Put(new.model_copy(update={"place": new.place.model_copy(update={"position": position})}))], (self.id,)

    def _held(self, part: Part, hold: tuple[float, float, float]) -> Floats:
        """The point of the part's box that stays, (3,) in its parent's frame."""
        bounds = part.primitive.mesh().bounds if part.primitive else self.own
        if bounds is None:
            raise PieceError(Problem("to hold a side, say where its box is", self.id, "own"))
        low, high = np.array(bounds)
        matrix = place_matrix(part.place, part.flip)
        found: Floats = matrix[:, :3] @ (low + (high - low) * np.array(hold)) + matrix[:, 3]
        return found

    def describe(self, piece: Piece) -> str:
        return f"Resized {find(piece, self.id).part.name}"


class Move(Edit):
    """Move parts by a way on the wheel, mm."""

    kind: Literal["move"]
    ids: Ids
    by: Point

    def changes(self, piece: Piece) -> tuple[list[Change], tuple[str, ...]]:
        found: list[Change] = []
        for spot in outermost(piece, self.ids):
            check_unlocked(spot.part)
            step = into_frame(spot.parents, np.array(self.by))
            position = tuple(tidy(np.add(spot.part.place.position, step)))
            place = spot.part.place.model_copy(update={"position": position})
            found.append(Put(spot.part.model_copy(update={"place": place})))
        return found, self.ids

    def describe(self, piece: Piece) -> str:
        return f"Moved {names([find(piece, i).part for i in self.ids])}"


class SetPiece(Edit):
    """Rename the piece, write its notes, or what the drawer notes of it."""

    kind: Literal["set_piece"]
    name: Name | None = None
    notes: Notes | None = None
    drawer: InDrawer | None = None

    def own_fields(self, piece: Piece) -> dict[str, Any]:
        return given_fields(self)

    def describe(self, piece: Piece) -> str:
        if self.name:
            return f"Renamed the piece to {self.name}"
        return "Wrote notes" if self.notes is not None else "Sorted it in the drawer"


def tidy_values(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: tidy_values(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [tidy_values(v) for v in value]
    return round(value, 9) if isinstance(value, float) else value


def where_it_was_drawn(before: Part, after: Part) -> Part:
    """`after` moved so that points drawn at the same coordinates stay where `before` had them."""
    assert before.primitive is not None and after.primitive is not None
    by = after.primitive.drawn_origin() - before.primitive.drawn_origin()
    if np.abs(by).max() < ROUNDING:
        return after
    shift = place_matrix(after.place, after.flip)[:, :3] @ by
    position = tuple(tidy(np.add(after.place.position, shift)))
    return after.model_copy(update={"place": after.place.model_copy(update={"position": position})})


def on_its_foot(before: Part, after: Part) -> Part:
    """`after` moved so that the middle of its underside, in its own frame, stays where `before` had it."""
    if before.primitive is None or after.primitive is None:
        return after
    feet = []
    for part in (before, after):
        assert part.primitive is not None
        bounds = part.primitive.mesh().bounds
        assert bounds is not None
        low = bounds[0, 2] if "z" not in part.flip else -bounds[1, 2]
        feet.append(low * part.place.scale[2])
    if abs(feet[0] - feet[1]) < ROUNDING:
        return after
    shift = rotation(after.place.rotation) @ np.array([0.0, 0.0, feet[0] - feet[1]])
    position = tuple(tidy(np.add(after.place.position, shift)))
    return after.model_copy(update={"place": after.place.model_copy(update={"position": position})})
