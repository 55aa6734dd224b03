"""What a piece keeps beside its parts, never part of the result: reference pictures and what was measured."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from noble_clay.core.field_kinds import MM
from noble_clay.core.fields import Coordinate, Flag, IsNumber, Length, Model, Point, Storable

OwnId = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
MOST_PIXELS_A_SIDE = 4096
"""Of a picture that is kept; a larger one is made smaller when it is brought in."""

MOST_PICTURES = 6
MOST_MEASURES = 40
"""More would be read by nobody."""

Ending = Literal["png", "jpg", "webp"]
Pixels = Annotated[int, Field(ge=1, le=MOST_PIXELS_A_SIDE), IsNumber]


class ReferencePicture(Model):
    """A picture to model after, which stands on a plane.

    asset, ending: of the image file beside the piece; pixels: its width and height. plane: the view from which it is
    seen as it is, the floor's from above. middle: where its middle is, mm; width: of the whole of it, mm, whose height
    follows. opacity: 1 is as it is, less is dimmed. locked: nothing changes it by hand.
    """

    id: OwnId
    name: Annotated[str, Field(min_length=1, max_length=80), Storable]
    asset: Sha256
    ending: Ending
    pixels: tuple[Pixels, Pixels]
    plane: Literal["front", "side", "floor"] = "front"
    middle: Point = (0.0, 0.0, 0.0)
    width: Length = 100.0
    opacity: Annotated[float, Field(ge=0.05, le=1), IsNumber] = 0.6
    hidden: Flag = False
    locked: Flag = False

    @property
    def file_name(self) -> str:
        """Of its file in a pack."""
        return f"assets/{self.asset}.{self.ending}"


class MeasuredSpot(Model):
    """A point of the surface that was measured from: kind: what it was caught by. normal: of the face that was met.
    radius: of the ball or cylinder that the face is of; thickness: straight in from the surface, mm.
    """

    point: Point
    kind: Literal["corner", "edge", "middle", "surface"]
    normal: tuple[Coordinate, Coordinate, Coordinate]
    radius: Annotated[float, MM, Field(ge=0), IsNumber] | None = None
    thickness: Annotated[float, MM, Field(ge=0), IsNumber] | None = None


class Measure(Model):
    """What was measured at one spot, or between two. skin: the key of the surface that it was measured on."""

    id: OwnId
    skin: Annotated[str, Field(min_length=1, max_length=100), Storable]
    start: MeasuredSpot
    end: MeasuredSpot | None = None
