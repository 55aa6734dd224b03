"""How two solids stand to each other, how to sink them together, and what a join did."""

import numpy as np
import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.measure.beside import GAP_MM, free_spot
from noble_clay.core.measure.contact import contact, sink_by
from noble_clay.core.measure.joins import join_facts
from noble_clay.core.piece.edits import Split
from tests.building import box, evaluated, part, piece

CUBE = box("a", size=(10, 10, 10))


def two(first, second):
    evaluator, document = Evaluator(), piece(first, second)
    return [evaluator.part_solid(p) for p in document.parts]


@pytest.mark.parametrize(
    ("second", "relation", "along"),
    [
        (box("b", (5.5, 0, 0)), "touching", "face"),
        (box("b", (5.5, 3, 0), (1, 8, 30)), "touching", "face"),
        (box("b", (5.5, 5.5, 0)), "touching", "edge"),
        (box("b", (5.5, 5.5, 5.5)), "touching", "corner"),
        (part("b", "sphere", (8, 0, 0), radius=3), "touching", "corner"),
        (box("b", (8, 0, 0)), "apart", None),
        (box("b", (5, 0, 0)), "overlapping", None),
        (box("b"), "inside", None),
        (box("b", size=(20, 20, 20)), "swallows", None),
    ],
)
def test_relations(second, relation, along):
    found = contact(*two(CUBE, second))
    assert (found.relation, found.along) == (relation, along)


def test_gap_and_depth():
    assert contact(*two(CUBE, box("b", (8, 1, 2)))).gap == pytest.approx(2.5)
    assert contact(*two(CUBE, box("b", (5.2, 0, 0), (1, 4, 4)))).depth == pytest.approx(0.3)
    assert contact(*two(CUBE, box("b", (5, 0, 0), (1, 4, 4)))).shared == pytest.approx(8)


@pytest.mark.parametrize(
    "second",
    [
        box("b", (5.5, 0, 0)),
        box("b", (5.5, 5.5, 0)),
        box("b", (5.5, 5.5, 5.5)),
        box("b", (9, 9, 9)),
        part("b", "sphere", (3, 4, 12), radius=3),
    ],
)
def test_sinking_makes_them_overlap_by_about_the_depth(second):
    a, b = two(CUBE, second)
    way = sink_by(a, b, 0.4)
    after = contact(a, b.placed(np.column_stack([np.eye(3), way])))
    assert after.relation == "overlapping"
    assert 0.15 <= after.depth <= 1.2


def facts(*parts):
    document = piece(*parts)
    return join_facts(document.parts, Evaluator())


@pytest.mark.parametrize(
    ("tool", "through"),
    [
        (part("b", "cylinder", radius=2, height=20), True),
        (part("b", "cylinder", (0, 0, 8), radius=2, height=20), False),
        (box("b", (0, 0, 5), (3, 20, 3)), True),
        (box("b", (4, 4, 4), (6, 6, 6)), False),
        (part("b", "sphere", (0, 0, 7), radius=4), False),
        (part("b", "cylinder", (2, 0, 0), (90, 0, 0), radius=2, height=11), True),
    ],
)
def test_whether_a_cut_passes_right_through(tool, through):
    (step,) = facts(CUBE, {**tool, "op": "difference"})
    assert step.reach.through is through
    assert step.volume_after < step.volume_before


@pytest.mark.parametrize(
    ("tool", "left", "out"),
    [
        (part("b", "cylinder", (0, 0, 8), radius=2, height=20), 3, ("top",)),
        (part("b", "cylinder", (0, 0, -4), radius=2, height=8), 5, ("under",)),
        (part("b", "cylinder", (4, 0, 0), (0, 90, 0), radius=1, height=8), 5, ("right",)),
        (box("b", (0, 0, 3), (6, 6, 6)), 5, ("top",)),
    ],
)
def test_where_a_tool_stops_inside_and_where_it_comes_out(tool, left, out):
    (step,) = facts(CUBE, {**tool, "op": "difference"})
    assert step.reach.through is False
    assert step.reach.left == pytest.approx(left, abs=1e-6)
    assert step.reach.out == out


def test_a_split_that_misses_or_takes_all_is_refused():
    evaluator = Evaluator()
    for tool, words in ((box("b", (30, 0, 0)), "misses"), (box("b", size=(20, 20, 20)), "inside the tool")):
        document = piece(CUBE, tool)
        with pytest.raises(PieceError, match=words):
            Split(kind="split", ids=("a", "b")).check_solids(document, evaluator.part_solid)
    Split(kind="split", ids=("a", "b")).check_solids(piece(CUBE, box("b", (5, 0, 0))), evaluator.part_solid)


def test_a_tool_that_swallows_everything_and_one_that_misses():
    (swallowed,) = facts(CUBE, box("b", size=(20, 20, 20), op="difference"))
    assert (swallowed.meets.relation, swallowed.emptied, swallowed.bodies_after) == ("swallows", True, 0)
    (missed,) = facts(CUBE, box("b", (20, 0, 0), op="difference"))
    assert (missed.meets.relation, missed.volume_after) == ("apart", missed.volume_before)


def test_a_cut_in_two_is_counted():
    (step,) = facts(CUBE, box("b", size=(2, 20, 20), op="difference"))
    assert (step.bodies_before, step.bodies_after) == (1, 2)
    assert step.volume_after == pytest.approx(800)


def test_a_free_spot_is_beside_and_never_inside():
    assert free_spot((10, 10), []) == (0, 0)
    boxes = []
    for _ in range(12):
        x, y = free_spot((10, 6), boxes)
        assert (x, y) == (int(x), int(y))
        new = np.array([[x - 5, y - 3, 0], [x + 5, y + 3, 4]])
        for other in boxes:
            apart = np.maximum(new[0, :2] - other[1, :2], other[0, :2] - new[1, :2]).max()
            assert apart >= GAP_MM - 1
        boxes.append(new)


def test_a_result_of_touching_boxes_is_whole():
    assert evaluated(CUBE, box("b", (5.5, 0, 0))).inspection.bodies == 1
