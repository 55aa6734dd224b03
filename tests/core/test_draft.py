"""A draft shows the solid that evaluation from nothing gives, and computes what stands still only once."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.tree import find
from noble_clay.core.solid.draft import draft_of
from noble_clay.core.solid.evaluate import Evaluator
from noble_clay.core.solid.solid import boolean
from tests.building import box, join, part, piece

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
        copies={"kind": "twin", "axis": "x"},
    ),
    part("bore", "cylinder", (9, 4, 12), (90, 0, 0), "difference", radius=2, height=80, facets=16),
    join(
        "shoe", box("sole", (0, 0, 0), (20, 8, 4)), box("heel", (8, 0, -2), (4, 8, 6)), place={"position": [0, -14, 2]}
    ),
    box("bounds", (0, 0, 10), (60, 44, 24), op="intersection"),
    part("knob", "sphere", (0, 0, 21), radius=4, facets=16),
)
IDS = [p.id for p in TREE.walk()]
SHIFT = st.floats(-6, 6)


@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sets(st.sampled_from(IDS), min_size=1, max_size=3), st.tuples(SHIFT, SHIFT, SHIFT))
def test_a_draft_is_what_the_piece_is(ids, by):
    evaluator = Evaluator()
    evaluator.evaluate(TREE)
    after = apply(TREE, edit_from_values({"kind": "move", "ids": sorted(ids), "by": list(by)})).piece
    draft = draft_of(after, ids, evaluator)
    seen = boolean("union", [*(s.solid for s in draft.still), draft.moving])
    truth = Evaluator().evaluate(after).solid
    assert seen.volume == pytest.approx(truth.volume, rel=1e-5), "but for what making faces meet moves"
    differ = boolean("difference", [seen, truth]).volume + boolean("difference", [truth, seen]).volume
    assert differ == pytest.approx(0, abs=0.2)


@pytest.mark.parametrize("part_id", ["ball", "head", "heel", "slab", "knob"])
def test_what_stands_still_keeps_its_key_and_what_moves_is_small(part_id):
    evaluator = Evaluator()
    drafts = []
    for step in (0.5, 1.0):
        edit = edit_from_values({"kind": "move", "ids": [part_id], "by": [step, 0, 0]})
        drafts.append(draft_of(apply(TREE, edit).piece, {part_id}, evaluator))
    first, second = drafts
    assert [s.key for s in first.still] == [s.key for s in second.still]
    assert all(
        a.solid is b.solid or a.solid.volume == b.solid.volume for a, b in zip(first.still, second.still, strict=True)
    )
    labels = set(second.moving.labels.values())
    whole = {p.id for p in find(TREE, part_id).part.walk()}
    cutters = {"slot", "eye", "jaw", "bore", "bounds"}
    assert labels <= whole | cutters
