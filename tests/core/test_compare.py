"""What differs between two states of a piece, in words."""

import pytest

from noble_clay.core.piece.compare import differences
from tests.building import box, join, part, piece


def words(earlier, later):
    return {d.part: (d.present, *d.words) for d in differences(piece(*earlier), piece(*later))}


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({"name": "Lid"}, 'called "Box" before'),
        ({"op": "difference"}, "cuts now"),
        ({"op": "intersection"}, "keeps now"),
        ({"place": {"position": [1, 2.5, -3]}}, "moved by 1, 2.5, -3 mm"),
        ({"place": {"rotation": [0, 0, 30]}}, "turned"),
        ({"place": {"scale": [1, 1, 2]}}, "scaled"),
        ({"blend": 2.5}, "blend the list's → 2.5 mm"),
        ({"colour": "#112233"}, "another glaze"),
        ({"copies": {"kind": "row", "count": 3, "step": [5, 0, 0]}}, "copied another way"),
        ({"changes": [{"kind": "round", "radius": 0.1}]}, "other shape changes"),
        ({"hidden": True}, "hidden"),
        ({"reference": True}, "reference only"),
        ({"locked": True}, "locked"),
        ({"flip": ["x"]}, "mirrored"),
        ({"primitive": {"kind": "box", "size": [1, 1, 1], "edge": {"kind": "fillet", "size": 0.25}}}, "another edge"),
        ({"primitive": {"kind": "box", "size": [1, 1, 2]}}, "size 1 × 1 × 1 → 1 × 1 × 2"),
        ({"primitive": {"kind": "sphere", "radius": 2}}, "box before, sphere now"),
    ],
)
def test_each_field_is_told(values, said):
    told = words([box("b"), box("a", _name="Box")], [box("b"), {**box("a", _name="Box"), **values}])
    assert told == {"a": (True, said)}


def test_a_flag_that_is_off_again_is_told_too():
    told = words([box("a", _hidden=True, _locked=True)], [box("a")])
    assert told == {"a": (True, "shown", "free")}


def test_new_gone_and_in_another_group():
    told = words(
        [join("g", box("a"), box("b")), box("c")], [join("g", box("a"), box("c")), part("d", "sphere", radius=2)]
    )
    assert told == {"b": (False, "gone"), "c": (True, "in another group"), "d": (True, "new")}


def test_another_order_is_told_of_the_list_alone():
    told = words([box("a"), box("b"), box("c")], [box("b"), box("a"), box("c")])
    assert told == {None: (True, "its parts are in another order")}
    assert words([join("g", box("a"), box("b"))], [join("g", box("b"), box("a"))]) == {
        "g": (True, "its parts are in another order")
    }


def test_what_comes_between_is_no_other_order():
    assert words([box("a"), box("b")], [box("a"), box("n"), box("b")]) == {"n": (True, "new")}
    assert words([box("a"), box("b")], [box("a"), box("b")]) == {}


def test_the_name_of_the_piece():
    [only] = differences(piece(name="Crab"), piece(name="Crab two"))
    assert only.part is None and only.words == ('called "Crab" before',)
