"""Carrying, repeating and breaking apart: every point of a part lands where the movement says."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.affine import compose, turn_about, turn_about_line
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.edits.carry import Carried
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.piece.tree import find, frame_of
from tests.building import box, join, part, piece
from tests.examples import examples

LENGTH = st.floats(-80, 80, allow_nan=False)
POINT = st.tuples(LENGTH, LENGTH, LENGTH)
DIRECTION = POINT.filter(lambda v: np.linalg.norm(v) > 1)
ANGLE = st.floats(-720, 720, allow_nan=False)
TURNS = st.builds(lambda a, d, c: {"axis": a, "angle": d, "centre": c}, DIRECTION, ANGLE, POINT)
MIRRORS = st.builds(lambda n, c: {"normal": n, "centre": c}, DIRECTION, POINT)
PLACES = st.builds(
    lambda p, r, s: {"position": p, "rotation": r, "scale": s},
    POINT,
    st.tuples(ANGLE, ANGLE, ANGLE),
    st.tuples(*[st.floats(0.2, 4)] * 3),
)
FLIPS = st.lists(st.sampled_from("xyz"), unique=True)


def in_world(document, part_id):
    spot = find(document, part_id)
    return compose(frame_of(spot.parents), place_matrix(spot.part.place, spot.part.flip))


@examples(200)
@given(PLACES, FLIPS, PLACES, FLIPS, st.none() | TURNS, st.none() | MIRRORS, POINT)
def test_every_point_lands_where_the_movement_says(outer, outer_flip, inner, inner_flip, turn, mirror, by):
    outer["scale"] = [outer["scale"][0]] * 3
    document = piece(join("group", {**box("slat"), "place": inner, "flip": inner_flip}, place=outer, flip=outer_flip))
    values = {"id": "slat", "turn": turn, "mirror": mirror, "by": by}
    values = {k: v for k, v in values.items() if v is not None}
    after = apply(document, edit_from_values({"kind": "carry", "moves": [values]})).piece
    expected = compose(Carried.model_validate(values).matrix(), in_world(document, "slat"))
    np.testing.assert_allclose(in_world(after, "slat"), expected, atol=1e-5)


def test_in_a_stretched_join_a_movement_goes_and_a_turn_is_refused():
    document = piece(join("group", box("slat"), place={"scale": [2, 1, 1]}))
    moved = edit_from_values({"kind": "carry", "moves": [{"id": "slat", "by": [6, 0, 0]}]})
    assert apply(document, moved).piece.parts[0].children[0].place.position == (3, 0, 0)
    turned = {"kind": "carry", "moves": [{"id": "slat", "turn": {"axis": [0, 0, 1], "angle": 30}}]}
    with pytest.raises(PieceError, match="stretched"):
        apply(document, edit_from_values(turned))


def test_steps_of_fifteen_degrees_stay_round_numbers():
    document = piece(box("slat", turn=(0, 0, 30)))
    edit = edit_from_values({"kind": "carry", "moves": [{"id": "slat", "turn": {"axis": [0, 0, 1], "angle": 15}}]})
    for _ in range(7):
        document = apply(document, edit).piece
    assert document.parts[0].place.rotation == (0, 0, 135)


def test_a_turn_needs_an_axis():
    with pytest.raises(PieceError, match="direction"):
        edit = {"kind": "carry", "moves": [{"id": "slat", "turn": {"axis": [0, 0, 0], "angle": 30}}]}
        apply(piece(box("slat")), edit_from_values(edit))


@given(st.sampled_from("xyz"), ANGLE)
def test_turns_about_an_axis_agree_with_turns_about_its_line(axis, angle):
    line = np.eye(3)["xyz".index(axis)]
    np.testing.assert_allclose(turn_about_line(line, angle), turn_about(axis, angle), atol=1e-12)
    np.testing.assert_allclose(turn_about_line(-line, angle), turn_about(axis, -angle), atol=1e-12)


@examples(60)
@given(PLACES, TURNS, POINT)
def test_again_repeats_the_step(place, turn, by):
    document = piece({**box("post"), "place": place})
    document = apply(
        document, edit_from_values({"kind": "add_parts", "parts": [{**box("copy"), "place": place}]})
    ).piece
    carried = {"kind": "carry", "moves": [{"id": "copy", "turn": turn, "by": by}]}
    document = apply(document, edit_from_values(carried)).piece
    outcome = apply(document, edit_from_values({"kind": "again", "ids": ["copy"], "before": ["post"]}))
    (new,) = outcome.chosen
    step = Carried.model_validate(carried["moves"][0]).matrix()
    np.testing.assert_allclose(in_world(outcome.piece, new), compose(step, in_world(document, "copy")), atol=1e-5)


COPIES = [
    {"kind": "row", "count": 4, "step": [7, 1, 2]},
    {"kind": "ring", "count": 5, "axis": "z", "angle": 72, "centre": [1, 2, 0], "rise": 3},
    {"kind": "ring", "count": 3, "axis": "x", "angle": 40},
    {"kind": "twin", "axis": "x", "at": 2},
    {"kind": "grid", "counts": [2, 2, 2], "step": [9, -9, 8]},
    {"kind": "path", "points": [[0, 0, 0], [20, 5, 0], [40, 0, 10]], "count": 4, "turn": True},
]


@pytest.mark.parametrize("copies", COPIES, ids=lambda c: c["kind"])
@pytest.mark.parametrize("op", ["union", "difference", "intersection"])
def test_copies_broken_apart_stand_where_they_stood(copies, op):
    limb = part("limb", "wedge", (6, 3, 2), (10, 20, 30), op, size=[5, 4, 3], _copies=copies, _flip=["y"])
    document = piece(box("base", (10, 0, 5), (60, 40, 20)), limb)
    broken = apply(document, edit_from_values({"kind": "break_copies", "ids": ["limb"]}))
    assert len(broken.chosen) == find(document, "limb").part.copies.total()
    assert not any(p.copies for p in broken.piece.walk())
    before, after = (Evaluator().evaluate(d).inspection for d in (document, broken.piece))
    assert after.volume == pytest.approx(before.volume, rel=1e-9)
    np.testing.assert_allclose(after.bounds, before.bounds, atol=1e-7)
    assert apply(broken.piece, broken.inverse).piece == document


def test_copies_of_several_parts_break_at_once_and_keep_their_order():
    row = {"kind": "row", "count": 2, "step": [5, 0, 0]}
    document = piece(box("a", _copies=row), box("b", (0, 9, 0)), box("c", (0, 18, 0), _copies=row))
    broken = apply(document, edit_from_values({"kind": "break_copies", "ids": ["a", "c"]})).piece
    assert [p.name for p in broken.parts] == ["Box 1", "Box 2", "Box", "Box 1", "Box 2"]
    with pytest.raises(PieceError, match="no copies"):
        apply(broken, edit_from_values({"kind": "break_copies", "ids": ["b"]}))


@examples(60)
@given(PLACES, FLIPS)
def test_taking_a_part_into_a_turned_join_leaves_it_where_it_is(place, flip):
    place["scale"] = [place["scale"][0]] * 3
    document = piece(
        box("slat", (5, 6, 7), (3, 2, 1), turn=(10, 20, 30)), join("group", box("in"), place=place, flip=flip)
    )
    after = apply(document, edit_from_values({"kind": "arrange", "ids": ["slat"], "parent": "group", "index": 1})).piece
    assert [p.id for p in after.parts[0].children] == ["in", "slat"]
    np.testing.assert_allclose(in_world(after, "slat"), in_world(document, "slat"), atol=1e-5)


def test_a_ring_is_not_taken_into_a_turned_join():
    ring = {"kind": "ring", "count": 3, "axis": "z", "angle": 120}
    document = piece(box("slat", _copies=ring), join("group", box("in"), place={"rotation": [0, 30, 0]}))
    with pytest.raises(PieceError, match="break the copies apart"):
        apply(document, edit_from_values({"kind": "arrange", "ids": ["slat"], "parent": "group", "index": 0}))
