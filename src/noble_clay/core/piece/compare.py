"""What differs between two states of a piece, in words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from pydantic import BaseModel

from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.tree import Spot, find
from noble_clay.core.registry import kind_of

WORDS = {
    "changes": "other shape changes",
    "copies": "copied another way",
    "colour": "another glaze",
    "opacity": "seen through more or less",
    "flip": "mirrored",
    "follows_body": "follows its body's roundness, or does no longer",
    "drawer": "another note of the parts drawer",
    "mesh": "another mesh",
}
"""For fields of which it says enough that they differ."""

FLAGS = {
    "hidden": ("shown", "hidden"),
    "reference": ("part of the piece", "reference only"),
    "locked": ("free", "locked"),
}


@dataclass(frozen=True)
class Difference:
    """part: whose, as it is called in the later state, or was in the earlier one; None for the piece. present: whether
    the later state has the part. words: what is so in the later state and was not in the earlier one.
    """

    part: str | None
    name: str
    present: bool
    words: tuple[str, ...]


def differences(earlier: Piece, later: Piece) -> list[Difference]:
    """By part, in the later state's order, then what is gone. Parts are known by their ids."""
    found = []
    own = tuple(_of_piece(earlier, later))
    if own:
        found.append(Difference(None, later.name, True, own))
    was, now = _spots(earlier), _spots(later)
    for part_id, spot in now.items():
        old = was.get(part_id)
        words = tuple(_of_spot(old, spot)) if old is not None else ("new",)
        if words:
            found.append(Difference(part_id, spot.part.name, True, words))
    found += [Difference(i, spot.part.name, False, ("gone",)) for i, spot in was.items() if i not in now]
    for group, name in _reordered(was, now):
        found.append(Difference(group, name, True, ("its parts are in another order",)))
    return found


def _spots(piece: Piece) -> dict[str, Spot]:
    return {part.id: find(piece, part.id) for part in piece.walk()}


def _reordered(was: dict[str, Spot], now: dict[str, Spot]) -> Iterator[tuple[str | None, str]]:
    """Groups whose parts, as far as both states have them there, are in another order."""
    stayed: dict[str | None, list[str]] = {}
    for part_id, spot in now.items():
        if part_id in was and was[part_id].parent_id == spot.parent_id:
            stayed.setdefault(spot.parent_id, []).append(part_id)
    for group, both in stayed.items():
        if sorted(both, key=lambda i: was[i].index) != both:
            yield group, now[group].part.name if group is not None else "the recipe"


def _of_piece(old: Piece, new: Piece) -> Iterator[str]:
    if old.name != new.name:
        yield f'called "{old.name}" before'
    if old.notes != new.notes:
        yield "other notes"
    if old.drawer != new.drawer:
        yield "other notes of the parts drawer"
    if old.pictures != new.pictures:
        yield "other reference pictures"
    if old.measures != new.measures:
        yield "other measures"


def _of_spot(old: Spot, new: Spot) -> Iterator[str]:
    yield from _of_part(old.part, new.part)
    if old.parent_id != new.parent_id:
        yield "in another group"


def _of_part(old: Part, new: Part) -> Iterator[str]:
    if old.name != new.name:
        yield f'called "{old.name}" before'
    if old.op != new.op:
        yield {"union": "adds now", "difference": "cuts now", "intersection": "keeps now"}[new.op]
    yield from _of_geometry(old, new)
    yield from _of_place(old, new)
    if old.blend != new.blend:
        yield f"blend {_radius(old.blend)} → {_radius(new.blend)}"
    yield from (words for name, words in WORDS.items() if getattr(old, name) != getattr(new, name))
    for name, (off, on) in FLAGS.items():
        if getattr(old, name) != getattr(new, name):
            yield on if getattr(new, name) else off


def _of_geometry(old: Part, new: Part) -> Iterator[str]:
    if old.primitive is not None and new.primitive is not None:
        if type(old.primitive) is not type(new.primitive):
            yield f"{kind_of(type(old.primitive))} before, {kind_of(type(new.primitive))} now"
        else:
            yield from _of_fields(old.primitive, new.primitive)
    elif old.join is not None and new.join is not None:
        yield from _of_fields(old.join, new.join, but="parts")
    elif (old.mesh is None) != (new.mesh is None):
        yield "a mesh now" if new.mesh is not None else "no mesh any more"


def _of_fields(old: BaseModel, new: BaseModel, but: str = "") -> Iterator[str]:
    for name in type(new).model_fields:
        a, b = getattr(old, name), getattr(new, name)
        if a == b or name == but:
            continue
        word = name.replace("_", " ")
        was, now = _value(a), _value(b)
        yield f"{word} {was} → {now}" if was and now else f"another {word}"


def _of_place(old: Part, new: Part) -> Iterator[str]:
    was, now = old.place, new.place
    if was.position != now.position:
        by = ", ".join(_number(b - a) for a, b in zip(was.position, now.position, strict=True))
        yield f"moved by {by} mm"
    if was.rotation != now.rotation:
        yield "turned"
    if was.scale != now.scale:
        yield "scaled"


def _radius(blend: float | None) -> str:
    return "the list's" if blend is None else f"{_number(blend)} mm"


MOST_TOLD = 24
"""Letters of a value that is told."""


def _value(value: object) -> str | None:
    """None for what takes more than a few words."""
    if isinstance(value, tuple) and value and all(isinstance(v, int | float) for v in value):
        said = " × ".join(_number(v) for v in value)
    elif isinstance(value, float):
        said = _number(value)
    elif isinstance(value, int | str):
        said = str(value)
    else:
        return None
    return said if len(said) <= MOST_TOLD else None


def _number(value: float) -> str:
    return f"{round(value, 6):.6g}"
