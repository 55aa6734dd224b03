"""What new parts and joins are called: a recipe can be read, and a part picked by name."""

import pytest

from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.models import MOST_NAME
from tests.building import box, join, part, piece


def named(part_id, name, kind="sphere"):
    return part(part_id, kind, radius=5, _name=name)


def after(document, **edit):
    return apply(document, edit_from_values(edit)).piece


@pytest.mark.parametrize(
    ("there", "new", "called"),
    [
        ([], "Sphere", "Sphere"),
        (["Sphere"], "Sphere", "Sphere 2"),
        (["Sphere", "Sphere 2", "Sphere 4"], "Sphere", "Sphere 3"),
        (["Sphere", "Sphere 2"], "Sphere 2", "Sphere 3"),
        (["Sphere 7"], "Sphere 7", "Sphere 2"),
        (["sphere"], "Sphere", "Sphere"),
        (["x" * 80], "x" * 80, "x" * 78 + " 2"),
    ],
)
def test_a_new_part_whose_name_is_taken_gets_the_next_number(there, new, called):
    document = piece(*(named(f"p{i}", name) for i, name in enumerate(there)))
    assert after(document, kind="add_parts", parts=[named("new", new)]).parts[-1].name == called


def test_several_at_once_are_told_apart_and_what_lies_in_a_group_keeps_its_names():
    document = piece(join("arm", named("ball", "Ball"), box("bone"), name="Arm"))
    twice = after(document, kind="add_parts", parts=[document.parts[0].model_dump(mode="json")] * 2)
    assert [p.name for p in twice.parts] == ["Arm", "Arm 2", "Arm 3"]
    assert [p.name for p in twice.parts[2].children] == ["Ball", "Box"]
    inside = after(twice, kind="add_parts", parts=[named("new", "Ball")])
    assert inside.parts[-1].name == "Ball 2", "names are looked for in the whole recipe"


@pytest.mark.parametrize(
    ("op", "ids", "called"),
    [
        ("union", ["a", "b"], "Cup + Handle"),
        ("difference", ["b", "a"], "Handle cut"),
        ("intersection", ["a", "b"], "Cup ∩ Handle"),
        ("union", ["a", "b", "c"], "Cup + 2"),
    ],
)
def test_a_join_is_called_after_what_it_joins(op, ids, called):
    document = piece(named("a", "Cup"), named("b", "Handle"), named("c", "Foot"))
    assert after(document, kind="join", ids=ids, op=op).parts[0].name == called


def test_a_join_of_long_names_and_one_whose_name_is_taken_can_be_kept():
    document = piece(named("a", "a" * 80), named("b", "b" * 80), named("c", "Cup"), named("d", "Cup"))
    long = after(document, kind="join", ids=["a", "b"], op="union")
    assert len(long.parts[0].name) <= MOST_NAME
    first = after(document, kind="join", ids=["c", "d"], op="union", name="Group")
    again = after(first, kind="join", ids=["a", "b"], op="union", name="Group")
    assert [p.name for p in again.parts] == ["Group 2", "Group"]


def test_what_is_duplicated_again_is_numbered_on():
    document = piece(named("stick", "Stick"))
    twice = after(document, kind="add_parts", parts=[document.parts[0].model_dump(mode="json")])
    moved = after(twice, kind="move", ids=[twice.parts[1].id], by=[6, 0, 0])
    again = after(moved, kind="again", ids=[moved.parts[1].id], before=["stick"])
    assert [p.name for p in again.parts] == ["Stick", "Stick 2", "Stick 3"]
