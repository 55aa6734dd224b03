"""What kinds of field a form, change or copy has: said by the type of each Pydantic field, read by the page.

Where the type alone does not tell (a length or a plain number?), a kind stands among its annotations:
`Annotated[float, MM, Field(ge=0), IsNumber]`. Bounds are those of Pydantic's own `Field`.
"""

from __future__ import annotations

import types
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

from annotated_types import Ge, Gt, Le, MaxLen, MinLen
from pydantic import BaseModel, Field
from pydantic.fields import FieldInfo as PydanticField


@dataclass(frozen=True)
class NumberKind:
    """A number with a unit, or a bare one. least, most: bounds that it may reach; above: one that it may not."""

    unit: str = ""
    least: float | None = None
    most: float | None = None
    above: float | None = None
    kind: Literal["number"] = "number"


@dataclass(frozen=True)
class CountKind:
    """A whole number."""

    least: float | None = None
    most: float | None = None
    kind: Literal["count"] = "count"


@dataclass(frozen=True)
class AngleKind:
    """A number of degrees."""

    least: float | None = None
    most: float | None = None
    kind: Literal["angle"] = "angle"


@dataclass(frozen=True)
class VectorKind:
    """Several numbers of one sort. labels: what each is called."""

    labels: tuple[str, ...] = ("x", "y", "z")
    of: NumberKind | CountKind | AngleKind = NumberKind("mm")
    kind: Literal["vector"] = "vector"


@dataclass(frozen=True)
class TextKind:
    """A line of text, or several. longest: letters."""

    longest: int | None = None
    lines: bool = False
    kind: Literal["text"] = "text"


@dataclass(frozen=True)
class Option:
    """What may be chosen, and the word for it."""

    value: str
    word: str


@dataclass(frozen=True)
class ChoiceKind:
    """One of a few words; they follow from the type, and from `Words` beside it."""

    options: tuple[Option, ...] = ()
    kind: Literal["choice"] = "choice"


@dataclass(frozen=True, eq=False)
class Words:
    """What to call the values of a choice that are no words."""

    by_value: Mapping[str, str]


@dataclass(frozen=True)
class FlagKind:
    """Yes or no."""

    kind: Literal["flag"] = "flag"


@dataclass(frozen=True)
class PlanePointsKind:
    """Points (x, y) in a plane, mm, in order. closed: the last is linked to the first."""

    least: int | None = None
    most: int | None = None
    closed: bool = False
    kind: Literal["plane_points"] = "plane_points"


@dataclass(frozen=True)
class PlaneLoopsKind:
    """Closed loops of points (x, y) in a plane, mm: what lies in an odd number of them is inside."""

    kind: Literal["plane_loops"] = "plane_loops"


@dataclass(frozen=True)
class NumbersKind:
    """Numbers in order, as many as there are of something."""

    unit: str = ""
    kind: Literal["numbers"] = "numbers"


@dataclass(frozen=True)
class SpacePointsKind:
    """Points (x, y, z) in space, mm, in order; with `radii` each is (x, y, z, radius)."""

    least: int | None = None
    most: int | None = None
    radii: bool = False
    kind: Literal["space_points"] = "space_points"


@dataclass(frozen=True)
class FileKind:
    """The SHA-256 of a mesh or other file kept beside the piece. accepts: endings of files that may be given."""

    accepts: tuple[str, ...] = ()
    kind: Literal["file"] = "file"


@dataclass(frozen=True)
class RecordKind:
    """A record with fields of its own."""

    fields: tuple[FieldSpec, ...] = ()
    kind: Literal["record"] = "record"


@dataclass(frozen=True)
class FormKind:
    """A whole primitive, of any kind, with its own fields."""

    kind: Literal["form"] = "form"


FieldKind = (
    NumberKind
    | CountKind
    | AngleKind
    | VectorKind
    | TextKind
    | ChoiceKind
    | FlagKind
    | PlanePointsKind
    | PlaneLoopsKind
    | NumbersKind
    | SpacePointsKind
    | FileKind
    | RecordKind
    | FormKind
)


@dataclass(frozen=True)
class Kind:
    """Says the kind of a field, among its annotations; the JSON Schema gets its unit."""

    of: FieldKind

    def __get_pydantic_json_schema__(self, schema: Any, handler: Any) -> Any:
        unit = "°" if isinstance(self.of, AngleKind) else getattr(self.of, "unit", "")
        return {**handler(schema), "unit": unit} if unit else handler(schema)


MM = Kind(NumberKind("mm"))
DEGREES = Kind(AngleKind())


@dataclass(frozen=True, eq=False)
class Shown:
    """How a field is shown, beyond its kind.

    group: the section of the card it stands in, where that is not the one of its form: `roundness`, `size`, or `apart`
    for one that the card shows elsewhere. Of a field that may be left out: `none`, the word for that; `add`, the words
    of a button that begins it by setting the values in `start`; `drop`, the words of one that leaves it out again.
    only_when: values of other fields of the same record that it goes with.
    """

    group: Literal["", "roundness", "size", "apart"] = ""
    none: str = ""
    add: str = ""
    start: Mapping[str, Any] = field(default_factory=dict)
    drop: str = ""
    only_when: Mapping[str, tuple[Any, ...]] = field(default_factory=dict)


@dataclass(frozen=True, eq=False)
class Either:
    """Two fields of which exactly one is given. starts: the value that each begins with; word: of the button to it."""

    starts: Mapping[str, Any]
    words: Mapping[str, str]


@dataclass(frozen=True)
class FieldSpec:
    """A field as the page shows it. optional: it may be left out; default: what it is where it is not given."""

    name: str
    title: str
    description: str
    field: Annotated[FieldKind, Field(discriminator="kind")]
    optional: bool
    default: Any
    shown: Shown


@lru_cache(maxsize=256)
def fields_of(model: type[BaseModel]) -> tuple[FieldSpec, ...]:
    """The fields of a model, without those that only name its kind. Raises TypeError for a type without a kind."""
    hints = get_type_hints(model, include_extras=True)
    return tuple(
        _spec(name, hints[name], info) for name, info in model.model_fields.items() if not _names_kind(hints[name])
    )


def _names_kind(hint: Any) -> bool:
    return get_origin(hint) is Literal and len(get_args(hint)) == 1


def _spec(name: str, hint: Any, info: PydanticField) -> FieldSpec:
    base, notes, optional = _unwrapped(hint)
    shown = next((n for n in notes if isinstance(n, Shown)), Shown())
    default = None if info.is_required() else info.default
    if isinstance(default, BaseModel):
        default = default.model_dump(mode="json")
    title = info.title or name.replace("_", " ").capitalize()
    return FieldSpec(name, title, info.description or "", _kind(base, notes), optional, default, shown)


def _unwrapped(hint: Any) -> tuple[Any, list[Any], bool]:
    """A type without its annotations, those, and whether it may be None."""
    notes: list[Any] = []
    optional = False
    while True:
        if get_origin(hint) is Annotated:
            hint, *more = get_args(hint)
            for note in more:
                notes += [note, *note.metadata] if isinstance(note, PydanticField) else [note]
        elif get_origin(hint) in (Union, types.UnionType) and type(None) in get_args(hint):
            optional = True
            hint = Union[tuple(a for a in get_args(hint) if a is not type(None))]  # noqa: UP007
        else:
            return hint, notes, optional


def _kind(base: Any, notes: list[Any]) -> FieldKind:
    said = next((n.of for n in notes if isinstance(n, Kind)), None)
    found = said or _by_type(base)
    if isinstance(found, ChoiceKind):
        words = next((n.by_value for n in notes if isinstance(n, Words)), {})
        return ChoiceKind(tuple(Option(v, words.get(v, v)) for v in get_args(base)))
    if isinstance(found, VectorKind):
        of = _by_type(base)
        return replace(found, of=of.of) if isinstance(of, VectorKind) else found
    names = {f: _bound(notes, f) for f in ("least", "most", "above") if hasattr(found, f)}
    bounds = {f: value for f, value in names.items() if value is not None}
    if isinstance(found, TextKind):
        longest = next((n.max_length for n in notes if isinstance(n, MaxLen)), None)
        bounds = {"longest": longest} if longest is not None else {}
    return replace(found, **bounds) if bounds else found  # type: ignore[arg-type]


def _bound(notes: list[Any], which: str) -> float | None:
    """The bound that Pydantic's annotations give, the outermost first; of numbers, or of how many points there are."""
    for note in notes:
        if which == "least" and isinstance(note, Ge | MinLen):
            return note.ge if isinstance(note, Ge) else note.min_length  # type: ignore[return-value]
        if which == "most" and isinstance(note, Le | MaxLen):
            return note.le if isinstance(note, Le) else note.max_length  # type: ignore[return-value]
        if which == "above" and isinstance(note, Gt):
            return note.gt  # type: ignore[return-value]
    return None


def _by_type(base: Any) -> FieldKind:
    """The kind of a type that needs no word: a flag, a choice, a whole number, several numbers, a record, a form."""
    origin, arguments = get_origin(base), get_args(base)
    if origin is Literal:
        return ChoiceKind()
    if origin is tuple and Ellipsis not in arguments:
        inner, notes, _ = _unwrapped(arguments[0])
        of = _kind(inner, notes)
        if isinstance(of, NumberKind | CountKind | AngleKind):
            return VectorKind(VectorKind.labels[: len(arguments)], of)
    if base is bool:
        return FlagKind()
    if base is int:
        return CountKind()
    if base is float:
        return NumberKind()
    if base is str:
        return TextKind()
    if isinstance(base, type) and issubclass(base, BaseModel):
        return RecordKind(fields_of(base))
    raise TypeError(f"no kind of field is known for {base}")
