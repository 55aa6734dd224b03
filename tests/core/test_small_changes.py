"""What is all but touching or all but folded is taken apart where it is, and by no more than hairs."""

import numpy as np
import pytest

from noble_clay.core.mend.hold_apart import held_apart
from noble_clay.core.mend.known_crossings import crossings_since
from noble_clay.core.mend.patch_over import patch_over
from noble_clay.core.mend.window import Window
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.written import as_filed
from tests.core.test_mend import SPHERE, solid
from tests.damage import together

HERE, FAR_OUT = np.zeros(3), np.array([300.0, -200, 100])


def cone_on(ground, foot, slacks, at=HERE):
    """A cone that stands on its tip, so many slacks over a place 10 mm up; in the ground where those are negative."""
    tip = solid("cone", (*foot, 13), bottom_radius=0, top_radius=3, height=6, facets=7)
    slack = slack_of(Mesh(together(ground, tip).vertices + at, ground.triangles))
    both = together(ground, Mesh(tip.vertices + [0, 0, slacks * slack], tip.triangles))
    return Mesh(both.vertices + at, both.triangles), slack


@pytest.mark.parametrize("at", [HERE, FAR_OUT])
@pytest.mark.parametrize("slacks", [3.0, 6.0])
def test_a_tip_over_a_point_is_moved_away_by_a_hair(slacks, at):
    near, slack = cone_on(solid(radius=10, facets=32), (0, 0), slacks, at)
    apart, holds = held_apart(near)
    assert holds
    assert len(apart.vertices) == len(near.vertices)
    assert 0 < np.abs(apart.vertices - near.vertices).max() <= 13 * slack
    assert inspect_mesh(as_filed(apart)).manifold


def test_points_that_are_far_enough_apart_stay():
    near, _ = cone_on(solid(radius=10, facets=32), (0, 0), 20.0)
    apart, holds = held_apart(near)
    assert holds
    np.testing.assert_array_equal(apart.vertices, near.vertices)


@pytest.mark.parametrize("at", [HERE, FAR_OUT])
def test_a_tip_that_goes_in_by_a_hair_comes_out_without_anything_being_cut_out(at):
    into, slack = cone_on(solid("box", size=[20, 20, 20]), (1.7, 0.3), -3.0, at)
    assert len(crossing_pairs(into)) > 0
    out, done = patch_over(into)
    assert (len(crossing_pairs(out)), done.more["cut_out"]) == (0, 0)
    assert len(out.triangles) == len(into.triangles)
    assert np.abs(out.vertices - into.vertices).max() <= 50 * slack
    assert volume(out) == pytest.approx(volume(into), rel=1e-4)


def test_two_triangles_folded_over_each_other_are_laid_the_other_way():
    """A box, a point of its top dragged 2 mm past the diagonal, and so over the half that is not cut up there."""
    cube = solid("box", size=[10, 10, 10])
    half = np.flatnonzero((cube.corners[:, :, 2] > 4.9).all(axis=1))[0]
    a, b, c = cube.triangles[half]
    a, b, c = next(
        t for t in ((a, b, c), (b, c, a), (c, a, b)) if not (cube.vertices[t[0]] + cube.vertices[t[1]])[:2].any()
    )
    point = [*(-0.4 * cube.vertices[c, :2]), 5.0]
    fan = [[a, b, 8], [b, c, 8], [c, a, 8]]
    folded = Mesh(np.vstack([cube.vertices, point]), np.vstack([np.delete(cube.triangles, half, axis=0), fan]))
    assert len(crossing_pairs(folded)) > 0
    flat, done = patch_over(folded)
    assert inspect_mesh(flat).manifold and done.more == {"left": 0, "cut_out": 0}
    assert volume(flat) == pytest.approx(1000.0, abs=1e-3)
    assert len(flat.vertices) == 9


def test_a_window_takes_no_change_at_its_rim_and_none_that_opens_it():
    box = np.array([[-3.0, -3, 5], [3, 3, 11]])
    window = Window.on(SPHERE, box)
    assert 0 < window.inside.sum() < len(SPHERE.triangles)
    free = np.flatnonzero(~window.held)
    inner = free[((window.mesh.vertices[free] > box[0]) & (window.mesh.vertices[free] < box[1])).all(axis=1)][0]
    held = np.flatnonzero(window.held)[0]
    for moved, taken in ((inner, True), (held, False)):
        points = window.mesh.vertices.copy()
        points[moved] *= 0.999
        found = Mesh(points, window.mesh.triangles)
        assert window.takes(found) == taken
    assert not window.takes(Mesh(window.mesh.vertices, window.mesh.triangles[1:]))


def test_what_is_put_back_is_the_whole_again():
    window = Window.on(SPHERE, np.array([[-3.0, -3, 5], [3, 3, 11]]))
    again = window.put_back(window.mesh)
    assert volume(again) == pytest.approx(volume(SPHERE), rel=1e-12)
    assert {tuple(sorted(t)) for t in again.triangles.tolist()} == {tuple(sorted(t)) for t in SPHERE.triangles.tolist()}


@pytest.mark.parametrize("seed", range(6))
def test_what_crosses_after_a_change_is_what_crosses(seed):
    """Points moved, triangles left out and put in another order: the same pairs as if all were looked at."""
    rng = np.random.default_rng(seed)
    corners = rng.uniform(0, 6, (80, 1, 3)) + rng.uniform(-1.5, 1.5, (80, 3, 3))
    soup = Mesh(corners.reshape(-1, 3), np.arange(240).reshape(-1, 3))
    points = np.concatenate([soup.vertices, rng.uniform(0, 6, (3, 3))])
    points[rng.permutation(240)[:9]] += 0.4
    new = np.array([[240, 241, 242]])
    after = Mesh(points, np.concatenate([soup.triangles, new])[rng.permutation(81)[:70]])
    found = np.sort(crossings_since(soup, crossing_pairs(soup), after), axis=1)
    assert len(found) > 5
    assert sorted(map(tuple, found.tolist())) == sorted(map(tuple, crossing_pairs(after).tolist()))


def deep(far=0.0):
    """Two boxes half in each other, and a point of one so much farther out."""
    both = together(solid("box", size=[20, 20, 20]), solid("box", (6, 7, 8), size=[20, 20, 20]))
    points = both.vertices.copy()
    points[both.vertices.sum(axis=1).argmax()] += far
    return Mesh(points, both.triangles)


def test_a_patch_does_not_take_a_part_of_the_body_with_it():
    left, _ = patch_over(deep())
    assert volume(left) == pytest.approx(volume(deep()), abs=2e-3 * 26 * 27 * 28)


def test_a_tangle_that_resisted_is_passed_over_until_something_about_it_changes():
    resisted: set[int] = set()
    assert patch_over(deep(), resisted)[1].count == 0
    assert len(resisted) == 1
    before = set(resisted)
    assert patch_over(deep(), resisted)[1].count == 0
    assert resisted == before
    patch_over(deep(0.5), resisted)
    assert len(resisted) == 2
