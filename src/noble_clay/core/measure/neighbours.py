"""How the parts of each list meet their neighbours, every pair compared once and remembered."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import Any, Literal

import numpy as np
from cachetools import LRUCache

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.booleans import boolean, boxes_meet
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.measure.contact import Contact, contact, sink_by
from noble_clay.core.measure.joins import reach_of
from noble_clay.core.mesh.affine import IDENTITY, compose
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import place_matrix

MOST_REMEMBERED = 20_000
PULL_BACK_MM = 0.4
"""How far below the surface the end of a part that pokes through is pulled back."""

State = Literal["touches", "inside", "pokes_through", "cuts_nothing"]


@dataclass(frozen=True, eq=False)
class Near:
    """Two parts of one list whose boxes meet, b after a. frame: (3, 4) from their list's frame to the wheel. places:
    of both in the list. cutters: that it has, each with its place.
    """

    a: Part
    b: Part
    solid_a: Solid
    solid_b: Solid
    frame: Floats
    places: tuple[int, int]
    cutters: list[tuple[int, Solid]]

    @property
    def filling(self) -> bool:
        """Whether something between them is cut out where b stands, so that b may fill what a has lost."""
        a, b = self.places
        return any(a < place < b and boxes_meet(cutter, self.solid_b) for place, cutter in self.cutters)


@dataclass(frozen=True, eq=False)
class Pair:
    """How b stands to a. sink: (3,) mm in their list's frame to move b into a, where they only touch. back: to pull b
    back where it pokes right through a; None where it does not.
    """

    meets: Contact
    sink: Floats
    back: Floats | None


@dataclass(frozen=True, eq=False)
class Mark:
    """What is odd about how a part meets another. by: (3,) mm on the wheel that would mend it, if a movement would."""

    part: str
    state: State
    other: str | None
    by: Floats | None


class Neighbours:
    """Compares the parts of pieces; a pair that stands as it stood before is not compared again."""

    def __init__(self, evaluator: Evaluator) -> None:
        self.evaluator = evaluator
        self._known: Any = LRUCache(MOST_REMEMBERED)

    def pairs(self, piece: Piece) -> Iterator[Near]:
        """Pairs of parts that one list adds and whose boxes meet, throughout the piece."""
        for parts, frame in _lists(piece.parts, IDENTITY):
            lines = [p for p in parts if not p.reference]
            solids = [(i, p, s) for i, p in enumerate(lines) if not (s := self.evaluator.part_solid(p)).empty]
            cutters = [(i, s) for i, p, s in solids if p.op == "difference"]
            adding = [line for line in solids if line[1].op == "union"]
            for (i, a, solid_a), (j, b, solid_b) in combinations(adding, 2):
                if boxes_meet(solid_a, solid_b):
                    yield Near(a, b, solid_a, solid_b, frame, (i, j), cutters)

    def compared(self, near: Near) -> Pair:
        key = self._key(near)
        found: Pair | None = self._known.get(key)
        if found is None:
            found = self._known[key] = _compare(near)
        return found

    def marks(self, piece: Piece, seconds: float) -> tuple[list[Mark], bool]:
        """What is odd, and whether all pairs were compared within about so many seconds; ask again for the rest."""
        end, complete, new, found = time.monotonic() + seconds, True, 0, []
        for near in self.pairs(piece):
            if self._key(near) not in self._known:
                if new and time.monotonic() > end:  # at least one each time, so that there is an end
                    complete = False
                    continue
                new += 1
            pair, linear = self.compared(near), near.frame[:, :3]
            match pair.meets.relation:
                case "touching" if pair.meets.along != "face":  # a whole face holds; an edge or a point does not
                    found.append(Mark(near.b.id, "touches", near.a.id, linear @ pair.sink))
                case "inside" if not near.filling:
                    found.append(Mark(near.b.id, "inside", near.a.id, None))
                case "swallows":
                    found.append(Mark(near.a.id, "inside", near.b.id, None))
                case "overlapping" if pair.back is not None and not near.filling:
                    found.append(Mark(near.b.id, "pokes_through", near.a.id, linear @ pair.back))
        return found + self._idle_cutters(piece), complete

    def _key(self, near: Near) -> tuple[str, str]:
        return self.evaluator.keys.part(near.a), self.evaluator.keys.part(near.b)

    def _idle_cutters(self, piece: Piece) -> list[Mark]:
        """Cutters whose box meets none of the parts that their list adds before them."""
        found = []
        for parts, _ in _lists(piece.parts, IDENTITY):
            lines = [(p, self.evaluator.part_solid(p)) for p in parts if not p.reference]
            for index, (part, solid) in enumerate(lines):
                if part.op == "difference" and not solid.empty:
                    before = [s for p, s in lines[:index] if p.op == "union" and not s.empty]
                    if not any(boxes_meet(solid, s) for s in before):
                        found.append(Mark(part.id, "cuts_nothing", None, None))
        return found


def _lists(parts: tuple[Part, ...], frame: Floats) -> Iterator[tuple[tuple[Part, ...], Floats]]:
    """Every list of parts that counts, with its frame (3, 4) on the wheel."""
    yield parts, frame
    for part in parts:
        if part.join and not part.reference:
            yield from _lists(part.join.parts, compose(frame, place_matrix(part.place, part.flip)))


def _compare(near: Near) -> Pair:
    meets = contact(near.solid_a, near.solid_b, nearest=False)
    touching = meets.relation == "touching"
    sink = sink_by(near.solid_a, near.solid_b, meets=meets) if touching else np.zeros(3)
    return Pair(meets, sink, _pull_back(near) if meets.relation == "overlapping" else None)


def _pull_back(near: Near) -> Floats | None:
    """(3,) mm to move b so that its smaller end no longer comes out of a; None where it does not pass through a."""
    frame = place_matrix(near.b.place, near.b.flip)[:, :3]
    if near.b.copies is not None or not reach_of(near.solid_a, near.solid_b, frame).through:
        return None
    ends = boolean("difference", [near.solid_b, near.solid_a]).manifold.decompose()
    if len(ends) < 2:
        return None
    smaller, larger = sorted(ends, key=lambda m: float(m.volume()))[:: len(ends) - 1]
    tip, root = (Solid(m, {}, near.solid_b.planes).vertices for m in (smaller, larger))
    way = tip.mean(axis=0) - root.mean(axis=0)
    way /= np.linalg.norm(way)
    found: Floats = -way * (np.ptp(tip @ way) + PULL_BACK_MM)
    return found
