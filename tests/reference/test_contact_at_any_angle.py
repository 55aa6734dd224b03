"""Parts that fill, meet and repeat one another, at any angle and of any form: sound, and of the volume that sets have.

Source: set algebra, and that a solid's surface has two triangles at every edge. The parts are drawn at random, from
seeds, so that every run looks at the same ones.
"""

import random

import pytest
from hypothesis import settings

from noble_clay.core.evaluate.evaluator import Evaluator
from tests.building import join, part, piece
from tests.examples import LONG

FORMS = [
    {"kind": "box", "size": [7, 5, 9]},
    {"kind": "sphere", "radius": 5, "facets": 20},
    {"kind": "cylinder", "radius": 4, "height": 9, "facets": 20},
    {"kind": "torus", "ring_radius": 5, "tube_radius": 2, "facets": 20, "tube_facets": 10},
    {"kind": "star", "points": 5, "radius": 7, "inner_radius": 3, "height": 6},
    {"kind": "tube", "radius": 6, "wall": 2, "height": 5, "facets": 20},
]


class Drawn:
    """A form at a random place, which enters lists by any op."""

    def __init__(self, chance: random.Random, size: float, away: float) -> None:
        self.form = chance.choice(FORMS)
        # Half of them as a maker types them, half as a hand leaves them.
        exact = chance.random() < 0.5
        self.at = [round(chance.uniform(-6, 6), 1 if exact else 6) * size + away for _ in range(3)]
        self.turn = [chance.choice([0, 15, 30, 45, 90]) if exact else chance.uniform(-180, 180) for _ in range(3)]
        self.size = size

    def part(self, name, op="union"):
        place = {"position": self.at, "rotation": self.turn, "scale": [self.size] * 3}
        return {"id": name, "op": op, "primitive": self.form, "place": place}


def inspected(*parts):
    return Evaluator().evaluate(piece(*parts)).inspection


def seeds(few):
    return range(few * LONG if settings.get_current_profile_name() == "long" else few)


def check(inspection, volume, size):
    """Whether it is sound, but for bodies that stand apart, and of a volume, mm³."""
    assert {f.kind for f in inspection.findings} <= {"loose_bodies"}
    assert inspection.volume == pytest.approx(volume, rel=1e-5, abs=1e-3 * size**3)


@pytest.mark.parametrize(("size", "away"), [(1, 0), (1, 1500), (10, 0)])
def test_what_fills_a_hole_or_stands_against_a_cut_makes_one_body_with_it(size, away):
    for seed in seeds(8):
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
