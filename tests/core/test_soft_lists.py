"""Lists run together: closed whatever the parts do, their own triangles beyond the seam, a radius for each part."""

import numpy as np
import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.field.parted import parted
from noble_clay.core.mend.unite import together
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.inspect import inspect_solid
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.tolerances import CONTACT
from tests.building import box, evaluated, join, part, piece


def soft(*parts, blend=2.0, **more):
    return {"id": "soft", "join": {"blend": blend, "parts": list(parts), **more}}


def ball(name, at, radius=6, **more):
    return part(name, "sphere", at=at, radius=radius, facets=32) | more


def closed(*parts, blend=2.0, crossings=True, **more):
    result = evaluated(soft(*parts, blend=blend, **more))
    assert result.inspection.manifold
    assert result.solid.volume > 0
    if crossings:
        assert len(crossing_pairs(result.mesh)) == 0
    return result


CASES = {
    "apart": [ball("a", (0, 0, 0)), ball("b", (30, 0, 0))],
    "touching": [ball("a", (0, 0, 0)), ball("b", (12, 0, 0))],
    "barely within": [ball("a", (0, 0, 0)), ball("b", (1, 0.5, 0), radius=5)],
    "wholly within": [box("a", size=(30, 30, 30)), ball("b", (0, 0, 0))],
    "the same twice": [box("a", size=(10, 10, 10)), box("b", size=(10, 10, 10))],
    "flush": [box("a", size=(10, 10, 10)), box("b", size=(10, 10, 10), at=(10, 0, 0))],
    "half flush": [box("a", size=(10, 10, 10)), box("b", size=(10, 6, 10), at=(9, 2, 0))],
    "far out": [ball("a", (9000, -8000, 70)), ball("b", (9008, -8000, 74))],
    "larger than the part": [box("a", size=(40, 40, 10)), ball("b", (0, 0, 6), radius=1.5)],
    "cut through": [box("a", size=(20, 20, 8)), part("b", "cylinder", op="difference", radius=4, height=20)],
    "kept": [box("a", size=(20, 20, 20)), part("b", "sphere", op="intersection", radius=12.5)],
    "in a chain": [ball(f"p{i}", (5 * i, 3 * (i % 2), 0), radius=4 - 0.1 * i) for i in range(12)],
    "with a ring": [ball("a", (0, 0, 0), radius=9), part("b", "torus", at=(0, 0, 3), ring_radius=9, tube_radius=2)],
}


@pytest.mark.parametrize("case", CASES)
def test_it_is_one_closed_surface_whatever_the_parts_do(case):
    closed(*CASES[case])


def test_a_cutter_that_takes_all_leaves_nothing():
    result = evaluated(soft(ball("a", (0, 0, 0)), part("b", "box", op="difference", size=[40, 40, 40])))
    assert result.solid.empty


def test_what_stands_there_twice_is_what_stands_there_once():
    result = closed(box("a", size=(10, 10, 10)), box("b", size=(10, 10, 10)))
    assert result.solid.volume == pytest.approx(1000)
    assert len(result.mesh.triangles) == 12


def test_what_stands_there_again_after_a_cut_fills_the_cut():
    body, hole = box("a", size=(10, 10, 10)), part("b", "cylinder", op="difference", radius=2, height=20)
    again = box("c", size=(10, 10, 10))
    assert closed(body, hole, again, crossings=False).solid.volume == pytest.approx(1000, rel=2e-3)


@pytest.mark.parametrize("op", ["difference", "intersection"])
def test_nothing_is_taken_from_nothing(op):
    """The body is emptied by a join of its own; what comes after begins anew."""
    gone = join("gone", box("x"), box("y", size=(9, 9, 9), op="difference"))
    cutter, late = ball("b", (0, 0, 0), op=op), ball("c", (4, 0, 0))
    assert evaluated(soft(gone, cutter)).solid.empty
    assert evaluated(soft(gone, cutter, late)).solid.volume == pytest.approx(evaluated(late).solid.volume)


def test_nested_changed_copied_scaled_and_mesh_like_parts_run_together():
    inner = {"id": "inner", "join": {"blend": 1.0, "parts": [ball("a", (0, 0, 0)), ball("b", (6, 0, 3), radius=4)]}}
    bent = part("c", "capsule", at=(0, 0, 8), radius=2, length=16) | {"changes": [{"kind": "taper", "top": 0.6}]}
    ring = ball("d", (9, 0, -4), radius=2.5) | {"copies": {"kind": "ring", "count": 5, "axis": "z", "angle": 72}}
    wide = ball("e", (-6, 0, 0), radius=4)
    wide["place"]["scale"] = [1, 1.5, 0.7]
    slot = part("f", "box", at=(0, -6, 0), op="difference", size=[8, 4, 2])
    result = closed(inner, bent, ring, wide, slot, blend=1.2)
    assert set(result.part_ids) == {"a", "b", "c", "d", "e", "f"}


def test_a_sharp_part_of_a_soft_list_keeps_its_seam_and_its_triangles():
    face, eye = ball("face", (0, 0, 0), radius=12), ball("eye", (0, -11, 3), radius=3, blend=0)
    nose = ball("nose", (0, -11, -4), radius=3)
    whole = closed(face, nose, eye)
    without = closed(face, nose)
    apart = evaluated(soft(face, nose), {**eye, "id": "eye"}).solid
    assert whole.solid.volume == pytest.approx(apart.volume)
    assert whole.solid.volume > without.solid.volume


def test_a_part_has_a_radius_of_its_own_also_on_the_wheel_itself():
    plate, post = box("plate", size=(30, 30, 6)), part("post", "cylinder", at=(0, 0, 9), radius=4, height=18, facets=96)
    by_list = evaluated(soft(plate, post, blend=2)).solid.volume
    by_part = evaluated(soft(plate, post | {"blend": 2}, blend=0)).solid.volume
    on_the_wheel = evaluated(plate, post | {"blend": 2}).solid.volume
    sharp = evaluated(plate, post).solid.volume
    assert by_list == pytest.approx(by_part) == pytest.approx(on_the_wheel)
    assert by_list > sharp + 5
    assert evaluated(soft(plate, post | {"blend": 0}, blend=2)).solid.volume == pytest.approx(sharp)


def test_a_flat_foot_stays_flat_and_its_edges_sharp_beyond_the_seam():
    foot, leg = box("foot", size=(30, 20, 6)), part("leg", "cylinder", at=(0, 0, 12), radius=5, height=24)
    vertices = closed(foot, leg, blend=3).mesh.vertices
    far = np.hypot(vertices[:, 0], vertices[:, 1]) > 8.2
    low = vertices[far & (vertices[:, 2] < 3.01)]
    planes = np.abs(np.abs(low) - [15, 10, 3])
    assert planes.min(axis=1).max() < 1e-9
    for corner in ([15, 10, 3], [-15, 10, -3]):
        assert np.abs(vertices - corner).max(axis=1).min() < 1e-9


def test_an_edit_with_what_was_learnt_before_is_as_one_without():
    """Also after a radius was changed, and a part turned into a cutter and back."""
    parts = [ball("a", (0, 0, 0), radius=8), ball("b", (7, 0, 4), radius=4), ball("c", (-5, 5, 3), radius=4)]
    evaluator = Evaluator()
    evaluator.evaluate(piece(soft(*parts)))
    for edited in (
        {"b": ball("b", (7, 0.5, 4), radius=4)},
        {"b": ball("b", (7, 0.5, 4), radius=4, blend=0.7)},
        {"c": ball("c", (-5, 5, 3), radius=4, op="difference")},
        {},
    ):
        document = piece(soft(*(edited.get(p["id"], p) for p in parts)))
        again, fresh = evaluator.evaluate(document), Evaluator().evaluate(document)
        assert again.inspection.manifold
        assert np.array_equal(again.mesh.triangles, fresh.mesh.triangles)
        assert np.abs(again.mesh.vertices - fresh.mesh.vertices).max() < 1e-9


@pytest.mark.parametrize("turn", [(0, 0, 0), (0, 0, 45), (20, 35, 10)])
@pytest.mark.parametrize("sides", [3, 6])
def test_long_sharp_edges_that_run_into_a_blend_stay_sharp(sides, turn):
    """Edges of a post, along the lattice, across it and aslant; the tips of its edges pass by the lattice's points."""
    post = part("post", "prism", turn=turn, sides=sides, radius=6, height=60)
    result = closed(post, ball("knot", (3, 2, 1), radius=7), blend=1.5, crossings=False)
    own = evaluated(post).mesh.vertices
    away = np.abs(result.mesh.vertices[None] - own[:, None]).max(axis=2).min(axis=1)
    assert away.max() < 1e-9, "all its corners are there"
    assert len(result.mesh.triangles) < 25_000


@pytest.mark.parametrize("turn", [(0, 0, 0), (10, 25, 5)])
def test_a_cutter_a_thousand_times_as_large_is_a_cutter(turn):
    small, large = (part("cut", "box", at=(0, 0, s / 2), op="difference", size=[s, s, s]) for s in (20, 8000))
    whole = ball("a", (0, 0, 0), radius=5) | {"place": {"position": [0, 0, 0], "rotation": list(turn)}}
    found = [closed(whole, cutter, blend=0.5).solid.volume for cutter in (small, large)]
    assert found[1] == pytest.approx(found[0], rel=1e-3)


def test_a_group_of_soft_parts_is_as_live_as_they_are_alone():
    """A blended join inside a plain group that is moved: the same surface, moved."""
    two = soft(ball("a", (0, 0, 0)), ball("b", (8, 0, 3), radius=4))
    alone = evaluated(two).solid
    grouped = evaluated(join("group", two) | {"place": {"position": [3, 4, 5]}}).solid
    assert grouped.volume == pytest.approx(alone.volume)
    assert grouped.bounds == pytest.approx(alone.bounds + [3, 4, 5])


def test_points_that_files_take_for_one_are_parted():
    ball = hexahedron((2.0, 2.0, 2.0))
    two = together([ball, Mesh(ball.vertices + [2.0, 2.0, 2.0 + CONTACT / 2], ball.triangles)])
    assert not inspect_solid(two, CONTACT).manifold, "their corners meet"
    found = parted(two)
    assert inspect_solid(found, CONTACT).manifold
    assert np.abs(found.vertices - two.vertices).max() < 2 * CONTACT
    assert parted(ball) is ball


def test_a_part_stretched_thinner_than_one_may_be_is_measured_by_its_mesh():
    thin = part("thin", "wedge", (0, 0, 4), size=(0.01, 8, 8))
    thin["place"]["scale"] = [0.05, 1, 1]
    closed(box("body", size=(8, 8, 8)), thin, blend=1)


def test_colours_meet_in_a_line_through_the_middle_of_the_run():
    at = np.array([[0.0, 0, 0], [11, 0, 0], [6, 8, 3]])
    radii = [8.0, 6.0, 5.0]
    result = closed(*(ball(f"b{i}", p.tolist(), radius=r) for i, (p, r) in enumerate(zip(at, radii, strict=True))))
    edges = np.sort(np.stack([result.mesh.triangles, np.roll(result.mesh.triangles, -1, axis=1)], axis=-1), axis=-1)
    names, which = np.unique(edges.reshape(-1, 2), axis=0, return_inverse=True)
    parts = np.repeat(result.part_of, 3)[np.argsort(which.reshape(-1), kind="stable")].reshape(-1, 2)
    meet = parts[:, 0] != parts[:, 1]
    assert meet.sum() > 150
    ends = result.mesh.vertices[names[meet]]
    order = [int(result.part_ids[p][1:]) for p in range(3)]
    far = np.abs(np.linalg.norm(ends[:, :, None] - at[order], axis=-1) - np.array(radii)[order])
    pair = np.take_along_axis(far, np.repeat(parts[meet][:, None], 2, axis=1), axis=2)
    assert np.percentile(np.abs(pair[..., 0] - pair[..., 1]), 95) < 0.06, "as far from the one as from the other"
