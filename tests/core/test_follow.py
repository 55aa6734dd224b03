"""Cutters that follow their body's roundness, and what roundness is in sides and in mm."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.tree import find
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import box, join, part, piece


def ball(radius, facets=64):
    return PRIMITIVES["sphere"].model_validate({"kind": "sphere", "radius": radius, "facets": facets})


@given(st.floats(0.1, 500), st.integers(3, 512))
def test_the_sides_of_a_circle_give_themselves_back(radius, facets):
    primitive = ball(radius, facets)
    off = primitive.chord_error()
    assert off is not None
    assert primitive.with_chord_error(off).facets == facets


@given(st.floats(0.1, 500), st.floats(1e-4, 5))
def test_the_sides_found_are_the_fewest_that_are_near_enough(radius, off):
    sides = ball(radius).with_chord_error(off).facets
    if sides < 512:
        assert ball(radius, sides).chord_error() <= off * (1 + 1e-6)
    if sides > 3:
        assert ball(radius, sides - 1).chord_error() > off * (1 - 1e-6)


START = piece(
    join(
        "mug",
        part("body", "cylinder", radius=20, height=30, facets=48),
        part("hole", "cylinder", op="difference", radius=5, height=40, facets=12),
        part("plain", "cylinder", (9, 0, 0), op="difference", radius=2, height=40, facets=12),
    ),
)


def edited(document, **values):
    return apply(document, edit_from_values(values))


def test_a_cutter_follows_its_body_from_then_on_and_undo_takes_both_back():
    followed = edited(START, kind="set_part", ids=["hole"], fields={"follows_body": True})
    hole = find(followed.piece, "hole").part
    error = find(START, "body").part.primitive.chord_error()
    assert hole.primitive.facets == hole.primitive.with_chord_error(error).facets
    finer = {"kind": "cylinder", "radius": 20, "height": 30, "facets": 200}
    later = edited(followed.piece, kind="set_primitive", id="body", primitive=finer)
    off = [find(later.piece, name).part.primitive.chord_error() for name in ("hole", "body")]
    assert off[0] <= off[1] * (1 + 1e-9)
    assert find(later.piece, "plain").part.primitive.facets == 12, "what does not follow stays"
    assert apply(later.piece, later.inverse).piece.dump() == followed.piece.dump()


def test_a_locked_part_and_one_without_sides_follow_nothing():
    with_box = piece(
        part("body", "sphere", radius=10, facets=100),
        box("slot", _op="difference", _follows_body=True),
        part("pin", "cylinder", op="difference", radius=2, height=30, facets=9, _follows_body=True, _locked=True),
    )
    after = edited(with_box, kind="move", ids=["body"], by=[1, 0, 0]).piece
    assert find(after, "pin").part.primitive.facets == 9
    assert find(after, "slot").part == find(with_box, "slot").part


@pytest.mark.parametrize("kind", ["box", "wedge"])
def test_what_has_no_sides_is_off_by_nothing_that_can_be_told(kind):
    cls = PRIMITIVES[kind]
    assert cls.model_validate({"kind": kind, **cls.sample}).chord_error() is None
