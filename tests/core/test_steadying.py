"""Making a piece stand: what is proposed does, once done, what was said of it."""

import numpy as np
import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.tree import apply_changes
from noble_clay.core.printing.standing import set_down, standing
from noble_clay.core.printing.steadying import STEADY_DEG, steadyings
from tests.building import box, join, part, piece

BALL = piece(part("ball", "sphere", (5, 0, 30), radius=10))
TRIPOD = piece(
    part("body", "egg", (4, 0, 40), width=30, height=40),
    *[part(f"leg{i}", "capsule", (x, y, 14), radius=3, length=28) for i, (x, y) in enumerate([(0, 0), (8, 3), (2, 6)])],
    name="A body whose weight is beside its feet",
)
TILTED = piece(join("all", box("slab", (0, 0, 20), (20, 12, 40)), place={"rotation": [0, 20, 0]}))
SMALL = piece(part("pin", "capsule", (0, 0, 0), (25, 0, 0), radius=0.4, length=4))
STOOL = piece(
    box("block", (0, 0, 40), (40, 40, 20)),
    *[
        part(f"leg{i}", "cylinder", (4 * x, 4 * y, 16), radius=2, height=32)
        for i, (x, y) in enumerate([(1, 1), (1, -1), (-1, 1), (-1, -1)])
    ],
    name="A block on legs that stand too close",
)


def limb(name, x):
    return join(
        name,
        part(f"shin-{name}", "capsule", (x, -3, 16), radius=3, length=32),
        part(f"toe-{name}", "sphere", (x, -4, 1.5), radius=3),
    )


CREATURE = piece(
    join(
        "all",
        part("body", "sphere", (0, 0, 40), radius=20),
        limb("left", -4),
        limb("right", 4),
        part("tail", "capsule", (0, 4, 14.5), radius=3, length=32),
        place={"rotation": [0, 0, 30], "position": [100, 0, 0]},
    ),
    name="Feet within feet, turned",
)
FAR = piece(part("ball", "sphere", (5000, -3000, 200), radius=10))


def proposed(made):
    evaluator = Evaluator()
    return steadyings(made, evaluator.evaluate(made), evaluator.evaluate)


def tip_angle(made):
    return standing(set_down(Evaluator().evaluate(made).mesh)).tip_angle


@pytest.mark.parametrize("made", [BALL, TRIPOD, TILTED, SMALL, STOOL, CREATURE, FAR], ids=lambda p: p.name)
def test_what_is_proposed_does_what_was_said_in_one_piece_and_stays_on_its_floor(made):
    before = Evaluator().evaluate(made)
    found = proposed(made)
    assert found, "something helps"
    angles = [s.tip_angle for s in found]
    assert angles == sorted(angles, reverse=True)
    assert angles[0] > tip_angle(made) + 0.5
    for proposal in found:
        changes, _ = proposal.edit.changes(made)
        after = Evaluator().evaluate(apply_changes(made, changes)[0])
        assert standing(set_down(after.mesh)).tip_angle == pytest.approx(proposal.tip_angle, abs=0.05), proposal.how
        assert after.inspection.bodies == before.inspection.bodies
        assert after.mesh.bounds[0, 2] == pytest.approx(before.mesh.bounds[0, 2], abs=1e-6)


def test_a_slab_that_leans_is_set_upright():
    lean = next(s for s in proposed(TILTED) if s.how == "lean")
    assert lean.by == pytest.approx(20)
    assert tip_angle(apply_changes(TILTED, lean.edit.changes(TILTED)[0])[0]) > STEADY_DEG


def test_a_ball_loses_little_of_its_foot():
    cut = next(s for s in proposed(BALL) if s.how == "flatten")
    after = Evaluator().evaluate(apply_changes(BALL, cut.edit.changes(BALL)[0])[0]).mesh
    assert after.bounds[1, 2] - after.bounds[0, 2] == pytest.approx(20 - cut.by, abs=0.01)
    assert cut.by <= 1
    assert cut.edit.describe(BALL) == "Made it stand"


def test_legs_that_stand_too_close_are_moved_out_and_stay_on_the_block():
    spread = next(s for s in proposed(STOOL) if s.how == "spread")
    assert {move.id for move in spread.edit.moves} == {"leg0", "leg1", "leg2", "leg3"}
    assert all(np.hypot(*move.by[:2]) == pytest.approx(spread.by) and move.by[2] == 0 for move in spread.edit.moves)
    assert spread.tip_angle > tip_angle(STOOL) + 2


def test_a_foot_goes_with_all_that_is_only_its_leg():
    spread = next(s for s in proposed(CREATURE) if s.how == "spread")
    assert {move.id for move in spread.edit.moves} == {"left", "right", "tail"}
    assert tip_angle(CREATURE) < 8 < spread.tip_angle


def test_what_is_locked_is_not_moved():
    parts = [p if p.id != "leg1" else p.model_copy(update={"locked": True}) for p in STOOL.parts]
    assert "spread" not in {s.how for s in proposed(STOOL.model_copy(update={"parts": tuple(parts)}))}


def test_what_stands_firmly_needs_nothing_better():
    slab = piece(box("slab", (0, 0, 1), (50, 50, 2)))
    assert [s for s in proposed(slab) if s.how != "base"] == []
