"""What touches what: every relation is told once, remembered, and mended by the movement that is offered."""

import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.piece.edits import apply, edit_from_values
from tests.building import box, join, part, piece

BODY = box("body", (0, 0, 10), (40, 20, 20))


def marks(document, neighbours=None):
    found, complete = (neighbours or Neighbours(Evaluator())).marks(document, 60)
    assert complete
    return {(m.part, m.state, m.other): m.by for m in found}


@pytest.mark.parametrize(
    ("other", "expected"),
    [
        (box("b", (23, 13, 10), (6, 6, 4)), {("b", "touches", "body")}),
        (box("b", (23, 13, 22), (6, 6, 4)), {("b", "touches", "body")}),
        (box("b", (0, 0, 22), (6, 6, 4)), set()),
        (box("b", (0, 0, 10), (2, 2, 2)), {("b", "inside", "body")}),
        (box("b", (0, 0, 10), (99, 99, 99)), {("body", "inside", "b")}),
        (part("b", "cylinder", (5, 1, 10), (90, 0, 0), radius=1, height=30), {("b", "pokes_through", "body")}),
        (box("b", (0, 0, 21), (6, 6, 4)), set()),
        (box("b", (0, 0, 60), (6, 6, 4)), set()),
        (box("b", (90, 0, 0), (6, 6, 4), op="difference"), {("b", "cuts_nothing", None)}),
        (box("b", (0, 0, 10), (6, 60, 4), op="difference"), set()),
        (box("b", (0, 0, 22), (6, 6, 4), _reference=True), set()),
    ],
)
def test_each_relation(other, expected):
    assert set(marks(piece(BODY, other))) == expected


def test_what_fills_a_hole_is_not_told_as_hidden_inside_nor_as_poking_through():
    inlay, axle = box("b", (0, 0, 10), (6, 6, 20)), part("b", "cylinder", (5, 1, 10), (90, 0, 0), radius=1, height=30)
    for filling in (inlay, axle):
        hole = {**filling, "id": "hole", "op": "difference"}
        assert set(marks(piece(BODY, hole, filling))) == set()
        told = set(marks(piece(BODY, filling)))
        assert len(told) == 1
        assert set(marks(piece(BODY, filling, hole))) == told, "a hole that is cut later takes it away again"
        elsewhere = box("hole", (-15, 0, 10), (4, 4, 4), op="difference")
        assert set(marks(piece(BODY, elsewhere, filling))) == told


@pytest.mark.parametrize("turn", [(0, 0, 0), (20, 30, 40)])
def test_the_movement_offered_mends_it_in_turned_joins_too(turn):
    for other in (
        box("b", (23, 13, 10), (6, 6, 4)),
        part("b", "cylinder", (5, 1, 10), (90, 0, 0), radius=1, height=30),
    ):
        document = piece(join("group", BODY, other, place={"position": [7, 8, 9], "rotation": turn}))
        ((_, by),) = marks(document).items()
        edit = edit_from_values({"kind": "move", "ids": ["b"], "by": by.tolist()})
        assert marks(apply(document, edit).piece) == {}


def test_a_pair_is_compared_once_and_only_what_moved_again(monkeypatch):
    compared = []
    from noble_clay.core.measure import neighbours as module

    plain = module._compare
    monkeypatch.setattr(module, "_compare", lambda near: compared.append((near.a.id, near.b.id)) or plain(near))
    neighbours = Neighbours(Evaluator())
    document = piece(BODY, box("a", (-10, 0, 21), (6, 6, 4)), box("b", (10, 0, 21), (6, 6, 4)))
    marks(document, neighbours)
    assert sorted(compared) == [("body", "a"), ("body", "b")]
    moved = apply(document, edit_from_values({"kind": "move", "ids": ["b"], "by": [1, 0, 0]})).piece
    marks(moved, neighbours)
    assert sorted(compared[2:]) == [("body", "b")]


def test_out_of_time_it_says_so_and_goes_on_the_next_time():
    neighbours = Neighbours(Evaluator())
    row = [box(f"p{i}", (i * 4, 0, 0), (5, 5, 5)) for i in range(6)]
    rounds, complete = 0, False
    while not complete:
        _, complete = neighbours.marks(piece(*row), 0)
        rounds += 1
        assert rounds < 50
    assert rounds == 5, "one new pair a time"
