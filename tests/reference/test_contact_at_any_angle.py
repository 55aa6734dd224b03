"""Parts that fill, meet and repeat one another, at any angle and of any form: sound, and of the volume that sets have.

Source: set algebra, and that a solid's surface has two triangles at every edge. The parts are drawn at random, from
seeds, so that every run looks at the same ones.
"""

import random

import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from tests.building import join, part, piece
from tests.drawn import Drawn
from tests.examples import how_many


def inspected(*parts):
    return Evaluator().evaluate(piece(*parts)).inspection


def check(inspection, volume, size):
    """Whether it is sound, but for bodies that stand apart, and of a volume, mm³."""
    assert {f.kind for f in inspection.findings} <= {"loose_bodies"}
    assert inspection.volume == pytest.approx(volume, rel=1e-5, abs=1e-3 * size**3)


@pytest.mark.parametrize(("size", "away"), [(1, 0), (1, 1500), (10, 0)])
def test_what_fills_a_hole_or_stands_against_a_cut_makes_one_body_with_it(size, away):
    for seed in range(how_many(8)):
        chance = random.Random(seed)
        a, b = Drawn(chance, size, away), Drawn(chance, size, away)
        of_a, of_b = inspected(a.part("a")).volume, inspected(b.part("b")).volume
        whole = inspected(a.part("a"), b.part("b")).volume
        cut = join("cut", a.part("a"), b.part("b", "difference"))
        shared = join("shared", a.part("c"), b.part("d", "intersection"))
        other = join("other", b.part("e"), a.part("f", "difference"))

        check(inspected(cut, b.part("peg")), whole, size)
        check(inspected(a.part("a"), b.part("b", "difference"), b.part("peg")), whole, size)
        check(inspected(cut, shared), of_a, size)
        check(inspected(cut, shared, other), whole, size)
        check(inspected(a.part("a"), {**shared, "op": "difference"}), whole - of_b, size)


def test_a_turned_inlay_lies_flush_and_is_told_apart():
    body = part("body", "box", turn=(20, 35, 10), size=[40, 30, 20])
    rod = part("rod", "cylinder", turn=(20, 35, 10), radius=6, height=30, facets=48)
    plug = join("plug", rod, {**body, "id": "room", "op": "intersection"})
    result = Evaluator().evaluate(piece(body, {**rod, "id": "hole", "op": "difference"}, plug))

    assert result.inspection.findings == ()
    assert result.inspection.volume == pytest.approx(40 * 30 * 20, rel=1e-6)
    assert result.inspection.area == pytest.approx(2 * (40 * 30 + 40 * 20 + 30 * 20), rel=1e-5)
    assert {result.part_ids[i] for i in result.part_of} == {"body", "room"}
