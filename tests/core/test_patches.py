"""Patches over holes: flat, spanned and smooth ones, and which of them a rim gets."""

from itertools import combinations

import numpy as np
import pytest

from noble_clay.core.mend.close_holes import close_holes, open_loops
from noble_clay.core.mend.patch import flat_patch, loop_area, loop_normal, smooth_patch, spanned_patch
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology
from tests.building import evaluated, part
from tests.damage import primitive, together, without

BALL = primitive("sphere", radius=10, facets=48)
BAR = primitive("box", size=[30, 6, 6])


def polygon(number, reach=5.0, wobble=0.0):
    turn = np.arange(number) * 2 * np.pi / number
    out = reach * (1 + wobble * np.cos(3 * turn))
    return np.column_stack([out * np.cos(turn), out * np.sin(turn), np.zeros(number)])


def turned(points, seed=0):
    """The points turned at random in space, and moved."""
    q, _ = np.linalg.qr(np.random.default_rng(seed).normal(size=(3, 3)))
    return points @ (q * np.sign(np.linalg.det(q))).T + [3, -70, 11]


def area_of(points, triangles):
    return float(areas(Mesh(points, triangles)).sum())


def rim_is_covered(triangles, number):
    """Every side of the polygon once and forward, every other edge once each way."""
    halves = [(t[k], t[(k + 1) % 3]) for t in triangles.tolist() for k in range(3)]
    sides = {(i, (i + 1) % number) for i in range(number)}
    inside = set(halves) - sides
    return len(set(halves)) == len(halves) and sides <= set(halves) and inside == {(b, a) for a, b in inside}


@pytest.mark.parametrize("number", [3, 4, 7, 60])
def test_the_area_of_a_polygon_is_a_vector_that_stands_on_it(number):
    points = turned(polygon(number), number)
    expected = number / 2 * 25 * np.sin(2 * np.pi / number)
    assert np.linalg.norm(loop_area(points)) == pytest.approx(expected)
    assert abs(loop_normal(points) @ (points[1] - points[0])) < 1e-9
    assert loop_normal(points) == pytest.approx(-loop_normal(points[::-1]))
    assert not loop_normal(np.array([[0.0, 0, 0], [1, 1, 1], [2, 2, 2]])).any(), "a line encloses nothing"


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize(("number", "wobble"), [(3, 0), (4, 0), (12, 0.6), (90, 0.8)])
def test_a_flat_polygon_is_filled_however_it_lies(number, wobble, seed):
    points = turned(polygon(number, wobble=wobble), seed)
    found = flat_patch(points)
    assert found.shape == (number - 2, 3)
    assert rim_is_covered(found, number)
    assert area_of(points, found) == pytest.approx(np.linalg.norm(loop_area(points)))


def every_triangulation(first, last):
    """All ways to fill a convex polygon's points from `first` to `last`."""
    if last - first < 2:
        return [[]]
    return [
        [*left, (first, middle, last), *right]
        for middle in range(first + 1, last)
        for left in every_triangulation(first, middle)
        for right in every_triangulation(middle, last)
    ]


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("number", [4, 6, 8])
def test_a_spanned_patch_is_the_smallest_of_all(number, seed):
    rng = np.random.default_rng(seed)
    points = polygon(number) + rng.normal(0, 2.5, (number, 3))
    found = spanned_patch(points)
    assert rim_is_covered(found, number)
    least = min(area_of(points, np.array(t)) for t in every_triangulation(0, number - 1))
    assert area_of(points, found) == pytest.approx(least)


def test_too_few_and_too_many_points_are_not_spanned():
    assert spanned_patch(polygon(2)) is None
    assert spanned_patch(polygon(251)) is None
    assert spanned_patch(polygon(250)).shape == (248, 3)


@pytest.mark.parametrize("reach", [2.5, 4.0, 6.0])
@pytest.mark.parametrize("pole", [(0, 0, 10), (0, -10, 0)])  # where its triangles are long and thin, and even
def test_a_smooth_patch_runs_on_as_the_ball_does(reach, pole):
    open_ball = without(BALL, np.linalg.norm(BALL.corners.mean(axis=1) - pole, axis=1) < reach)
    lid = 10 * (1 - np.cos(reach / 10))
    (loop,) = open_loops(Topology(open_ball).open_half_edges)
    more, triangles = smooth_patch(open_ball, loop)
    assert np.linalg.norm(more, axis=1) == pytest.approx(10, abs=lid / 8), "a flat lid would be eight times as far off"
    whole = inspect_mesh(
        Mesh(np.concatenate([open_ball.vertices, more]), np.concatenate([open_ball.triangles, triangles]))
    )
    assert whole.sound
    assert whole.genus == 0


@pytest.mark.parametrize("corner", [(0, 0, 0), (4, 0, 0)])
def test_a_missing_face_of_a_box_is_closed_flat_and_its_edges_stay_sharp(corner):
    box = primitive("box", corner, size=[8, 6, 4])
    for gone in combinations(range(12), 2):
        opened = without(box, list(gone))
        closed, done = close_holes(opened)
        if inspect_mesh(closed).volume == pytest.approx(8 * 6 * 4):
            continue
        # Two triangles that share an edge over a corner: the patch over their four points goes the other way.
        a, b = (set(box.triangles[g].tolist()) for g in gone)
        assert len(a & b) == 2 and done.count == 1
        assert inspect_mesh(closed).manifold


def test_every_loop_is_closed_or_counted_as_left():
    open_bar = without(BAR, [0])
    closed, done = close_holes(open_bar)
    assert (done.count, done.more["triangles_added"], done.more["left_open"]) == (1, 1, 0)
    assert inspect_mesh(closed).volume == pytest.approx(30 * 6 * 6)
    assert close_holes(BAR)[1].count == 0


def test_only_the_loops_that_are_given_are_closed():
    holed = without(BALL, [100, 700])
    loops = open_loops(Topology(holed).open_half_edges)
    assert len(loops) == 2
    closed, done = close_holes(holed, loops[1:])
    assert done.count == 1
    assert len(Topology(closed).open_halves) == 3


def test_a_rim_that_a_wall_goes_around_gets_a_lid_and_no_dome():
    cup = evaluated(
        part("a", "cylinder", radius=9, height=12, facets=48),
        part("b", "cylinder", (0, 0, 3), op="difference", radius=7, height=12, facets=48),
    ).mesh
    rim = np.isclose(cup.corners[:, :, 2], 6).all(axis=1)
    closed, _ = close_holes(without(cup, rim))
    assert closed.vertices[:, 2].max() == pytest.approx(6)
    assert len(closed.vertices) == len(cup.vertices), "no new points"


def test_two_halves_of_a_loop_are_two_holes():
    """Two faces gone that share one corner: the rim comes through that corner twice."""
    start = BALL.triangles[600]
    other = next(
        i for i, t in enumerate(BALL.triangles) if len(set(t.tolist()) & set(start.tolist())) == 1 and start[0] in t
    )
    holed = without(BALL, [600, other])
    loops = open_loops(Topology(holed).open_half_edges)
    assert sorted(len(loop) for loop in loops) == [3, 3]
    closed, done = close_holes(holed)
    assert done.count == 2
    assert inspect_mesh(closed).sound
    assert inspect_mesh(closed).volume == pytest.approx(inspect_mesh(BALL).volume)


def test_a_hole_of_each_of_two_bodies_stays_with_its_body():
    second = primitive("sphere", (40, 0, 0), radius=10, facets=48)
    both = together(without(BALL, [100]), without(second, [400]))
    closed, done = close_holes(both)
    assert done.count == 2
    assert (inspect_mesh(closed).bodies, inspect_mesh(closed).manifold) == (2, True)
