"""The number types of the piece format: lengths, coordinates, angles, counts, and the model they stand in."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field

from noble_clay.core.field_kinds import DEGREES, MM, Kind, Shown, VectorKind

MAX_COORDINATE = 100_000.0
MIN_SIZE = 0.001
MAX_COPIES = 50_000


class Model(BaseModel):
    """A frozen record that refuses fields it does not know."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", allow_inf_nan=False, validate_default=False, defer_build=True
    )


def _number(value: Any) -> Any:
    """JSON numbers only: text and true/false are not quietly turned into numbers."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError("must be a number")
    if isinstance(value, int) and abs(value) > 10**300:
        raise ValueError("must be a finite number")
    return value


def _flag(value: Any) -> Any:
    if not isinstance(value, bool):
        raise ValueError("must be true or false")
    return value


def _storable(value: str) -> str:
    """Text that any file and database can hold: no NUL, no half of a surrogate pair."""
    bad = next((c for c in value if c == "\0" or "\ud800" <= c <= "\udfff"), None)
    if bad is not None:
        raise ValueError(f"must not hold the character U+{ord(bad):04X}, which no file can keep")
    return value


def storable(text: str) -> str:
    """The same text with a mark in place of every character that no file can keep."""
    return "".join("\N{REPLACEMENT CHARACTER}" if c == "\0" or "\ud800" <= c <= "\udfff" else c for c in text)


Storable = AfterValidator(_storable)
Text = Annotated[str, Storable]
IsNumber = BeforeValidator(_number)
"""Goes last in an Annotated type, so that the bounds before it reach the JSON Schema."""

Flag = Annotated[bool, BeforeValidator(_flag)]
Length = Annotated[float, MM, Field(ge=MIN_SIZE, le=2 * MAX_COORDINATE), IsNumber]
LengthOrZero = Annotated[float, MM, Field(ge=0, le=2 * MAX_COORDINATE), IsNumber]
Coordinate = Annotated[float, MM, Field(ge=-MAX_COORDINATE, le=MAX_COORDINATE), IsNumber]
Angle = Annotated[float, DEGREES, Field(ge=-1e9, le=1e9), IsNumber]
Scale = Annotated[float, Field(gt=0, le=1e5), IsNumber]
FEWEST_FACETS, MOST_FACETS = 3, 512
Facets = Annotated[
    int,
    Shown(group="roundness"),
    Field(ge=FEWEST_FACETS, le=MOST_FACETS, title="Sides", description="straight sides of a full circle"),
    IsNumber,
]
Size3 = Annotated[tuple[Length, Length, Length], Kind(VectorKind(("wide", "deep", "high"))), Shown(group="size")]
"""What the card's own size says of a form that is as large as its box."""

Point = tuple[Coordinate, Coordinate, Coordinate]
