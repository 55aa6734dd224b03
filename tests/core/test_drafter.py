"""A draft is, inside its box, what evaluation from nothing gives, and outside it nothing has changed."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.boxes import Boxes
from noble_clay.core.evaluate.drafts import Drafter
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.piece.edits import apply, edit_from_values
from tests.building import box, join, part, piece
from tests.examples import examples

TREE = piece(
    box("slab", (0, 0, 5), (40, 30, 10)),
    box("slot", (0, 0, 8), (8, 40, 6), op="difference"),
    join(
        "head",
        part("ball", "sphere", radius=8, facets=24),
        part("eye", "sphere", (3, -6, 2), None, "difference", radius=3, facets=16),
        box("brow", (0, -7, 4), (9, 3, 2)),
        box("jaw", (0, 0, -1), (14, 14, 12), op="intersection"),
        place={"position": [5, 2, 17], "rotation": [0, 0, 30]},
    ),
    part("bore", "cylinder", (9, 4, 12), (90, 0, 0), "difference", radius=2, height=80, facets=16),
    join(
        "shoe",
        box("sole", (0, 0, 0), (20, 8, 4)),
        box("heel", (8, 0, -2), (4, 8, 6)),
        place={"position": [0, -14, 2], "scale": [1, 2, 1]},
        copies={"kind": "twin", "axis": "y"},
    ),
    box("bounds", (0, 0, 10), (60, 64, 24), op="intersection"),
    part("knob", "sphere", (0, 0, 21), radius=4, facets=16),
    join("soft", box("a", size=(6, 6, 6)), box("b", (3, 2, 2), (6, 6, 6)), place={"position": [-14, 8, 12]})
    | {"changes": [{"kind": "twist", "angle": 20, "slices": 8}]},
)
IDS = [p.id for p in TREE.walk()]
SHIFT = st.floats(-6, 6)
moves = st.builds(
    lambda i, v: {"kind": "move", "ids": [i], "by": list(v)}, st.sampled_from(IDS), st.tuples(*[SHIFT] * 3)
)
others = st.sampled_from(
    [
        {"kind": "remove_parts", "ids": ["brow"]},
        {"kind": "remove_parts", "ids": ["knob"]},
        {"kind": "add_parts", "parts": [box("new", (12, 12, 12), (5, 5, 5))]},
        {"kind": "add_parts", "parent": "head", "parts": [box("new", (0, 6, 0), (5, 5, 5))]},
        {"kind": "set_part", "ids": ["eye"], "fields": {"op": "union"}},
        {"kind": "set_part", "ids": ["knob"], "fields": {"reference": True}},
        {"kind": "arrange", "ids": ["knob"], "index": 1},
        {"kind": "join", "ids": ["slab", "knob"], "op": "union"},
        {"kind": "set_changes", "id": "soft", "stack": []},
    ]
)


def block(corners):
    low, high = corners
    middle = np.column_stack([np.eye(3), (low + high) / 2])
    return Solid.from_mesh(hexahedron(tuple(float(v) for v in high - low)), "block", True).placed(middle)


def apart(a, b):
    return boolean("difference", [a, b]).volume + boolean("difference", [b, a]).volume


@examples(24)
@given(st.lists(moves | others, min_size=1, max_size=3))
def test_inside_the_box_it_is_the_truth_and_outside_nothing_has_changed(edits):
    evaluator = Evaluator()
    local, before = Drafter(evaluator), evaluator.evaluate(TREE).solid
    now = TREE
    for values in edits:
        try:
            now = apply(now, edit_from_values(values)).piece
        except PieceError:  # the edit before it made it impossible
            continue
        draft = local.draft(TREE, now)
        truth = Evaluator().evaluate(now).solid
        if draft.box is None:
            assert apart(draft.solid, truth) == pytest.approx(0, abs=0.2)
            continue
        inside = block(draft.box)
        assert apart(boolean("intersection", [draft.solid, inside]), boolean("intersection", [truth, inside])) < 0.2
        assert apart(boolean("difference", [before, inside]), boolean("difference", [truth, inside])) < 0.2


def scales(count):
    turns = np.linspace(0, 6.2, count)
    spots = [(40 * float(np.cos(a)), 40 * float(np.sin(a)), 0) for a in turns]
    ring = [part(f"s{i}", "sphere", at, radius=4, facets=12) for i, at in enumerate(spots)]
    return piece(part("body", "sphere", radius=40, facets=48), *ring)


def test_a_step_touches_only_what_is_near_and_what_stands_still_is_joined_once():
    document, evaluator = scales(60), Evaluator()
    local, kept = Drafter(evaluator), set()
    for step in (0.5, 1.0, 1.5):
        edit = edit_from_values({"kind": "move", "ids": ["s7"], "by": [step, 0, 0]})
        draft = local.draft(document, apply(document, edit).piece)
        names = set(draft.solid.labels.values())
        assert {"body", "s7", "s6", "s8"} <= names
        assert not names & {"s0", "s20", "s40"}
        kept.add(id(local._static[""]))
    assert len(kept) == 1, "made once while the box stays in its crop box"
    assert draft.solid.manifold.num_tri() < 4_000


def test_where_most_has_changed_the_draft_is_the_whole():
    document = scales(8)
    edit = edit_from_values({"kind": "move", "ids": ["body"], "by": [1, 0, 0]})
    whole = np.array([[-44.0] * 3, [44.0] * 3])
    draft = Drafter(Evaluator()).draft(document, apply(document, edit).piece, within=whole)
    assert draft.box is None


@pytest.mark.parametrize("group", [None, "head"])
def test_where_all_that_a_list_had_is_taken_nothing_is_left_of_it(group):
    ids = [p.id for p in TREE.parts] if group is None else ["ball", "eye", "brow", "jaw"]
    after = apply(TREE, edit_from_values({"kind": "remove_parts", "ids": ids})).piece
    draft = Drafter(Evaluator()).draft(TREE, after)
    truth = Evaluator().evaluate(after).solid
    inside = draft.solid if draft.box is None else boolean("intersection", [draft.solid, block(draft.box)])
    assert apart(inside, truth if draft.box is None else boolean("intersection", [truth, block(draft.box)])) < 0.2


def test_what_changes_nothing_of_the_shape_is_the_whole_as_it_was():
    edit = edit_from_values({"kind": "set_part", "ids": ["knob"], "fields": {"colour": "#112233"}})
    evaluator = Evaluator()
    draft = Drafter(evaluator).draft(TREE, apply(TREE, edit).piece)
    assert draft.box is None
    assert draft.solid.volume == pytest.approx(evaluator.evaluate(TREE).solid.volume)


@pytest.mark.parametrize("part_id", [p.id for p in TREE.parts])
def test_boxes_hold_what_they_are_around(part_id):
    evaluator = Evaluator()
    found = next(p for p in TREE.parts if p.id == part_id)
    low, high = Boxes(evaluator).of(found)
    true_low, true_high = evaluator.part_solid(found).bounds
    assert np.all(low <= true_low + 1e-9) and np.all(high >= true_high - 1e-9)
    assert np.all(true_low - low < 9) and np.all(high - true_high < 9), "and are not much larger"


def test_a_draft_keeps_the_colours_of_its_parts():
    edit = edit_from_values({"kind": "move", "ids": ["knob"], "by": [1, 0, 0]})
    draft = Drafter(Evaluator()).draft(TREE, apply(TREE, edit).piece)
    mesh, part_of, names = draft.solid.mesh_with_parts()
    assert len(part_of) == len(mesh.triangles)
    assert "knob" in {names[i] for i in np.unique(part_of)}


def soft_string(blend=2.0, **more):
    """Balls in a row that run together, beside a post that does not."""
    balls = [part(f"b{i}", "sphere", (7 * i, 0, 0), radius=5, facets=32) for i in range(12)]
    balls[4]["op"], balls[4]["place"]["position"][1] = "difference", 6
    string = join("string", *balls, place={"position": [3, 0, 5], "rotation": [0, 0, 20]})
    string["join"]["blend"] = blend
    return piece({**string, **more}, box("post", (-40, 0, 0), (6, 6, 30)))


@pytest.mark.parametrize(
    "edit",
    [
        {"kind": "move", "ids": ["b7"], "by": [0, 1.5, 2]},
        {"kind": "move", "ids": ["b4"], "by": [0, -1, 0]},
        {"kind": "set_part", "ids": ["b9"], "fields": {"blend": 4}},
        {"kind": "remove_parts", "ids": ["b11"]},
        {"kind": "add_parts", "parent": "string", "parts": [part("new", "sphere", (14, 0, 5), radius=3, facets=32)]},
    ],
)
def test_of_parts_that_run_together_only_the_neighbourhood_is_made(edit):
    evaluator = Evaluator()
    before = soft_string()
    after = apply(before, edit_from_values(edit)).piece
    first, truth = (evaluator.list_solid(p.parts) for p in (before, after))
    draft = Drafter(evaluator).draft(before, after, within=first.bounds)
    assert draft.box is not None
    crop = Solid.from_mesh(hexahedron(tuple(draft.box[1] - draft.box[0])), "box").placed(
        np.column_stack([np.eye(3), draft.box.mean(axis=0)])
    )
    inside = boolean("intersection", [truth, crop]).volume
    assert boolean("intersection", [draft.solid, crop]).volume == pytest.approx(inside, rel=0.005)
    assert boolean("intersection", [first, crop]).volume != pytest.approx(inside, rel=0.005), "something has changed"
    outside = boolean("difference", [truth, crop]).volume
    assert boolean("difference", [first, crop]).volume == pytest.approx(outside, rel=1e-4)
    assert draft.solid.bounds[1, 0] - draft.solid.bounds[0, 0] < 0.7 * (first.bounds[1, 0] - first.bounds[0, 0])


def test_a_radius_larger_than_what_is_near_is_no_obstacle_to_a_draft():
    before = soft_string(blend=14)
    after = apply(before, edit_from_values({"kind": "move", "ids": ["b11"], "by": [9, 0, 0]})).piece
    draft = Drafter(Evaluator()).draft(before, after)
    assert not draft.solid.empty
    assert draft.solid.bounds[1, 0] == pytest.approx(Evaluator().list_solid(after.parts).bounds[1, 0], abs=1.5)


@pytest.mark.parametrize(
    ("change", "field", "to"),
    [
        ({"kind": "hollow", "wall": 2.0}, "wall", 2.6),
        ({"kind": "grow", "by": 0.8}, "by", 1.2),
        ({"kind": "round", "radius": 1.5}, "radius", 2.0),
    ],
)
def test_while_a_hand_moves_a_lattice_is_coarser_and_what_it_gave_is_not_kept(change, field, to):
    made = [
        piece(part("ring", "torus", ring_radius=15, tube_radius=6, _changes=[{**change, field: size}]))
        for size in (change[field], to)
    ]
    evaluator = Evaluator()
    evaluator.list_solid(made[0].parts)
    draft = Drafter(evaluator).draft(*made).solid
    after, truth = evaluator.list_solid(made[1].parts), Evaluator().list_solid(made[1].parts)
    assert draft.triangles < 0.7 * truth.triangles
    assert draft.volume == pytest.approx(truth.volume, rel=0.02)
    assert after.triangles == truth.triangles
    assert after.volume == pytest.approx(truth.volume, rel=1e-9)


def test_where_a_coarser_lattice_finds_nothing_the_draft_is_the_truth():
    """A cavity less than one of its cells wide."""
    before, after = (
        piece(part("ring", "torus", ring_radius=15, tube_radius=6, _changes=[{"kind": "hollow", "wall": wall}]))
        for wall in (3.0, 5.6)
    )
    evaluator = Evaluator()
    assert Drafter(evaluator).draft(before, after).solid.volume == pytest.approx(
        evaluator.list_solid(after.parts).volume, rel=0.01
    )
