"""What a joined piece needs: found, located to its parts, and gone after any of the edits that are offered."""

import numpy as np
import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.view import Views
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.measure.walls import spread, thickness
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.needs.find import find_needs
from noble_clay.core.piece.edits import apply, edit_from_values
from tests.building import box, join, part, piece
from tests.damage import primitive, together

CUBE = box("a", size=(10, 10, 10))
PLATE = box("plate", size=(40, 20, 10))


def inspected(document, mesh=None):
    """mesh: what every mesh part of the piece is."""
    evaluator = Evaluator(assets=lambda sha: mesh)
    return find_needs(document, evaluator.evaluate(document), Neighbours(evaluator), Views(evaluator))


def only(document, kind):
    """The one need of a piece, which is of that kind."""
    (need,) = inspected(document).found
    assert need.kind == kind
    return need


def after(document, remedy):
    """The piece with a remedy, sent as the page would send it."""
    return apply(document, edit_from_values(remedy.edit.model_dump(mode="json"))).piece


def volume(document):
    return Evaluator().evaluate(document).inspection.volume


def test_a_sound_piece_needs_nothing():
    assert inspected(piece(CUBE, box("b", (5, 0, 0), (4, 4, 4)))).found == ()


def test_a_loose_body_is_sunk_by_the_join_that_holds_it():
    document = piece(CUBE, join("j", box("b", (0, 0, 8)), box("c", (0, 0, 8.5)), place={"rotation": [0, 0, 20]}))
    loose = only(document, "loose_body")
    assert {"b", "c"} <= set(loose.parts)
    assert loose.other == "a"
    assert loose.measures["gap_mm"] == pytest.approx(2.5)
    assert loose.remedies[0].part == "j"
    mended = after(document, loose.remedies[0])
    assert inspected(mended).found == ()
    assert Evaluator().evaluate(mended).inspection.sound


def test_a_loose_body_of_several_parts_is_sunk_by_all_of_them_at_once():
    brim = part("brim", "cylinder", (0, 0, 7), radius=4, height=1)
    crown = join(
        "crown",
        part("felt", "cylinder", (0, 0, 9), radius=2.5, height=3.5),
        part("dent", "sphere", (0, 0, 11), op="difference", radius=1),
    )
    document = piece(CUBE, brim, crown, part("pin", "cylinder", (0, 4, 7), radius=0.5, height=3))
    loose = only(document, "loose_body")
    (sink,) = loose.remedies
    assert (sink.part, sink.edit.ids) == ("brim", ("brim", "crown", "pin"))
    mended = after(document, sink)
    assert inspected(mended).found == ()
    heights = [p.place.position[2] for p in mended.parts]
    assert heights[1] - heights[3] == pytest.approx(0) and heights[1] < 7


def test_a_body_that_shares_a_part_with_the_largest_is_not_to_be_moved():
    bars = part("bars", "box", (0, 0, 8), size=(4, 4, 1), _copies={"kind": "row", "count": 2, "step": [0, 0, -3]})
    assert only(piece(CUBE, bars, box("knob", (0, 0, 8.8))), "loose_body").remedies == ()


def test_a_part_that_meets_the_rest_only_in_a_point_is_told_once():
    document = piece(CUBE, part("knob", "sphere", (0, 0, 8), radius=3))
    loose = only(document, "loose_body")
    assert loose.measures["gap_mm"] == pytest.approx(0, abs=1e-5)
    assert inspected(after(document, loose.remedies[0])).found == ()


def test_parts_that_only_touch_are_found_in_turned_joins_and_mended():
    turned = join("j", CUBE, box("b", (0, 0, 5.5)), place={"rotation": [0, 90, 0], "position": [1, 2, 3]})
    document = piece(turned)
    touch = only(document, "touching")
    assert (touch.parts, touch.other, touch.along) == (("b",), "a", "face")
    np.testing.assert_allclose(touch.remedies[0].edit.by, [-0.4, 0, 0], atol=1e-9)
    assert inspected(after(document, touch.remedies[0])).found == ()


def test_a_loose_body_that_no_single_part_makes_has_no_movement():
    document = piece(CUBE, box("cut", size=(2, 20, 20), op="difference"))
    assert only(document, "loose_body").remedies == ()


def test_a_crumb_is_told_from_a_loose_body():
    kinds = [inspected(piece(CUBE, box("b", (8, 0, 0), (s, s, s)))).found[0].kind for s in (0.5, 2)]
    assert kinds == ["crumb", "loose_body"]


def test_a_crumb_that_a_cut_left_over_is_swallowed_or_cut_away():
    document = piece(
        box("tile", size=(10, 10, 3)),
        box("slot", (3.6, 0, 0), (2, 12, 12), op="difference"),
        box("end", (4.8, -0.75, 0), (0.6, 10.5, 8), op="difference"),
    )
    crumb = only(document, "crumb")
    left = 0.4 * 0.5 * 3
    assert crumb.measures["volume_mm3"] == pytest.approx(left)
    assert set(crumb.parts) == {"tile", "slot", "end"}
    assert [r.how for r in crumb.remedies] == ["widen", "cut_away"]
    widened, cut = (after(document, r) for r in crumb.remedies)
    assert inspected(widened).found == ()
    assert inspected(cut).found == ()
    assert volume(cut) == pytest.approx(volume(document) - left), "nothing else is cut"


BALL = primitive("sphere", radius=10, facets=32)
CRUMBS = [primitive("box", (20 + 3 * i, 0, 0), size=[0.15, 0.15, 0.15]) for i in range(3)]


def of_mesh(part_id, at=(0, 0, 0), **more):
    return {"id": part_id, "mesh": {"asset": "ab" * 32}, "place": {"position": list(at)}, **more}


def test_crumbs_of_a_mesh_are_found_in_the_mesh_and_not_told_again():
    document = piece(of_mesh("found"))
    assert inspected(document, together(BALL, *CRUMBS)).found == ()
    assert inspected(piece(of_mesh("found"), box("b", (5, 0, 0), (12, 4, 4))), together(BALL, *CRUMBS)).found == ()


def test_a_mesh_of_several_bodies_that_floats_is_told_once_and_sunk_whole():
    document = piece(box("a", size=(40, 40, 10)), of_mesh("found", (0, 0, 30)))
    mesh = together(BALL, *CRUMBS)
    (loose,) = inspected(document, mesh).found
    assert (loose.kind, loose.parts) == ("loose_body", ("found",))
    assert loose.measures["gap_mm"] == pytest.approx(15, abs=1e-6)
    assert inspected(after(document, loose.remedies[0]), mesh).found == ()


def test_copies_of_a_mesh_are_each_told():
    document = piece(box("a", size=(90, 40, 10)), of_mesh("found", (30, 0, 30), copies={"kind": "twin", "axis": "x"}))
    assert len(inspected(document, BALL).of("loose_body")) == 2
    assert len(inspected(document, together(BALL, *CRUMBS)).of("loose_body")) == 2


def test_a_crumb_is_not_told_again_as_a_wall():
    document = piece(CUBE, box("leaf", (9, 0, 0), (1, 1, 0.1)))
    assert [n.kind for n in inspected(document).found] == ["crumb"]


def wall_cases():
    gap = 0.1
    between = (
        box("left", (-5 - gap / 2, 0, 0), (10, 10, 20), op="difference"),
        box("right", (5 + gap / 2, 0, 0), (10, 10, 20), op="difference"),
    )
    under = (box("pocket", (0, 0, gap + 1), (10, 10, 12), op="difference"),)
    left, right = ({**cutter, "op": "union"} for cutter in between)
    turned = (join("pair", left, right, op="difference", place={"rotation": [0, 0, 90]}),)
    rounds = (
        part("left", "cylinder", (-6.02, 0, 0), op="difference", radius=6, height=30, facets=96),
        part("right", "cylinder", (6.02, 0, 0), op="difference", radius=6, height=30, facets=96),
    )
    return [
        pytest.param(between, gap, {"left", "right"}, id="between two cutters"),
        pytest.param(under, gap, {"plate", "pocket"}, id="under a pocket"),
        pytest.param(rounds, 0.04, {"left", "right"}, id="between two bores"),
        pytest.param(turned, gap, {"left", "right"}, id="in a join of cutters"),
    ]


@pytest.mark.parametrize(("cutters", "thick", "parts"), wall_cases())
def test_a_wall_of_nothing_is_measured_and_gone_after_every_remedy(cutters, thick, parts):
    plate = box("plate", size=(40, 40, 10))
    document = piece(plate, *cutters)
    wall = only(document, "thin_wall")
    assert wall.measures["thickness_mm"] == pytest.approx(thick, abs=0.02)
    assert set(wall.parts) == parts
    assert len(wall.faces) > 0
    for remedy in wall.remedies:
        mended = after(document, remedy)
        assert inspected(mended).found == (), remedy.how


def test_holes_in_a_ring_that_nearly_meet_are_widened_or_narrowed_together():
    bore = part("bore", "cylinder", (14, 0, 0), op="difference", radius=5.32, height=40)
    bore["copies"] = {"kind": "ring", "count": 3, "axis": "z", "angle": 45}
    document = piece(part("disc", "cylinder", radius=30, height=10), bore)
    walls = inspected(document).of("thin_wall")
    assert [w.parts for w in walls] == [("bore",), ("bore",)]
    assert [r.how for r in walls[0].remedies] == ["widen", "narrow"]
    wide, narrow = (after(document, r) for r in walls[0].remedies)
    assert inspected(wide).found == ()
    assert inspected(narrow).found == ()
    bored = narrow.parts[1].primitive
    assert bored.kind == "cylinder", "a round hole stays round"


def test_a_blade_is_no_wall():
    edge = piece(part("lens", "sphere", (0, 0, -19), radius=20), part("other", "sphere", (0, 0, 19), radius=20))
    lens = edge.model_copy(update={"parts": (edge.parts[0], edge.parts[1].model_copy(update={"op": "intersection"}))})
    assert inspected(lens).of("thin_wall") == ()


def test_a_part_thinner_than_a_line_is_thickened():
    document = piece(box("leaf", size=(20, 20, 0.1)))
    leaf = only(document, "thin_wall")
    (thicken,) = leaf.remedies
    mended = after(document, thicken)
    assert mended.parts[0].primitive.size == pytest.approx((20, 20, 0.8))
    assert inspected(mended).found == ()


def test_a_shell_too_thin_by_its_own_hollow_is_told_and_not_stretched():
    thin = box("shell", size=(20, 20, 20), _changes=[{"kind": "hollow", "wall": 0.1}])
    walls = inspected(piece(thin)).of("thin_wall")
    assert {w.parts for w in walls} == {("shell",)}
    assert all(w.remedies == () for w in walls)


def test_holes_are_not_narrowed_to_nothing():
    pin = part("pin", "cylinder", (0.35, 0, 0), op="difference", radius=0.3, height=20)
    pin["copies"] = {"kind": "twin", "axis": "x"}
    wall = only(piece(box("tile", size=(10, 10, 3)), pin), "thin_wall")
    assert wall.measures["thickness_mm"] == pytest.approx(0.1, abs=0.01)
    assert [r.how for r in wall.remedies] == ["widen"]


@pytest.mark.parametrize("step", [0.0004, 0.006])
def test_faces_that_are_almost_flush_are_made_so(step):
    document = piece(PLATE, box("b", (5, 0, step), (10, 30, 10)))
    flush = next(n for n in inspected(document).found if n.kind == "almost_flush")
    assert set(flush.parts) == {"plate", "b"}
    assert flush.measures["step_mm"] == pytest.approx(step)
    mended = after(document, flush.remedies[0])
    assert inspected(mended).of("almost_flush") == ()
    assert Evaluator().evaluate(mended).inspection.sound


def test_a_locked_part_is_left_alone():
    document = piece(CUBE, box("b", (0, 0, 5.5), _locked=True))
    assert only(document, "touching").remedies == ()


def test_many_remedies_are_one_step():
    document = piece(CUBE, box("b", (0, 0, 5.5)), box("c", (5.5, 0, 0)))
    edits = [n.remedies[0].edit.model_dump(mode="json") for n in inspected(document).found]
    outcome = apply(document, edit_from_values({"kind": "several", "edits": edits}))
    assert inspected(outcome.piece).found == ()
    assert outcome.chosen == ("b", "c")
    assert apply(outcome.piece, outcome.inverse).piece == document


def test_thickness_is_measured_to_the_first_wall_behind():
    plates = [
        Mesh(hexahedron((10.0, 10.0, 2.0)).vertices + [0, 0, z], hexahedron((10.0, 10.0, 2.0)).triangles)
        for z in (0, 5)
    ]
    both = Mesh(
        np.concatenate([p.vertices for p in plates]), np.concatenate([plates[0].triangles, plates[1].triangles + 8])
    )
    samples = spread(both, 0.5, 100_000)
    deep, _ = thickness(both, samples, 3.0)
    lying = np.abs(both.corners[samples.triangle][:, :, 2].std(axis=1)) < 1e-9
    np.testing.assert_allclose(deep[lying], 2.0)
    assert np.isinf(deep[~lying]).all(), "ten across is beyond reach"
    assert samples.area.sum() == pytest.approx(2 * (200 + 80))
