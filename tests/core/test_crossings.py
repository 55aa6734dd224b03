"""Which triangles cross: the cases that matter, one by one, and untangling what crosses."""

import numpy as np
import pytest
from manifold3d import Manifold

from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.mend.arrange import arranged
from noble_clay.core.mend.unite import unite
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.box_tree import meeting_boxes
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from tests.core.test_mend import solid, together

FLOOR = [[0, 0, 0], [4, 0, 0], [0, 4, 0]]


def pair(*other):
    """Two triangles as one mesh, equal points one vertex."""
    points, index = np.unique(np.array([*FLOOR, *other], dtype=float), axis=0, return_inverse=True)
    return Mesh(points, index.reshape(-1, 3))


TURNS = [np.eye(3), rotation([20, -35, 50])]


@pytest.mark.parametrize("turn", TURNS)
@pytest.mark.parametrize("at", [(10, 10, 20), (10, 10, 0), (20, 10, 10), (20, 10, 20), (0, 0, 0), (7, 13, 20.0000004)])
def test_a_ball_whose_own_edges_lie_in_the_face_that_it_goes_through_crosses_it(turn, at):
    """All of its triangles only touch the face: each is on one side of it."""
    ball = Manifold.sphere(6, 24).translate(at)
    both = together(mesh_of(Manifold.cube([20, 20, 20])), mesh_of(ball))
    both = Mesh(both.vertices @ turn.T, both.triangles)
    assert len(crossing_pairs(both)) >= 9
    united, _ = unite(both)
    assert inspect_mesh(united).sound
    assert volume(united) == pytest.approx((Manifold.cube([20, 20, 20]) + ball).volume(), rel=1e-6)


@pytest.mark.parametrize("turn", TURNS)
def test_what_stands_on_an_edge_or_leans_against_a_face_crosses_nothing(turn):
    """A bar on its edge on a box: an edge along in the face, and all of the bar on one side."""
    bar = Manifold.cube([4, 4, 30], True).rotate([0, 0, 45]).rotate([0, 90, 0]).translate([10, 10, 20 + np.sqrt(8)])
    leaning = Manifold.cube([3, 3, 3]).rotate([45, 0, 0]).translate([5, 20 + 3 / np.sqrt(2), 5])
    for other in (bar, leaning):
        both = together(mesh_of(Manifold.cube([20, 20, 20])), mesh_of(other))
        assert len(crossing_pairs(Mesh(both.vertices @ turn.T, both.triangles))) == 0


def test_only_what_is_fresh_is_looked_at_for_edges_too():
    both = together(mesh_of(Manifold.cube([20, 20, 20])), mesh_of(Manifold.sphere(6, 24).translate([10, 10, 20])))
    fresh = np.arange(len(both.triangles)) >= 12
    np.testing.assert_array_equal(crossing_pairs(both, fresh=fresh), crossing_pairs(both))
    assert len(crossing_pairs(both, fresh=np.zeros(len(both.triangles), dtype=bool))) == 0


@pytest.mark.parametrize(
    ("other", "crosses"),
    [
        ([[1, 1, -1], [1, 1, 1], [9, 9, 0.5]], True),
        ([[1, 1, 1e-9], [1, 1, 1], [9, 9, 0.5]], False),  # only touches
        ([[1, 1, 0.1], [1, 1, 1], [9, 9, 0.5]], False),  # above
        ([[3, 3, -1], [3, 3, 1], [9, 9, 0.5]], False),  # beside
        ([[0, 0, 0], [2, 1, -1], [2, 1, 1]], True),  # through, from a common corner
        ([[0, 0, 0], [-2, -1, -1], [-2, -1, 1]], False),  # away from it
        ([[4, 0, 0], [0, 4, 0], [3, 3, 2]], False),  # neighbours
        ([[4, 0, 0], [0, 4, 0], [4, 4, 0]], False),  # flat neighbours
        ([[4, 0, 0], [0, 4, 0], [1, 1, 0]], True),  # folded back onto it
        ([[1, 1, 0], [5, 1, 0], [1, 5, 0]], True),  # overlap in one plane
        ([[5, 5, 0], [6, 5, 0], [5, 6, 0]], False),
    ],
)
def test_one_pair(other, crosses):
    assert len(crossing_pairs(pair(*other))) == int(crosses)
    assert len(crossing_pairs(pair(*other[::-1]))) == int(crosses)


# Of a figure's skin of 250 mm, in float32: side by side, in planes that meet at 0.02 degrees somewhere else.
LOW = np.array([[-59.141556, 20.3414, 30.88236], [-58.726509, 20.48807, 30.884228], [-58.8466, 20.48807, 30.884022]])
HIGH = np.array(
    [[-59.041233, 20.48807, 30.883642], [-58.914879, 20.48807, 30.883905], [-58.619968, 21.620142, 30.8934]]
)
SLACK_MM = 3e-5


@pytest.mark.parametrize(("down", "crosses"), [(0.0, False), (0.08, True)])
def test_triangles_almost_in_one_plane_cross_where_they_lie_on_each_other(down, crosses):
    along = HIGH[2] - HIGH[:2].mean(axis=0)
    points = np.concatenate([LOW, HIGH - down * along])
    found = crossing_pairs(Mesh(points, np.arange(6).reshape(2, 3)), SLACK_MM)
    assert bool(len(found)) == crosses


def test_pairs_are_found_wherever_they_are():
    rng = np.random.default_rng(3)
    corners = rng.uniform(0, 6, (60, 1, 3)) + rng.uniform(-1.5, 1.5, (60, 3, 3))
    soup = Mesh(corners.reshape(-1, 3), np.arange(180).reshape(-1, 3))
    each = [
        (i, j)
        for i in range(60)
        for j in range(i + 1, 60)
        if len(crossing_pairs(Mesh(soup.vertices, soup.triangles[[i, j]])))
    ]
    assert len(each) > 20
    assert crossing_pairs(soup).tolist() == [list(p) for p in each]


def test_of_what_is_fresh_every_pair_is_found_and_of_the_rest_none():
    rng = np.random.default_rng(5)
    corners = rng.uniform(0, 6, (300, 1, 3)) + rng.uniform(-1.5, 1.5, (300, 3, 3))
    soup = Mesh(corners.reshape(-1, 3), np.arange(900).reshape(-1, 3))
    every = crossing_pairs(soup)
    for share in (0.0, 0.02, 0.3, 1.0):
        fresh = rng.uniform(size=300) < share
        assert crossing_pairs(soup, None, fresh).tolist() == every[fresh[every].any(axis=1)].tolist()


def test_boxes_that_meet_are_all_found():
    rng = np.random.default_rng(4)
    corners = rng.uniform(0, 10, (200, 1, 3)) + rng.uniform(-1, 1, (200, 3, 3))
    soup = Mesh(corners.reshape(-1, 3), np.arange(600).reshape(-1, 3))
    low, high = corners.min(axis=1), corners.max(axis=1)
    meet = np.all((low[:, None] <= high[None]) & (high[:, None] >= low[None]), axis=2)
    some = np.array([5, 17, 100])
    expected = {(min(i, j), max(i, j)) for i in some for j in np.flatnonzero(meet[i]) if i != j}
    assert {tuple(p) for p in meeting_boxes(soup, some).tolist()} == {(int(a), int(b)) for a, b in expected}


def test_cutting_up_moves_nothing():
    two = together(solid(radius=10, facets=24), solid(at=(7, 3, 1), radius=8, facets=20))
    cut, origin = arranged(two, crossing_pairs(two))
    assert len(crossing_pairs(cut)) == 0
    assert inspect_mesh(cut).area == pytest.approx(inspect_mesh(two).area, rel=1e-9)
    assert np.array_equal(cut.vertices[: len(two.vertices)], two.vertices)
    assert set(origin) == set(range(len(two.triangles)))


@pytest.mark.parametrize("facets", [12, 25, 48])
def test_untangling_two_bodies_is_their_union(facets):
    two = together(solid(radius=10, facets=facets), solid(at=(7, 3, 1), radius=8, facets=facets))
    skin, done = untangle(two)
    united, _ = unite(two)
    assert done.more["left"] == 0
    assert inspect_mesh(skin).sound
    assert inspect_mesh(skin).volume == pytest.approx(inspect_mesh(united).volume, rel=1e-6)


def test_a_loop_that_runs_through_itself_becomes_one_skin():
    """A round tube along a figure of eight, its crossing seen from above."""
    turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    path = np.column_stack([30 * np.sin(turn), 20 * np.sin(2 * turn), 2 * np.cos(turn)])
    ahead = np.roll(path, -1, axis=0) - np.roll(path, 1, axis=0)
    ahead /= np.linalg.norm(ahead, axis=1)[:, None]
    side = np.cross([0, 0, 1], ahead)
    side /= np.linalg.norm(side, axis=1)[:, None]
    around = np.arange(20) * 2 * np.pi / 20
    rings = path[:, None] + 5 * (
        np.cos(around)[:, None] * side[:, None] + np.sin(around)[:, None] * np.cross(ahead, side)[:, None]
    )
    a = np.arange(90 * 20).reshape(90, 20)
    b, c, d = np.roll(a, -1, axis=1), np.roll(a, -1, axis=0), np.roll(np.roll(a, -1, axis=0), -1, axis=1)
    faces = np.concatenate([np.stack([a, b, d], axis=-1).reshape(-1, 3), np.stack([a, d, c], axis=-1).reshape(-1, 3)])
    tube = Mesh(
        rings.reshape(-1, 3), faces if inspect_mesh(Mesh(rings.reshape(-1, 3), faces)).volume > 0 else faces[:, ::-1]
    )
    assert inspect_mesh(tube).genus == 1
    skin, done = untangle(tube)
    found = inspect_mesh(skin)
    assert done.count > 50
    assert found.sound
    assert found.genus == 2, "the crossing makes a second hole of the eight"
    assert found.volume < inspect_mesh(tube).volume


def test_bodies_that_lie_flush_become_one():
    stack = together(solid("box", size=[4, 4, 4]), solid("box", (0, 1, 4), size=[4, 4, 4]))
    assert {f.kind: f.count for f in inspect_mesh(stack).findings}["self_intersections"] > 0
    one, done = unite(stack)
    assert (done.count, done.more["bodies"]) == (2, 1)
    assert inspect_mesh(one).sound
    assert inspect_mesh(one).volume == pytest.approx(128)
