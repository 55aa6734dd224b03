"""Drafts of a piece while parts of it are dragged: what stands still is computed once, only what moves again.

For solids A, m and c: (A ∪ m) − c = (A − c) ∪ (m − c), and with ∩ likewise; (A − m) ∪ c = (A ∪ c) − (m − c). So a list
is the list without the moving part, and that part with what comes after it. A moving part that adds is drawn over what
stands still: from outside the two look as their union does. Drafts are not made to meet and not inspected.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import compose, place_matrix
from noble_clay.core.piece.tree import less
from noble_clay.core.solid.evaluate import Evaluator
from noble_clay.core.solid.keys import hashed
from noble_clay.core.solid.solid import Solid, boolean, boxes_meet


@dataclass(frozen=True, eq=False)
class Still:
    """A solid that a drag leaves as it is, under a key that stays the same from draft to draft."""

    key: str
    solid: Solid


@dataclass(frozen=True, eq=False)
class Draft:
    """What is seen of a piece: solids that stand still, and what has changed with the moving parts."""

    still: tuple[Still, ...]
    moving: Solid


def draft_of(piece: Piece, moving: set[str], evaluator: Evaluator) -> Draft:
    """The piece as it is just now, `moving` being the ids of parts that are dragged."""
    evaluator.begin()
    return _list(piece.parts, moving, evaluator)


def _list(parts: tuple[Part, ...], moving: set[str], evaluator: Evaluator) -> Draft:
    lines = [p for p in parts if not p.reference]
    held = [any(p.id in moving for p in line.walk()) for line in lines]
    held_ids = {line.id for line, holds in zip(lines, held, strict=True) if holds}
    rest_parts = less(parts, held_ids)
    rest = Still(hashed(["still", evaluator.keys.parts(rest_parts)]), evaluator.list_solid(rest_parts))
    ops = {line.op for line, holds in zip(lines, held, strict=True) if holds}
    if "intersection" in ops or len(ops) > 1:
        return Draft((), evaluator.list_solid(parts))
    still: list[Still] = [rest]
    moved: list[Solid] = []
    for index, (line, holds) in enumerate(zip(lines, held, strict=True)):
        if not holds:
            continue
        later = [p for p, h in zip(lines[index + 1 :], held[index + 1 :], strict=True) if not h]
        part = _part(line, moving, evaluator)
        if line.op == "union":
            still += [_after_still(s, later, evaluator) for s in part.still]
            moved.append(_after(part.moving, [p for p in later if p.op != "union"], evaluator))
        else:
            cutter = boolean("union", [*(s.solid for s in part.still), part.moving])
            fillers = [evaluator.part_solid(p) for p in later if p.op == "union"]
            moved.append(boolean("difference", [cutter, *fillers]))
    if ops == {"difference"}:
        return Draft((), boolean("difference", [rest.solid, *moved]))
    return Draft(tuple(s for s in still if not s.solid.empty), boolean("union", moved or [Solid.nothing()]))


def _part(part: Part, moving: set[str], evaluator: Evaluator) -> Draft:
    """A part that holds moving ones, in its parent's frame."""
    changed = any(not c.off for c in part.changes)
    if part.id in moving or part.join is None or part.join.blend or changed:
        return Draft((), evaluator.part_solid(part))
    inside = _list(part.join.parts, moving, evaluator)
    place = part.place.model_dump(mode="json"), sorted(part.flip), part.copies and part.copies.model_dump(mode="json")
    return Draft(
        tuple(Still(hashed(["placed", s.key, *place]), _placed(part, s.solid)) for s in inside.still),
        _placed(part, inside.moving),
    )


def _placed(part: Part, solid: Solid) -> Solid:
    place = place_matrix(part.place, part.flip)
    copies = part.copies.matrices() if part.copies else None
    if copies is None or solid.empty:
        return solid.placed(place)
    return boolean("union", [solid.placed(compose(m, place)) for m in copies])


def _after(solid: Solid, later: list[Part], evaluator: Evaluator) -> Solid:
    """A solid cut by and kept within the lines that come after it; cutters that are nowhere near it are left alone."""
    for op, run in groupby(later, key=lambda p: p.op):
        solids = [evaluator.part_solid(p) for p in run]
        near = [s for s in solids if op == "intersection" or boxes_meet(solid, s)]
        solid = boolean(op, [solid, *near])
    return solid


def _after_still(still: Still, later: list[Part], evaluator: Evaluator) -> Still:
    cutters = [p for p in later if p.op != "union"]
    if not cutters:
        return still
    key = hashed(["after", still.key, *(evaluator.keys.part(p) for p in cutters)])
    found = evaluator.cache.get(key)
    if found is None:
        found = _after(still.solid, cutters, evaluator)
        evaluator.cache.put(key, found)
    return Still(key, found)
