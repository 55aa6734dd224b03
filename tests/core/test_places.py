"""Where flaws are: as many as `inspect` counts, each in its place, with what is to be drawn of it."""

import numpy as np
import pytest

from noble_clay.core.mend.places import MOST_DRAWN, MOST_PLACES, flaws
from noble_clay.core.mend.weld import weld
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.severity import SEVERITY
from tests.damage import DAMAGES, damaged, primitive, together, without

BALL = primitive("sphere", radius=10, facets=32)
CUBE = primitive("box", size=[4, 4, 4])


def of(mesh, kind):
    return [f for f in flaws(mesh) if f.kind == kind]


def turned(mesh, faces):
    triangles = mesh.triangles.copy()
    triangles[faces] = triangles[faces][:, ::-1]
    return Mesh(mesh.vertices, triangles)


@pytest.mark.parametrize("damage", DAMAGES)
def test_what_is_placed_is_what_is_counted(damage):
    mesh = weld(damaged(BALL, DAMAGES[damage]), 1e-9)[0]
    counted = {f.kind: f.count for f in inspect_mesh(mesh).findings}
    placed = {}
    for flaw in flaws(mesh):
        placed[flaw.kind] = placed.get(flaw.kind, 0) + flaw.count
    full = {kind for kind in placed if len(of(mesh, kind)) >= MOST_PLACES}
    assert set(placed) == set(counted)
    assert {k: v for k, v in placed.items() if k not in full} == {k: v for k, v in counted.items() if k not in full}
    assert all(placed[kind] <= counted[kind] for kind in full)


def test_a_sound_mesh_has_none():
    assert flaws(BALL) == []
    assert flaws(Mesh.empty()) == []


@pytest.mark.parametrize("face", [0, 50, 400])
def test_a_crack_is_its_rim_in_its_place(face):
    (flaw,) = flaws(without(BALL, [face]))
    corners = BALL.corners[face]
    sides = np.linalg.norm(corners - np.roll(corners, -1, axis=0), axis=1)
    assert (flaw.kind, flaw.count, flaw.severity) == ("open_edges", 3, SEVERITY["open_edges"])
    assert flaw.at == pytest.approx((corners.min(axis=0) + corners.max(axis=0)) / 2)
    assert flaw.more["length_mm"] == pytest.approx(sides.sum())
    assert flaw.more["width_mm"] <= sides.max()
    drawn = {tuple(np.round(p, 9)) for p in flaw.lines.reshape(-1, 3)}
    assert drawn == {tuple(np.round(p, 9)) for p in corners}
    assert flaw.values()["lines"] == pytest.approx(flaw.lines.reshape(-1), abs=1e-5)


def test_the_largest_crack_comes_first():
    wide = np.linalg.norm(BALL.corners.mean(axis=1) - [10, 0, 0], axis=1) < 4
    wide[300] = True
    found = of(without(BALL, wide), "open_edges")
    assert [f.size for f in found] == sorted((f.size for f in found), reverse=True)
    assert len(found) == 2
    assert found[0].size > 5 > found[1].size


def test_faces_that_are_turned_are_told_patch_by_patch():
    one, other = of(turned(BALL, [40, 41, 42, 600]), "flipped_faces")
    assert sorted([one.count, other.count]) == [1, 3]
    assert len(one.faces) == one.count, "every one is drawn"


def test_bodies_are_told_with_their_volume():
    inside = turned(primitive("sphere", (40, 0, 0), radius=4), slice(None))
    crumb = primitive("box", (-30, 0, 0), size=[1, 2, 3])
    mesh = together(BALL, inside, crumb)
    (wrong,) = of(mesh, "inside_out_bodies")
    assert wrong.at == pytest.approx([40, 0, 0], abs=1e-6)
    assert wrong.more["volume_mm3"] < 0
    (loose,) = of(mesh, "loose_bodies")
    assert loose.more["volume_mm3"] == pytest.approx(6)
    assert loose.at == pytest.approx([-30, 0, 0])
    assert loose.size == pytest.approx(14**0.5)


def test_edges_and_points_that_bodies_share():
    along = weld(together(CUBE, primitive("box", (4, 4, 0), size=[4, 4, 4])), 1e-6)[0]
    (edge,) = of(along, "overshared_edges")
    assert edge.size == pytest.approx(4)
    assert edge.at == pytest.approx([2, 2, 0])
    point = weld(together(CUBE, primitive("box", (4, 4, 4), size=[4, 4, 4])), 1e-6)[0]
    (pinch,) = of(point, "pinched_vertices")
    assert pinch.at == pytest.approx([2, 2, 2])
    assert len(pinch.where) == 1


def test_a_tangle_is_the_line_in_which_it_crosses():
    """Two bars across each other: the rim of one where it goes into the other is a square."""
    one = primitive("box", size=[20, 4, 4])
    other = primitive("box", (0.1, 0.2, 0.3), size=[2, 20, 2])
    (tangle,) = of(together(one, other), "self_intersections")
    drawn = tangle.lines.reshape(-1, 3)
    assert np.abs(np.abs(drawn[:, 1]) - 2).max() < 1e-9, "on the two faces that it goes through"
    assert drawn.min(axis=0) == pytest.approx([-0.9, -2, -0.7])
    assert drawn.max(axis=0) == pytest.approx([1.1, 2, 1.3])
    length = np.linalg.norm(tangle.lines[:, 1] - tangle.lines[:, 0], axis=1).sum()
    assert length == pytest.approx(2 * 4 * 2)


def test_two_tangles_far_apart_are_two():
    pair = [BALL, primitive("box", (9, 0, 0), size=[6, 6, 6])]
    again = [Mesh(m.vertices + [100, 0, 0], m.triangles) for m in pair]
    found = of(together(*pair, *again), "self_intersections")
    assert len(found) == 2
    assert sorted(round(f.at[0] / 100) for f in found) == [0, 1]


def test_no_more_places_than_a_list_can_hold_and_the_largest_of_them():
    boxes = [primitive("box", (3 * i, 0, 20), size=[0.1 + 0.01 * i] * 3) for i in range(MOST_PLACES + 30)]
    found = of(together(BALL, *boxes), "loose_bodies")
    assert len(found) == MOST_PLACES
    assert min(f.size for f in found) == pytest.approx(3**0.5 * (0.1 + 0.01 * 30))


def test_what_is_drawn_is_bounded_and_spread_over_the_whole():
    fine = primitive("sphere", (40, 0, 0), radius=9, facets=200)
    (loose,) = of(together(primitive("sphere", radius=10, facets=32), fine), "loose_bodies")[:1]
    assert len(loose.faces) <= MOST_DRAWN // 3
    drawn = loose.faces.reshape(-1, 3)
    reach = np.ptp(drawn, axis=0)
    assert (reach > 0.9 * 18).all(), "not just the first few"
