"""Edits are pure and exactly invertible; each keeps its own promises."""

import json
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.view import Views
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.tree import find, frame_of
from tests.building import box, evaluated, join, part, piece
from tests.examples import examples

START = piece(
    box("base", (0, 0, 5), (40, 30, 10)),
    join(
        "head",
        part("ball", "sphere", radius=8),
        part("eye", "sphere", (3, -6, 2), None, "difference", radius=2),
        place={"position": [0, 0, 17]},
    ),
    part("leg", "capsule", (12, 0, -4), radius=3, length=14, _copies={"kind": "twin", "axis": "x"}),
)


def edited(document, **values):
    return apply(document, edit_from_values(values))


def as_bytes(document):
    return json.dumps(document.dump()).encode()


IDS = st.sampled_from(["base", "head", "ball", "eye", "leg", "ghost"])
FLOATS = st.floats(-50, 50, allow_nan=False)
EDITS = st.one_of(
    st.builds(lambda i, v: {"kind": "move", "ids": [i], "by": list(v)}, IDS, st.tuples(FLOATS, FLOATS, FLOATS)),
    st.builds(lambda i: {"kind": "remove_parts", "ids": [i]}, IDS),
    st.builds(
        lambda a, b, op: {"kind": "join", "ids": [a, b], "op": op},
        IDS,
        IDS,
        st.sampled_from(["union", "difference", "intersection"]),
    ),
    st.builds(lambda i: {"kind": "ungroup", "id": i}, IDS),
    st.builds(
        lambda i, c: {"kind": "set_part", "ids": [i], "fields": {"colour": c}}, IDS, st.sampled_from([None, "#112233"])
    ),
    st.builds(
        lambda i, r: {
            "kind": "set_part",
            "ids": [i],
            "fields": {"place": {"position": [1, 2, 3], "rotation": [r, 0, 0]}},
        },
        IDS,
        FLOATS,
    ),
    st.builds(
        lambda i, op: {"kind": "set_part", "ids": [i], "fields": {"op": op}},
        IDS,
        st.sampled_from(["union", "difference"]),
    ),
    st.builds(
        lambda i, p, n: {"kind": "arrange", "ids": [i], "parent": p, "index": n},
        IDS,
        st.sampled_from([None, "head"]),
        st.integers(0, 4),
    ),
    st.builds(lambda i, f: {"kind": "resize", "id": i, "size": [f, 9, 9], "was": [7, 8, 9]}, IDS, st.floats(0.5, 60)),
    st.builds(
        lambda p: {"kind": "add_parts", "parent": p, "parts": [box("base"), box("new")]},
        st.sampled_from([None, "head", "leg"]),
    ),
    st.builds(
        lambda i, a, v: {"kind": "carry", "moves": [{"id": i, "turn": {"axis": list(v), "angle": a}, "by": list(v)}]},
        IDS,
        FLOATS,
        st.tuples(FLOATS, FLOATS, FLOATS),
    ),
    st.builds(lambda i, b: {"kind": "again", "ids": [i], "before": [b]}, IDS, IDS),
    st.builds(lambda i: {"kind": "break_copies", "ids": [i]}, IDS),
    st.builds(
        lambda i, c: {"kind": "set_part", "ids": [i], "fields": {"copies": c}},
        IDS,
        st.sampled_from([None, {"kind": "row", "count": 3, "step": [9, 0, 0]}, {"kind": "twin", "axis": "y"}]),
    ),
    st.builds(
        lambda i, n, v: {"kind": "set_part", "ids": [i], "fields": {n: v}},
        IDS,
        st.sampled_from(["locked", "hidden", "reference"]),
        st.booleans(),
    ),
    st.builds(lambda a, b: {"kind": "split", "ids": [a, b]}, IDS, IDS),
    st.builds(lambda a, b: {"kind": "cut_with_copy", "body": a, "tool": b, "clearance": 0.3}, IDS, IDS),
    st.builds(lambda a: {"kind": "cut_inside", "id": a, "wall": 1, "open": "z-"}, IDS),
    st.builds(lambda a, b: {"kind": "set_join", "id": a, "blend": b, "fineness": None}, IDS, st.floats(0, 9)),
    st.builds(
        lambda a, n: {"kind": "set_changes", "id": a, "stack": [{"kind": "twist", "angle": 9}] * n},
        IDS,
        st.integers(0, 3),
    ),
    st.builds(lambda a: {"kind": "bake", "id": a, "asset": {"asset": "0" * 64}}, IDS),
    st.just({"kind": "swap_body", "id": "head", "body": "eye"}),
    st.builds(lambda n: {"kind": "set_piece", "name": n, "notes": n * 2}, st.text("ab", min_size=1, max_size=5)),
)


@examples(150)
@given(st.lists(EDITS, min_size=1, max_size=8))
def test_any_edits_undone_give_the_first_document_back_byte_for_byte(values):
    now, inverses, documents = START, [], []
    for value in values:
        try:
            outcome = apply(now, edit_from_values(value))
        except PieceError:
            continue
        documents.append(as_bytes(now))
        inverses.append(outcome.inverse.model_dump(mode="json", exclude_defaults=True))
        now = outcome.piece
    for inverse, document in zip(reversed(inverses), reversed(documents), strict=True):
        now = apply(now, edit_from_values(inverse)).piece
        assert as_bytes(now) == document
    assert as_bytes(now) == as_bytes(START)


def volume(document):
    return Evaluator().evaluate(document).inspection.volume


def test_joining_and_ungrouping_leave_every_part_where_it_is():
    joined = edited(START, kind="join", ids=["base", "leg"], op="union").piece
    assert joined.parts[0].name == "Box + Capsule"
    assert [p.id for p in joined.parts[0].children] == ["base", "leg"]
    assert volume(joined) == pytest.approx(volume(START), rel=1e-12)
    again = edited(joined, kind="ungroup", id=joined.parts[0].id).piece
    assert {p.id: p.place for p in again.walk()} == {p.id: p.place for p in START.walk()}
    assert find(again, "leg").part.copies == find(START, "leg").part.copies


@pytest.mark.parametrize(
    "place",
    [
        {"position": [5, 6, 7], "rotation": [30, 40, 50]},
        {"position": [5, 6, 7], "rotation": [30, 40, 50], "scale": [2, 2, 2]},
        {"rotation": [0, 0, 90], "scale": [2, 3, 4]},
    ],
)
@pytest.mark.parametrize("flip", [[], ["x"], ["x", "y", "z"]])
def test_ungrouping_a_turned_scaled_or_mirrored_join_keeps_the_shape(place, flip):
    turn = [10, 20, 30] if "scale" not in place or len(set(place["scale"])) == 1 else [90, 0, 0]
    document = piece(
        box("floor", (40, 40, 40), (2, 2, 2)),
        join(
            "j",
            box("a", (1, 2, 3), (4, 5, 6), turn=turn),
            part("b", "wedge", (0, 0, 2), turn, size=[3, 4, 5]),
            place=place,
            flip=flip,
        ),
    )
    before = Evaluator().evaluate(document).inspection
    after = Evaluator().evaluate(edited(document, kind="ungroup", id="j").piece).inspection
    assert after.volume == pytest.approx(before.volume, rel=1e-7)
    np.testing.assert_allclose(after.bounds, before.bounds, atol=1e-6)


def test_ungrouping_what_would_shear_is_refused_in_words():
    document = piece(join("j", box("a", turn=(0, 0, 30)), place={"scale": [1, 2, 1]}))
    with pytest.raises(PieceError, match="stretched"):
        edited(document, kind="ungroup", id="j")


def test_moving_in_a_turned_join_goes_the_way_of_the_wheel():
    document = piece(join("j", box("a"), place={"rotation": [0, 0, 90], "scale": [2, 2, 2]}))
    moved = edited(document, kind="move", ids=["a"], by=[10, 0, 0]).piece
    spot = find(moved, "a")
    there = frame_of(spot.parents) @ [*spot.part.place.position, 1]
    np.testing.assert_allclose(there, [10, 0, 0], atol=1e-9)


def test_resizing_uses_own_fields_and_keeps_the_foot():
    document = piece(part("c", "cylinder", (0, 0, 6), radius=4, height=12))
    found = edited(document, kind="resize", id="c", size=[10, 10, 30], was=[8, 8, 12]).piece.parts[0]
    assert (found.primitive.radius, found.primitive.height) == (5, 30)
    assert found.place.position[2] == 15
    oval = edited(document, kind="resize", id="c", size=[10, 8, 12], was=[8, 8, 12]).piece.parts[0]
    assert (oval.primitive.radius, oval.place.scale) == (4, (1.25, 1, 1))


@pytest.mark.parametrize("hold", [(0, 0.5, 1), (1, 1, 1), (0.5, 0.5, 0.5)])
@pytest.mark.parametrize("kind", ["box", "capsule", "join"])
def test_resizing_holds_the_side_that_is_asked(kind, hold):
    turned = {"place": {"position": [3, 4, 5], "rotation": [20, 30, 40]}, "flip": ["x"]}
    shape = {
        "box": box("it", size=(4, 6, 8)),
        "capsule": part("it", "capsule", radius=3, length=12),
        "join": join("it", box("a", (5, 0, 0), (2, 2, 2)), box("b", (9, 1, 0), (4, 4, 4))),
    }[kind]
    document = piece({**shape, **turned})
    view = lambda d: next(v for v in Views(Evaluator()).of(d) if v.id == "it")  # noqa: E731
    corner = lambda v: v.matrices[0] @ [*(v.own[0] + (v.own[1] - v.own[0]) * np.array(hold)), 1]  # noqa: E731
    before = view(document)
    size = [s * f for s, f in zip(before.size, (2, 2, 1.5), strict=True)]
    values = {"id": "it", "size": size, "was": before.size.tolist(), "hold": hold, "own": before.own.tolist()}
    after = view(edited(document, kind="resize", **values).piece)
    np.testing.assert_allclose(after.size, size, rtol=1e-6)
    np.testing.assert_allclose(corner(after), corner(before), atol=1e-6)


def test_ids_already_taken_are_made_fresh():
    outcome = edited(START, kind="add_parts", parts=[join("head", box("ball"))])
    assert outcome.chosen == ("head-2",)
    assert [p.id for p in outcome.piece.parts[-1].walk()] == ["head-2", "ball-2"]


def test_removing_the_body_makes_the_next_part_the_body():
    after = edited(START, kind="remove_parts", ids=["ball"]).piece
    assert find(after, "eye").part.op == "union"


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"kind": "move", "ids": ["nobody"], "by": [1, 0, 0]}, "not in the piece"),
        ({"kind": "move", "ids": ["base"], "by": [1e9, 0, 0]}, "at most 100,000"),
        ({"kind": "arrange", "ids": ["head"], "parent": "head", "index": 0}, "into itself"),
        ({"kind": "ungroup", "id": "base"}, "only a join"),
        ({"kind": "join", "ids": ["ball", "base"], "op": "union"}, "different joins"),
        ({"kind": "join", "ids": ["head", "eye"], "op": "union"}, "cannot be joined"),
        ({"kind": "add_parts", "parent": "base", "parts": [box("x")]}, "not a join"),
        ({"kind": "add_parts", "parts": [part("x", "sphere", radius=-3)]}, "at least 0.001"),
        ({"kind": "set_part", "ids": ["base"], "fields": {"name": ""}}, "at least 1 character"),
        ({"kind": "set_part", "ids": ["base"], "fields": {"op": "difference"}}, "must be union"),
        ({"kind": "set_part", "ids": ["base"], "fields": {"place": None}}, "cannot be taken away"),
        ({"kind": "resize", "id": "base", "size": [0, 1, 1], "was": [1, 1, 1]}, "at least 0.001"),
        (
            {"kind": "set_primitive", "id": "base", "primitive": {"kind": "tube", "radius": 2, "wall": 3, "height": 1}},
            "below the radius",
        ),
        ({"kind": "melt"}, "unknown kind"),
    ],
)
def test_edits_that_make_no_sense_are_refused_and_change_nothing(values, words):
    before = as_bytes(START)
    with pytest.raises(PieceError, match=words):
        edited(START, **values)
    assert as_bytes(START) == before


def test_a_locked_part_stays_until_it_is_unlocked():
    locked = edited(START, kind="set_part", ids=["base"], fields={"locked": True}).piece
    with pytest.raises(PieceError, match="locked"):
        edited(locked, kind="move", ids=["base"], by=[1, 0, 0])
    assert not edited(locked, kind="set_part", ids=["base"], fields={"locked": False}).piece.parts[0].locked


def test_swapping_body_and_tool():
    document = piece(join("j", box("a", size=(4, 4, 4)), box("b", size=(2, 2, 6), op="difference")))
    swapped = edited(document, kind="swap_body", id="j", body="b").piece
    assert [(p.id, p.op) for p in swapped.parts[0].children] == [("b", "union"), ("a", "difference")]
    assert volume(swapped) == pytest.approx(24 - 16)


def test_edits_say_what_they_do():
    assert (
        edit_from_values({"kind": "join", "ids": ["base", "leg"], "op": "difference"}).describe(START)
        == "Cut Box, Capsule"
    )
    for fields, words in [
        ({"name": "Neck {}"}, "Renamed Box to Neck {}"),
        ({"hidden": True}, "Hid Box"),
        ({"hidden": False}, "Showed Box"),
        ({"locked": True}, "Locked Box"),
        ({"op": "difference"}, "Changed how Box enters"),
        ({"flip": ["x"]}, "Changed Box"),
    ]:
        assert edit_from_values({"kind": "set_part", "ids": ["base"], "fields": fields}).describe(START) == words
    assert edit_from_values({"kind": "set_piece", "name": "Crab"}).describe(START) == "Renamed the piece to Crab"
    assert evaluated(box("a")).inspection.volume == pytest.approx(1)


def test_several_bodies_and_several_tools_are_joined_at_once():
    document = piece(
        box("a", size=(10, 10, 10)),
        box("b", (10, 0, 0), (12, 10, 10)),
        part("c", "cylinder", radius=2, height=30),
        part("d", "cylinder", (10, 0, 0), radius=2, height=30),
    )
    joined = edited(document, kind="join", ids=["a", "b", "c", "d"], op="difference", bodies=2).piece
    assert [p.op for p in joined.parts[0].children] == ["union", "union", "difference", "difference"]
    assert Evaluator().evaluate(joined).inspection.genus == 2
    with pytest.raises(PieceError, match="at most 3"):
        edited(document, kind="join", ids=["a", "b", "c", "d"], op="difference", bodies=4)


@pytest.mark.parametrize("tools", [["b"], ["b", "c"]])
def test_a_split_keeps_both_sides_and_loses_nothing(tools):
    document = piece(
        box("a", size=(10, 10, 10)), box("b", (5, 0, 0), (6, 30, 30)), part("c", "sphere", (-5, 0, 0), radius=3)
    )
    outcome = edited(document, kind="split", ids=["a", *tools])
    outside, inside = (find(outcome.piece, i).part for i in outcome.chosen)
    assert (outside.name, inside.name) == ("Box outside", "Box inside")
    volumes = [volume(piece(p.model_dump(exclude_defaults=True))) for p in (outside, inside)]
    assert sum(volumes) == pytest.approx(1000)
    # The split's faces meet, so the two together are the body again.
    others = [p for p in outcome.piece.parts if p.id not in outcome.chosen]
    assert len(others) == 2 - len(tools)
    both = Evaluator().evaluate(outcome.piece.model_copy(update={"parts": (outside, inside)})).inspection
    assert (both.bodies, both.volume) == (1, pytest.approx(1000))


def test_a_copy_cuts_with_room_all_round():
    document = piece(box("block", size=(20, 20, 10)), box("peg", (0, 0, 4), (6, 6, 10)))
    outcome = edited(document, kind="cut_with_copy", body="block", tool="peg", clearance=0.25)
    assert find(outcome.piece, "peg").part == find(document, "peg").part, "the peg stays as it is"
    result = Evaluator().evaluate(outcome.piece).inspection
    assert result.bodies == 2, "the peg stands free in its hole"
    assert result.volume == pytest.approx(4000 - 6.5 * 6.5 * (10 - 3.75) + 360, rel=1e-9)


def test_a_part_is_cut_out_by_a_thinner_one_like_it():
    document = piece(part("cup", "cylinder", radius=8, height=20, facets=4))
    outcome = edited(document, kind="cut_inside", id="cup", wall=2, open="z+")
    inner = (8 * math.cos(math.pi / 4) - 2) * 2
    assert volume(outcome.piece) == pytest.approx(128 * 20 - inner**2 * 18, rel=1e-9)
    assert find(outcome.piece, outcome.chosen[0]).part.op == "difference"


def test_ungrouping_a_join_with_shape_changes_is_refused_in_words():
    document = piece(join("j", box("a"), box("b", (0.5, 0, 0)), changes=[{"kind": "twist", "angle": 30}]))
    with pytest.raises(PieceError, match="shape changes"):
        edited(document, kind="ungroup", id="j")


def test_resizing_a_part_with_changes_gives_the_typed_size():
    for change, kept in (({"kind": "hollow", "wall": 1}, True), ({"kind": "taper", "top": 2}, False)):
        document = piece(box("a", size=(10, 10, 10), _changes=[change]))
        was = (Evaluator().geometry(document.parts[0]).bounds[1] * 2).tolist()
        after = edited(document, kind="resize", id="a", size=[30, 12, 9], was=was).piece.parts[0]
        result = Evaluator().part_solid(after).bounds
        np.testing.assert_allclose(result[1] - result[0], [30, 12, 9], atol=1e-9)
        assert (after.primitive.size == (30, 12, 9)) is kept
