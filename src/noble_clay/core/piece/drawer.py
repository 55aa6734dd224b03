"""The maker's parts drawer: a part that is kept is a piece of its own, and what a piece takes out is a copy of it.

Of such a copy the geometry and the changes are the drawer's. How it enters, where it stands, its size, name, glaze and
copies are the piece's own: they stay when it follows what has become of the drawer's.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from noble_clay.core.errors import PieceError, Problem
from noble_clay.core.piece.models import FromDrawer, InDrawer, Join, Part, Piece, Place
from noble_clay.core.piece.reframe import out_of, stood
from noble_clay.core.piece.tree import outermost

CONTENT = ("primitive", "join", "mesh", "changes", "follows_body")
"""Fields of a part that are the drawer's."""


def content_mark(part: Part) -> str:
    """16 hexadecimal digits of what the drawer has of a part: equal for equal content, whatever its ids are."""
    values = part.model_dump(mode="json", exclude_defaults=True, include=set(CONTENT))
    _plain(values)
    return hashlib.sha256(json.dumps(values, sort_keys=True).encode()).hexdigest()[:16]


def _plain(values: dict[str, Any]) -> None:
    """Without ids, and without where the parts inside were taken from."""
    for child in (values.get("join") or {}).get("parts", ()):
        for name in ("id", "drawer"):
            child.pop(name, None)
        _plain(child)


def to_keep(piece: Piece, ids: tuple[str, ...], name: str, notes: str, noted: InDrawer) -> Piece:
    """Parts of a piece as a piece for the drawer, where they stand on the wheel. The first of several enters by union.

    Raises PieceError when one is not in the piece.
    """
    parts = []
    for spot in outermost(piece, ids):
        part = spot.part
        for join in reversed(spot.parents):
            part = out_of(join, part)
        parts.append(part.model_copy(update={"blend": None, "drawer": None, "hidden": False, "locked": False}))
    body = next((n for n, part in enumerate(parts) if not part.reference), None)
    if body is None:
        raise PieceError(Problem("these are only for reference; keep a part that is of the piece"))
    parts[body] = parts[body].model_copy(update={"op": "union"})
    new = Piece.new(name)
    return new.model_copy(update={"notes": notes, "drawer": noted, "parts": tuple(parts)})


def in_middle(kept: Piece, low: Sequence[float], high: Sequence[float]) -> Piece:
    """The piece moved so that its box (low, high), mm, stands on the middle of the wheel."""
    return kept.model_copy(update={"parts": tuple(stood(p, low, high, Place()) for p in kept.parts)})


def whole_of(kept: Piece, part_id: str) -> Part:
    """What lies in the drawer as one part: its only one, or a group of all. Raises PieceError for an empty piece."""
    bodies = [p for p in kept.parts if not p.reference]
    if not bodies:
        raise PieceError(Problem(f'"{kept.name}" has no parts to take out'))
    if len(kept.parts) > 1:
        return Part(id=part_id, name=kept.name, join=Join(parts=kept.parts))
    return kept.parts[0].model_copy(update={"id": part_id, "name": kept.name, "drawer": None})


def noted(part: Part, kept_id: str, fixed: bool) -> Part:
    """The part with a note that it is what the drawer has under `kept_id` now."""
    scale = part.place.scale if fixed else None
    return part.model_copy(update={"drawer": FromDrawer(part=kept_id, mark=content_mark(part), scale=scale)})


def taken_out(kept: Piece, kept_id: str) -> Part:
    """A copy of what lies in the drawer, where it stands there. Raises PieceError for an empty piece."""
    return noted(whole_of(kept, "kept"), kept_id, bool(kept.drawer and kept.drawer.fixed))


@dataclass(frozen=True)
class Use:
    """A part of a piece that was taken out of the drawer. behind: the drawer has another by now. changed: so has it."""

    part: Part
    kept_id: str
    behind: bool
    changed: bool


def uses(piece: Piece, marks: dict[str, str]) -> Iterator[Use]:
    """The copies that a piece has of what lies in the drawer. marks: what lies there now, by id; none is behind of what
    is not there.
    """
    for part in piece.walk():
        if part.drawer is not None:
            was, kept_id = part.drawer.mark, part.drawer.part
            yield Use(part, kept_id, behind=marks.get(kept_id, was) != was, changed=content_mark(part) != was)
