"""The first triangle that a ray meets, beside libigl's own rays, and where a tree is easily wrong."""

import igl
import numpy as np
import pytest

from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.rays import first_met, times_around
from tests.damage import primitive, together

BALL = primitive("sphere", radius=10, facets=32)


def at_random(seed, number, reach):
    """Points about the origin, and unit vectors."""
    rng = np.random.default_rng(seed)
    ways = rng.normal(size=(number, 3))
    return rng.uniform(-reach, reach, (number, 3)), ways / np.linalg.norm(ways, axis=1, keepdims=True)


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("count", [1, 5, 37, 300])
def test_as_libigl_meets_them(seed, count):
    """Triangles at random, as many as leave the tree's last leaves empty."""
    rng = np.random.default_rng(seed)
    corners = rng.uniform(-10, 10, (count, 1, 3)) + rng.uniform(-4, 4, (count, 3, 3))
    soup = Mesh(corners.reshape(-1, 3), np.arange(3 * count).reshape(-1, 3))
    starts, ways = at_random(seed, 2000, 12)
    met, far = first_met(soup, starts, ways, np.inf)
    tree = igl.AABB()
    tree.init(soup.vertices, soup.triangles)
    theirs, away, _ = tree.intersect_ray_first(soup.vertices, soup.triangles, starts, ways)
    assert (met >= 0).any()
    assert np.array_equal(met, theirs)
    np.testing.assert_allclose(far[met >= 0], away[met >= 0], atol=1e-9)
    assert np.isinf(far[met < 0]).all()


@pytest.mark.parametrize("reach", [0.5, 3.0, 9.9])
def test_nothing_beyond_the_reach_is_met(reach):
    starts, ways = at_random(1, 3000, 9)
    met, far = first_met(BALL, starts, ways, reach)
    everything = first_met(BALL, starts, ways, np.inf)
    near = everything[1] <= reach
    assert np.array_equal(met, np.where(near, everything[0], -1))
    assert (far[near] <= reach).all()


def test_from_the_middle_of_a_ball_it_is_its_radius_away():
    _, ways = at_random(2, 500, 1)
    fine = primitive("sphere", radius=10, facets=200)
    met, far = first_met(fine, np.zeros((500, 3)), ways, 20)
    assert (met >= 0).all()
    np.testing.assert_allclose(far, 10, rtol=1e-3)


@pytest.mark.parametrize("axis", range(3))
@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_rays_along_the_axes_and_in_the_planes_of_faces(axis, sign):
    """A direction of two zeros, from inside a box, from beside it, and in the plane of a side, a hair off."""
    box = primitive("box", size=[4, 4, 4])
    way = np.zeros((3, 3))
    way[:, axis] = sign
    start = np.zeros((3, 3))
    start[1] = -6 * way[1]
    start[2] = -6 * way[2]
    start[2, (axis + 1) % 3] = 2 + 1e-9
    met, far = first_met(box, start, way, 100)
    assert far[:2] == pytest.approx([2, 4])
    assert met[2] == -1
    assert np.allclose(box.corners[met[0]][:, axis], 2 * sign)


def test_the_nearer_of_two_is_met_from_either_side():
    walls = together(primitive("box", size=[1, 20, 20]), primitive("box", (5, 0, 0), size=[1, 20, 20]))
    starts = np.array([[-9.0, 1, 2], [9.0, 1, 2], [2.5, 1, 2], [2.5, 1, 2]])
    ways = np.array([[1.0, 0, 0], [-1, 0, 0], [1, 0, 0], [-1, 0, 0]])
    met, far = first_met(walls, starts, ways, 50)
    assert far == pytest.approx([8.5, 3.5, 2, 2])
    assert [bool(walls.corners[m][0, 0] > 2) for m in met] == [False, True, True, False]


def test_triangles_without_area_and_meshes_without_triangles_are_met_by_nothing():
    flat = Mesh(np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0]]), np.array([[0, 1, 2]]))
    for mesh in (flat, Mesh.empty()):
        met, far = first_met(mesh, np.array([[0.5, 0, -1]]), np.array([[0.0, 0, 1]]), 10)
        assert (met.tolist(), far.tolist()) == ([-1], [np.inf])
    assert first_met(BALL, np.zeros((0, 3)), np.zeros((0, 3)), 1)[0].shape == (0,)


def test_how_often_a_closed_surface_goes_around_a_point_is_as_the_winding_number_says():
    """Balls within each other, one of them turned inward, a box that runs through them; as they are, and far out."""
    inward = Mesh(BALL.vertices * 0.6, BALL.triangles[:, ::-1])
    again = primitive("sphere", (2, 0, 0), radius=4, facets=24)
    mesh = together(BALL, inward, again, primitive("box", (8, 1, 0), size=[9, 7, 5]))
    points = np.random.default_rng(3).uniform(-14, 14, (4000, 3))
    for moved in (mesh.vertices, mesh.vertices + [900.0, -40.0, 300.0]):
        placed, asked = Mesh(moved, mesh.triangles), points + moved[0] - mesh.vertices[0]
        expected = igl.winding_number(placed.vertices, placed.triangles, asked)
        np.testing.assert_array_equal(times_around(placed, asked), np.round(expected))
    assert set(times_around(mesh, points)) >= {0, 1, 2}
