"""A line of the recipe in words: what it is, how large, where it stands, how often."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from noble_clay.core.field_kinds import (
    AngleKind,
    ChoiceKind,
    CountKind,
    FieldSpec,
    FlagKind,
    NumberKind,
    NumbersKind,
    PlaneLoopsKind,
    PlanePointsKind,
    SpacePointsKind,
    TextKind,
    VectorKind,
    fields_of,
)
from noble_clay.core.piece.models import CLAY, Part
from noble_clay.core.words import GLAZES

OPS = {"union": "adds", "difference": "cuts", "intersection": "keeps"}
GLAZE_WORDS = {CLAY: "Clay", **{colour: word for word, colour in GLAZES.items()}}


def named_glaze(colour: str) -> str | None:
    return GLAZE_WORDS.get(colour.lower())


def glaze_word(colour: str) -> str:
    """Its name, or the colour itself where it has none."""
    return named_glaze(colour) or colour


def form_words(part: Part) -> str:
    """What a part is made as, with its numbers."""
    if part.join is not None:
        blend = f", run together over {number(part.join.blend)} mm" if part.join.blend else ""
        return f"a join of {len(part.join.parts)}{blend}"
    if part.primitive is None:
        return "a mesh that was brought in"
    said = ", ".join(_fields(part.primitive))
    return f"{type(part.primitive).label}{': ' if said else ''}{said}"


def change_words(part: Part) -> list[str]:
    """Each shape change that is on."""
    found = []
    for change in part.changes:
        if not change.off:
            said = ", ".join(_fields(change))
            found.append(f"{type(change).label}{': ' if said else ''}{said}")
    return found


def place_words(part: Part) -> str:
    place = part.place
    words = [f"at {_triple(place.position)} mm"]
    if any(place.rotation):
        words.append(f"turned {_triple(place.rotation)}°")
    if any(s != 1 for s in place.scale):
        words.append(f"scaled {_triple(place.scale)}")
    if part.flip:
        words.append(f"mirrored in {', '.join(part.flip)}")
    if part.copies is not None:
        words.append(f"copies: {type(part.copies).label}, {', '.join(_fields(part.copies))}")
    return ", ".join(words)


def _fields(model: Any) -> Iterator[str]:
    """What a record's fields are, those that say something."""
    kind: type[BaseModel] = type(model)
    for spec in fields_of(kind):
        value = getattr(model, spec.name, None)
        said = _said(spec, value)
        if said and spec.name != "off":
            yield f"{spec.title.lower()} {said}"


def _said(spec: FieldSpec, value: Any) -> str:
    if value is None or (spec.optional and value == spec.default):
        return ""
    match spec.field:
        case NumberKind(unit=unit):
            return f"{number(value)}{f' {unit}' if unit else ''}"
        case CountKind():
            return str(value)
        case AngleKind():
            return f"{number(value)}°"
        case VectorKind(of=of):
            unit = getattr(of, "unit", "")
            return f"{' × '.join(number(v) for v in value)}{f' {unit}' if unit else ''}"
        case TextKind():
            return f"“{value}”" if value else ""
        case ChoiceKind(options=options):
            return next((o.word for o in options if o.value == value), str(value))
        case FlagKind():
            return "yes" if value else ""
        case NumbersKind() | PlanePointsKind() | SpacePointsKind():
            return f"({len(value)})"
        case PlaneLoopsKind():
            return f"({', '.join(str(len(loop)) for loop in value)} points)"
        case _:
            return ""


def number(value: float) -> str:
    return f"{round(float(value), 3):g}"


def _triple(values: Any) -> str:
    return ", ".join(number(v) for v in values)
