"""Only what an edit touches: the box in which two states of a piece differ, and the joined skin inside that box.

A join asks of every point only which parts hold it, so inside a box the result depends on nothing but the parts that
come into the box; where parts run together, on those that are within the radius of it too. The view draws the skin it
has outside the box and the local one inside, cut on the same planes, and need not wait for the whole. What stands still
near the box is joined once, cropped to a larger box around it (`MARGIN_SHARE`), and kept while the box stays in there.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.boxes import Boxes
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.fineness import default_cell
from noble_clay.core.kernel.booleans import block, boolean
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import inverse
from noble_clay.core.mesh.boxes import NOTHING, around, holds, longest_side, through
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import ROUNDING
from noble_clay.core.piece.models import Part, Piece, is_soft, widest_radius
from noble_clay.core.piece.placing import place_matrix

Parts = tuple[Part, ...]

MARGIN = 0.05
"""How far the box reaches beyond what has changed, mm."""

FIRST_MARGIN_SHARE, MARGIN_SHARE = 0.25, 0.75
"""How far the larger box reaches beyond it on every side, as a share of the box's longest side: at first, so that the
first step comes soon, and once the box has outgrown that.
"""


MOST = 0.6
"""Share of a piece's box; where more than that changes, the whole is made."""


@dataclass(frozen=True, eq=False)
class Draft:
    """What is seen of a piece: inside `box`, (2, 3) on the wheel, the solid; outside, what was there before. Without a
    box the solid is the whole piece.
    """

    box: Floats | None
    solid: Solid


class Drafter:
    """Drafts of pieces, each a step from the one before it."""

    def __init__(self, evaluator: Evaluator) -> None:
        self._evaluator = evaluator
        self._boxes = Boxes(evaluator)
        self._static: dict[str, StaticContext] = {}

    def draft(self, before: Piece, after: Piece, within: Floats | None = None) -> Draft:
        """`after`, as far as it differs from `before`. Raises PieceError for what cannot be evaluated.

        within: (2, 3) the box around `before`; where most of it has changed, the draft is the whole.
        """
        with self._evaluator.roughly():
            return self._draft(before, after, within)

    def _draft(self, before: Piece, after: Piece, within: Floats | None) -> Draft:
        last = self._static.get("")
        if last is not None and last.before is not before.parts:
            self._static.clear()  # of another piece, or of a skin that is not shown any more
        box = self._changed(before.parts, after.parts, 0.0)
        if box is None or box[0, 0] == np.inf or (within is not None and _is_most(box, within)):
            return Draft(None, self._evaluator.list_solid(after.parts))
        box = box + np.array([[-MARGIN], [MARGIN]])
        if is_soft(after.parts, 0.0):
            found = self._softly(after.parts, 0.0, None, box)
            return Draft(None, self._evaluator.list_solid(after.parts)) if found is None else Draft(box, found)
        return Draft(box, self._inside("", before.parts, after.parts, box))

    def _changed(self, before: Parts, after: Parts, blend: float) -> Floats | None:
        """(2, 3) the box, in the list's frame, outside of which two lists of a blend are the same solid; None for none
        such.
        """
        old, new = ({p.id: p for p in parts if not p.reference} for parts in (before, after))
        if [i for i in old if i in new] != [i for i in new if i in old]:
            return None
        box = NOTHING
        for part_id in old.keys() | new.keys():
            was, now = old.get(part_id), new.get(part_id)
            if self._same(was, now):
                continue
            if "intersection" in {p.op for p in (was, now) if p}:
                return None
            box = around([box, self._changed_part(was, now)])
        return box + widest_radius((*before, *after), blend) * np.array([[-1.0], [1.0]])

    def _same(self, was: Part | None, now: Part | None) -> bool:
        keys = self._evaluator.keys
        return was is now or (was is not None and now is not None and keys.part(was) == keys.part(now))

    def _changed_part(self, was: Part | None, now: Part | None) -> Floats:
        if was and now and was.op == now.op and _same_frame(was, now):
            inner = self._changed(was.children, now.children, now.join.blend if now.join else 0.0)
            if inner is not None:
                return through(inner, place_matrix(now.place, now.flip))
        return around([self._boxes.of(p) for p in (was, now) if p])

    def _inside(self, name: str, before: Parts, after: Parts, box: Floats) -> Solid:
        """The list `after` inside a box of its frame. name: of the list, for what is kept of it from step to step."""
        by_id = {p.id: p for p in before if not p.reference}
        lines = [p for p in after if not p.reference]
        moved = [p for p in lines if not self._same(by_id.get(p.id), p)]
        ids = {p.id for p in lines}
        key: _Key = [(p.id, p.op) for p in moved], [i for i in by_id if i not in ids]
        static = self._static.get(name)
        same = static is not None and static.before is before and static.key == key
        if static is None or not same or not holds(static.crop_box, box):
            share = MARGIN_SHARE if same else FIRST_MARGIN_SHARE
            crop_box = box + share * float((box[1] - box[0]).max()) * np.array([[-1.0], [1.0]])
            static = self._static[name] = StaticContext(
                before, key, crop_box, self._runs(lines, {p.id for p in moved}, crop_box)
            )
        result = Solid.nothing()
        for at, (op, rest, names) in enumerate(static.runs):
            parts = [self._moved(f"{name}/{p.id}", by_id.get(p.id), p, box) for p in moved if p.id in names]
            solids = [s for s in ([rest] if rest is not None else []) + parts if not s.empty or op == "intersection"]
            if at == 0 and op == "union":
                result = boolean(op, solids) if solids else result
            elif solids:
                result = boolean(op, [result, *solids])
        return result

    def _moved(self, name: str, was: Part | None, now: Part, box: Floats) -> Solid:
        """A part that has changed, in its parent's frame, as it is inside the box."""
        if was is None or not _same_frame(was, now):
            return self._evaluator.part_solid(now)
        matrix = place_matrix(now.place, now.flip)
        inner = through(box, inverse(matrix))
        if now.join is not None and now.join.soft:
            found = self._softly(now.children, now.join.blend, now.join.fineness, inner)
            return self._evaluator.part_solid(now) if found is None else found.placed(matrix)
        return self._inside(name, was.children, now.children, inner).placed(matrix)

    def _softly(self, parts: Parts, blend: float, fineness: float | None, box: Floats) -> Solid | None:
        """A soft list as it is inside a box, on the lattice that the whole would have; None where what comes near the
        box cannot be run together by itself.
        """
        lines = [p for p in parts if not p.reference]
        each = [self._boxes.of(p) for p in lines]
        if fineness is None:
            longest = longest_side([b for b, p in zip(each, lines, strict=True) if p.op == "union"])
            fineness = default_cell([p.radius_in(blend) for p in lines[1:]], longest)
        reach = widest_radius(parts, blend)
        near = [
            p
            for b, p in zip(each, lines, strict=True)
            if p.op == "intersection" or np.all((b[0] <= box[1] + reach) & (b[1] >= box[0] - reach))
        ]
        try:
            return self._evaluator.run_together(near, blend, fineness)
        except MeshError:
            return None

    def _runs(self, lines: list[Part], moved: set[str], crop_box: Floats) -> list[_Run]:
        """The list in runs of one op: what of each stands still within the crop box, and which of its parts changed."""
        if not lines:
            return []
        wall = block(crop_box)
        low, high = (np.array(sides) for sides in zip(*(self._boxes.of(p) for p in lines), strict=True))
        comes_in = np.all((low <= crop_box[1]) & (high >= crop_box[0]), axis=1)
        inside = {p.id for p, comes in zip(lines, comes_in, strict=True) if comes}
        found: list[_Run] = []
        for op, run in groupby(lines, key=lambda p: p.op):
            parts = list(run)
            near: list[Solid] = []
            for part in parts:
                if part.id in moved or (op != "intersection" and part.id not in inside):
                    continue
                solid = self._evaluator.part_solid(part)
                if op == "intersection" or not solid.empty:
                    near.append(solid)
            rest = None
            if near:
                # Each by itself first: a large body is small where it is cropped, and joins so much the faster.
                near = [s if holds(crop_box, s.bounds) else boolean("intersection", [s, wall]) for s in near]
                rest = boolean("intersection" if op == "intersection" else "union", near)
                rest.manifold.num_tri()  # now, not with the first step
            found.append((op, rest, {p.id for p in parts if p.id in moved}))
        return found


_Key = tuple[list[tuple[str, str]], list[str]]
_Run = tuple[str, Solid | None, set[str]]


@dataclass(frozen=True, eq=False)
class StaticContext:
    """What stands still of the list `before` around a box. key: what else of it has changed, and what is gone."""

    before: Parts
    key: _Key
    crop_box: Floats
    runs: list[_Run]


def _is_most(box: Floats, whole: Floats) -> bool:
    """Whether a box holds more than `MOST` of another."""
    shared = np.minimum(box[1], whole[1]) - np.maximum(box[0], whole[0])
    sides = np.maximum(whole[1] - whole[0], ROUNDING)
    return bool(np.all(shared > 0) and np.prod(shared / sides) > MOST)


def _same_frame(was: Part, now: Part) -> bool:
    """Whether both are nothing but their lists, in one place and run together alike, so that only the lists differ."""
    if was.join is None or now.join is None or not was.only_list or not now.only_list:
        return False
    alike = was.join.blend == now.join.blend and was.join.fineness == now.join.fineness
    return alike and was.place == now.place and was.flip == now.flip
