"""Parts that are kept for other pieces: what of them is the drawer's, what the piece's, and how a copy follows."""

import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.drawer import content_mark, in_middle, noted, taken_out, to_keep, uses, whole_of
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.models import InDrawer
from noble_clay.core.piece.read import piece_from_values
from tests.building import box, part

KEPT = "0123456789abcdef"


def piece_of(*parts, **fields):
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": "P", "parts": list(parts), **fields})


def group(part_id, *parts, **fields):
    return {"id": part_id, "join": {"parts": list(parts)}, **fields}


def values(part):
    return part.model_dump(mode="json", exclude_defaults=True)


def kept_of(piece, *ids, fixed=False):
    return to_keep(piece, ids, "Shell", "mine", InDrawer(tags=("sea",), fixed=fixed))


def done(piece, **edit):
    return apply(piece, edit_from_values(edit)).piece


def with_copy(kept, **fields):
    """A piece with one part of its own and a copy of what is kept."""
    copy = taken_out(kept, KEPT).model_copy(update={"id": "copy", **fields})
    return done(piece_of(box("own", (50, 0, 0))), kind="add_parts", parts=[values(copy)])


@pytest.fixture
def shell():
    tools = box("a", size=(20, 20, 20)), {**part("hole", "cylinder", radius=3, height=40), "op": "difference"}
    return piece_of(
        group("g", box("x"), group("shell", *tools, place={"position": [5, 6, 7]}), place={"scale": [2, 2, 2]})
    )


def volume(piece):
    return Evaluator().evaluate(piece).solid.volume


def test_a_part_is_kept_as_large_as_it_is_seen_and_stands_in_the_middle(shell):
    kept = kept_of(shell, "shell")
    solid = Evaluator().evaluate(kept).solid
    assert solid.volume == pytest.approx(
        8 * volume(piece_of(*shell.dump()["parts"][0]["join"]["parts"][1]["join"]["parts"]))
    )
    low, high = Evaluator().evaluate(in_middle(kept, *solid.bounds)).solid.bounds
    assert low.tolist() == pytest.approx([-20, -20, 0]) and high.tolist() == pytest.approx([20, 20, 40])
    assert kept.drawer.tags == ("sea",) and kept.notes == "mine"
    assert piece_from_values(kept.dump()) == kept


def test_several_are_kept_as_one_group_of_which_the_first_is_the_body():
    cutter = {**box("b", (5, 0, 0)), "op": "difference"}
    kept = kept_of(piece_of(group("g", box("z"), cutter, box("c"))), "b", "c")
    assert [p.op for p in kept.parts] == ["union", "union"]
    copy = taken_out(kept, KEPT)
    assert [p.id for p in copy.children] == ["b", "c"] and copy.name == "Shell"
    with pytest.raises(PieceError, match="only for reference"):
        kept_of(piece_of({**box("r"), "reference": True}), "r")


@pytest.mark.parametrize(
    ("fields", "same"),
    [
        ({"place": {"position": (9, 9, 9), "rotation": (0, 0, 30), "scale": (2, 1, 1)}}, True),
        ({"name": "Other"}, True),
        ({"colour": "#123456"}, True),
        ({"copies": {"kind": "row", "count": 3, "step": (30, 0, 0)}}, True),
        ({"changes": [{"kind": "flatten", "depth": 1, "side": "z+"}]}, False),
    ],
)
def test_what_is_the_drawers_of_a_copy_and_what_is_the_pieces(shell, fields, same):
    plain = taken_out(kept_of(shell, "shell"), KEPT).model_dump(mode="json", exclude_defaults=True)
    other = piece_of({**plain, **fields}).parts[0]
    assert (content_mark(other) == other.drawer.mark) is same


def test_a_copy_follows_and_keeps_what_is_its_own(shell):
    kept = kept_of(shell, "shell")
    other = with_copy(kept, name="Mine", colour="#123456")
    other = done(
        other, kind="carry", moves=[{"id": "copy", "turn": {"axis": [0, 0, 1], "angle": 90, "centre": [0, 0, 0]}}]
    )
    before = other.parts[1]
    changed = done(kept, kind="set_changes", id="shell", stack=[{"kind": "flatten", "depth": 4, "side": "z+"}])
    marks = {KEPT: content_mark(whole_of(changed, "k"))}
    (use,) = uses(other, marks)
    assert use.behind and not use.changed
    outcome = apply(
        other,
        edit_from_values(
            {
                "kind": "follow_drawer",
                "ids": ["copy"],
                "part": values(taken_out(changed, KEPT)),
            }
        ),
    )
    after = outcome.piece.parts[1]
    assert (after.name, after.colour, after.place) == ("Mine", "#123456", before.place)
    assert not next(uses(outcome.piece, marks)).behind
    assert volume(piece_of(outcome.piece.dump()["parts"][1])) == pytest.approx(volume(changed))
    assert apply(outcome.piece, outcome.inverse).piece == other
    assert len({p.id for p in outcome.piece.walk()}) == len(list(outcome.piece.walk()))


def test_a_sphere_that_follows_grows_from_where_it_stands():
    kept = kept_of(piece_of(part("s", "sphere", (0, 0, 5), radius=5)), "s")
    other = with_copy(kept)
    larger = done(kept, kind="set_primitive", id="s", primitive={"kind": "sphere", "radius": 8})
    after = done(
        other,
        kind="follow_drawer",
        ids=["copy"],
        part=values(taken_out(larger, KEPT)),
    )
    assert after.parts[1].place.position[2] == pytest.approx(8), "its foot stays"


@pytest.mark.parametrize("ids", [("shell",), ("x", "shell")])
def test_what_was_changed_of_a_copy_goes_back_into_the_drawer(shell, ids):
    kept = kept_of(shell, *ids)
    copy = with_copy(kept).parts[1]
    hollow = [{"kind": "flatten", "depth": 2, "side": "z+"}]
    changed = copy.model_copy(
        update={"changes": edit_from_values({"kind": "set_changes", "id": "copy", "stack": hollow}).stack}
    )
    after = done(kept, kind="take_in", part=values(changed))
    assert content_mark(whole_of(after, "k")) == content_mark(changed)
    assert after.name == "Shell" and after.drawer.tags == ("sea",)
    assert volume(after) < volume(kept)


def test_a_group_of_several_goes_back_as_several():
    kept = kept_of(piece_of(box("a"), box("b", (30, 0, 0))), "a", "b")
    copy = with_copy(kept).parts[1]
    fewer = copy.with_children(copy.children[:1])
    after = done(kept, kind="take_in", part=values(fewer))
    assert [p.id for p in after.parts] == ["a"]


SIZED = [
    {"kind": "resize", "id": "copy", "size": [9, 9, 9], "was": [5, 5, 5]},
    {"kind": "set_primitive", "id": "copy", "primitive": {"kind": "sphere", "radius": 9}},
    {"kind": "set_part", "ids": ["copy"], "fields": {"place": {"scale": [2, 2, 2]}}},
    {"kind": "set_part", "ids": ["g"], "fields": {"place": {"scale": [2, 2, 2]}}},
    {
        "kind": "set_part",
        "ids": ["g"],
        "fields": {"copies": {"kind": "row", "count": 3, "step": [90, 0, 0], "vary": {"seed": 1, "size": 0.2}}},
    },
]


@pytest.mark.parametrize("edit", SIZED)
def test_a_copy_of_fixed_size_keeps_it_until_it_is_freed(edit):
    kept = kept_of(piece_of(part("s", "sphere", radius=5)), "s", fixed=True)
    other = done(with_copy(kept), kind="join", ids=["own", "copy"], op="union", bodies=1, name="g")
    join = other.parts[0].id
    edit = {**edit, "ids": [join]} if edit.get("ids") == ["g"] else edit
    with pytest.raises(PieceError, match="size.*fixed in the drawer"):
        done(other, **edit)
    note = next(p for p in other.walk() if p.id == "copy").drawer.model_dump(exclude={"scale"})
    done(done(other, kind="set_part", ids=["copy"], fields={"drawer": note}), **edit)
    mirrored = done(other, kind="set_part", ids=["copy"], fields={"flip": ["x"], "place": {"position": [1, 2, 3]}})
    assert next(p for p in mirrored.walk() if p.id == "copy").fixed_scale == (1, 1, 1)


def test_what_is_in_the_drawer_is_undone_like_any_words(shell):
    kept = kept_of(shell, "shell")
    outcome = apply(kept, edit_from_values({"kind": "set_piece", "drawer": {"tags": ["a", "b"], "fixed": True}}))
    assert outcome.piece.drawer == InDrawer(tags=("a", "b"), fixed=True)
    assert apply(outcome.piece, outcome.inverse).piece == kept


def test_the_same_content_has_the_same_mark_whatever_its_ids(shell):
    kept = kept_of(shell, "shell")
    twice = done(with_copy(kept), kind="add_parts", parts=[values(taken_out(kept, KEPT))])
    marks = {content_mark(p) for p in twice.parts[1:]}
    assert marks == {noted(kept.parts[0], KEPT, False).drawer.mark}
