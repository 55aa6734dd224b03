"""Laws of placing: what an adjustment states holds afterwards, exactly."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.adjust import ADJUST
from noble_clay.core.adjust.adjust import in_world, world_box
from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.measure.contact import contact
from noble_clay.core.piece.edits import apply
from tests.building import box, join, part, piece
from tests.examples import examples

ANGLE = st.floats(-180, 180, allow_nan=False)
LENGTH = st.floats(-60, 60, allow_nan=False)
TURN = st.tuples(ANGLE, ANGLE, ANGLE)
POINT = st.tuples(LENGTH, LENGTH, LENGTH)


def adjusted(document, **values):
    return apply(document, ADJUST.validate_python(values).carry(document, Evaluator())).piece


def bounds(document, *ids):
    return world_box(document, list(ids), Evaluator())


def seat_on_top_of_table(document, **more):
    return adjusted(document, kind="seat", ids=["peg"], eye=[3, 2, 200], direction=[0, 0, -1], **more)


@examples(40)
@given(TURN, POINT, TURN, st.floats(0, 3))
def test_seat_brings_the_base_to_the_middle_of_the_face_at_the_stated_depth(table_turn, at, peg_turn, depth):
    document = piece(
        box("table", at, (30, 20, 10), turn=table_turn),
        part("peg", "cone", (500, 0, 0), peg_turn, bottom_radius=4, height=9),
    )
    table = in_world(document, "table", Evaluator())
    normal = table.planes.normals[0]
    middle = table.planes.middles[0]
    after = adjusted(
        document,
        kind="seat",
        ids=["peg"],
        eye=list(middle + normal * 50 + [0.5, 0.4, 0.3]),
        direction=list(-normal),
        depth=depth,
    )
    peg = in_world(after, "peg", Evaluator())
    heights = (peg.vertices - middle) @ normal
    assert heights.min() == pytest.approx(-depth, abs=1e-6)
    assert heights.max() == pytest.approx(9 - depth, abs=1e-6)
    base = peg.vertices[heights < heights.min() + 1e-5]
    np.testing.assert_allclose(base.mean(axis=0), middle - depth * normal, atol=1e-5)


def test_seat_without_turning_rests_the_lowest_point_and_keeps_the_turn():
    document = piece(
        box("table", size=(30, 20, 10)), part("peg", "cone", (90, 0, 0), (0, 40, 0), bottom_radius=4, height=9)
    )
    after = seat_on_top_of_table(document, turned=False, depth=0.5)
    assert after.parts[1].place.rotation == (0, 40, 0)
    assert bounds(after, "peg")[0, 2] == pytest.approx(4.5, abs=1e-9)


def test_seat_where_pointed_and_several_parts_together():
    document = piece(
        box("table", size=(30, 20, 10)), box("peg", (90, 0, 0), (2, 2, 6)), box("knob", (90, 0, 4), (1, 1, 4))
    )
    after = adjusted(
        document, kind="seat", ids=["peg", "knob"], eye=[3, 2, 200], direction=[0, 0, -1], where="point", depth=0
    )
    np.testing.assert_allclose(bounds(after, "peg", "knob"), [(2, 1, 5), (4, 3, 14)], atol=1e-9)


def test_a_sphere_has_no_middle_and_is_met_where_pointed():
    document = piece(part("ball", "sphere", radius=20), box("peg", (90, 0, 0), (2, 2, 6)))
    after = adjusted(document, kind="seat", ids=["peg"], eye=[100, 0.3, 0.2], direction=[-1, 0, 0], depth=0)
    peg = in_world(after, "peg", Evaluator()).vertices
    assert np.linalg.norm(peg, axis=1).min() == pytest.approx(20, rel=0.01)
    assert peg[:, 0].max() == pytest.approx(26, abs=0.1)


def test_pointing_at_nothing_or_only_at_itself_is_told():
    document = piece(box("table", size=(30, 20, 10)), box("peg", (90, 0, 0), (2, 2, 6)))
    for eye in ([300, 300, 300], [90, 0, 300]):
        with pytest.raises(PieceError, match="no face"):
            adjusted(document, kind="seat", ids=["peg"], eye=eye, direction=[0, 0, -1])


def test_a_seat_is_on_what_is_seen_not_on_what_was_cut_away():
    document = piece(
        box("table", size=(30, 20, 10)),
        box("hole", (0, 0, 4), (8, 8, 8), op="difference"),
        box("peg", (90, 0, 0), (2, 2, 6)),
    )
    after = adjusted(document, kind="seat", ids=["peg"], eye=[1, 1, 99], direction=[0, 0, -1], depth=0)
    np.testing.assert_allclose(bounds(after, "peg"), [(-1, -1, 0), (1, 1, 6)], atol=1e-9)


LEVELS = st.sampled_from([None, "low", "middle", "high"])


@examples(40)
@given(st.lists(st.tuples(POINT, TURN), min_size=2, max_size=5), LEVELS, LEVELS, LEVELS)
def test_line_up_leaves_the_stated_equality_and_moves_no_other_way(stands, x, y, z):
    ids = [f"p{i}" for i in range(len(stands))]
    document = piece(
        *[
            part(i, "wedge", at, turn, size=[3 + n, 2, 4])
            for n, (i, (at, turn)) in enumerate(zip(ids, stands, strict=True))
        ]
    )
    try:
        after = adjusted(document, kind="line_up", ids=ids, anchor=ids[-1], x=x, y=y, z=z)
    except PieceError as error:
        assert "already" in str(error)
        after = document
    assert after.parts[-1] == document.parts[-1], "the anchor stays"
    boxes = np.array([bounds(after, i) for i in ids])
    before = np.array([bounds(document, i) for i in ids])
    for axis, level in enumerate((x, y, z)):
        if level is None:
            np.testing.assert_allclose(boxes[:, :, axis], before[:, :, axis], atol=1e-9)
        else:
            where = {"low": boxes[:, 0], "high": boxes[:, 1], "middle": boxes.mean(axis=1)}[level][:, axis]
            np.testing.assert_allclose(where, where[-1], atol=2e-9)


def test_even_gaps_keep_the_outermost_where_they_are():
    document = piece(
        box("d", (50, 0, 0), (2, 1, 1)),
        box("a", (0, 0, 0), (10, 1, 1)),
        box("b", (7, 5, 0), (4, 1, 1)),
        box("c", (9, 0, 9)),
    )
    after = adjusted(document, kind="line_up", ids=["a", "b", "c"], anchor="d", x="even")
    spans = sorted(tuple(bounds(after, i)[:, 0]) for i in "abcd")
    gaps = [right[0] - left[1] for left, right in zip(spans, spans[1:], strict=False)]
    assert gaps == pytest.approx([gaps[0]] * 3, abs=1e-9)
    assert (spans[0], spans[-1]) == ((-5, 5), (49, 51))
    with pytest.raises(PieceError, match="three"):
        adjusted(document, kind="line_up", ids=["a"], anchor="d", x="even")
    with pytest.raises(PieceError, match="two"):
        adjusted(document, kind="line_up", ids=["d"], anchor="d", x="low")


@examples(30)
@given(TURN, POINT)
def test_setting_down_and_centring_in_turned_joins(turn, at):
    document = piece(
        join("group", part("egg", "egg", (4, 5, 6), turn, width=8, height=12), place={"position": at, "rotation": turn})
    )
    down = bounds(adjusted(document, kind="set_down", ids=["egg"]), "egg")
    assert down[0, 2] == pytest.approx(0, abs=1e-7)
    np.testing.assert_allclose(down[:, :2], bounds(document, "egg")[:, :2], atol=1e-7)
    centred = bounds(adjusted(document, kind="centre", ids=["egg"]), "egg")
    np.testing.assert_allclose(centred.mean(axis=0)[:2], 0, atol=1e-7)
    np.testing.assert_allclose(centred[:, 2], bounds(document, "egg")[:, 2], atol=1e-7)


def test_set_down_on_another_floor():
    floor = {"point": [0, 0, 10], "normal": [0, 1, 0]}
    after = adjusted(piece(box("a", (5, 50, 5), (2, 4, 2))), kind="set_down", ids=["a"], floor=floor)
    np.testing.assert_allclose(bounds(after, "a"), [(4, 0, 4), (6, 4, 6)])


@examples(30)
@given(TURN, st.sampled_from("xyz"))
def test_mirrored_twice_is_where_it_was(turn, axis):
    document = piece(part("w", "wedge", (4, 5, 6), turn, size=[3, 5, 2]))
    once = adjusted(document, kind="mirror", ids=["w"], axis=axis)
    np.testing.assert_allclose(bounds(once, "w"), bounds(document, "w"), atol=1e-7)
    middle = bounds(document, "w").mean(axis=0)
    sign = np.where(np.arange(3) == "xyz".index(axis), -1, 1)
    here = in_world(document, "w", Evaluator()).vertices - middle
    there = in_world(once, "w", Evaluator()).vertices - middle
    order = [np.lexsort(np.round(p, 5).T) for p in (here * sign, there)]
    np.testing.assert_allclose((here * sign)[order[0]], there[order[1]], atol=1e-6)
    twice = adjusted(once, kind="mirror", ids=["w"], axis=axis)
    np.testing.assert_allclose(
        in_world(twice, "w", Evaluator()).vertices.sum(axis=0), here.sum(axis=0) + middle * len(here)
    )


def test_sink_overlaps_by_the_depth_and_says_when_there_is_nothing_to_do():
    document = piece(box("a", size=(10, 10, 10)), box("b", (0, 0, 20), (4, 4, 4)))
    after = adjusted(document, kind="sink", ids=["b"], into="a", depth=1.5)
    meets = contact(*(in_world(after, i, Evaluator()) for i in "ab"))
    assert (meets.relation, meets.depth) == ("overlapping", pytest.approx(1.5, abs=0.01))
    with pytest.raises(PieceError, match="already"):
        adjusted(after, kind="sink", ids=["b"], into="a", depth=1)
    with pytest.raises(PieceError, match="pick"):
        adjusted(after, kind="sink", ids=["a"], into="a")


def test_thin_points_that_meet_are_not_led_past_each_other():
    document = piece(
        part("below", "cone", (0, 0, 1.5), bottom_radius=0.1, height=3),
        part("above", "cone", (0, 0, 5.5), (180, 0, 0), bottom_radius=0.1, height=3),
    )
    after = adjusted(document, kind="sink", ids=["above"], into="below", depth=0.5)
    found = contact(in_world(after, "below", Evaluator()), in_world(after, "above", Evaluator()))
    assert found.relation == "overlapping"


def test_a_part_of_nothing_has_no_size():
    document = piece(join("gone", box("a"), box("b", size=(2, 2, 2), op="difference")), box("c", (9, 0, 0)))
    with pytest.raises(PieceError, match="nothing is left"):
        adjusted(document, kind="centre", ids=["gone"])
