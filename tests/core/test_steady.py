"""What mending leaves is sound wherever it is put, not only where it was mended."""

import numpy as np
import pytest

from noble_clay.core.mend.plan import RepairOptions, mend
from noble_clay.core.mend.steady import PLACES, steady
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh, diagonal
from noble_clay.core.mesh.written import as_filed, in_float32
from tests.core.test_mend import solid
from tests.damage import together


def elsewhere(mesh, seed):
    """Turned and moved at random, and as a file has it there."""
    random = np.random.default_rng(seed)
    turn, move = rotation(random.uniform(-180, 180, 3)), random.uniform(-1, 1, 3) * diagonal(mesh.vertices)
    return as_filed(in_float32(Mesh(mesh.vertices @ turn.T + move, mesh.triangles)))


def boxes_apart(slacks):
    """Two boxes, one on the other but for a gap of so many slacks."""
    slack = 2.0**-22 * 30
    return together(solid("box", size=[30, 30, 20]), solid("box", (3, 2, 20 + slacks * slack), size=[10, 10, 20]))


def test_layers_that_are_hardly_apart_are_drawn_apart_so_far_that_they_are_everywhere():
    near = boxes_apart(1.5)
    assert inspect_mesh(near).manifold
    assert any(len(crossing_pairs(elsewhere(near, seed))) for seed in range(20))
    apart, done = steady(near, near)
    assert done.count > 0
    assert [len(crossing_pairs(elsewhere(apart, seed))) for seed in range(20)] == [0] * 20
    assert np.abs(apart.vertices - near.vertices).max() < 40 * slack_of(near)
    np.testing.assert_array_equal(apart.triangles, near.triangles)


def test_what_is_sound_everywhere_stays_to_the_bit():
    far = boxes_apart(1000)
    same, done = steady(far, far)
    assert done.count == 0
    np.testing.assert_array_equal(same.vertices, far.vertices)


def with_a_speck(mesh):
    """A point a few slacks beside a corner of the first triangle, in its plane, with the triangles around it."""
    a, b, c = mesh.triangles[0]
    corners = mesh.vertices[[a, b, c]]
    point = corners[0] + 6 * slack_of(mesh) * (corners.mean(axis=0) - corners[0]) / np.linalg.norm(
        corners[1] - corners[0]
    )
    new = len(mesh.vertices)
    more = np.array([[a, b, new], [b, c, new], [c, a, new]])
    return Mesh(np.vstack([mesh.vertices, point]), np.concatenate([mesh.triangles[1:], more]))


def test_a_short_edge_that_mending_made_is_contracted_and_one_that_was_given_stays():
    ball = solid(radius=10, facets=32)
    specked = with_a_speck(ball)
    without, done = steady(specked, ball)
    assert done.count == 1
    assert len(without.triangles) == len(ball.triangles)
    assert volume(without) == pytest.approx(volume(ball), rel=1e-6)
    kept, _ = steady(specked, specked)
    assert len(kept.triangles) == len(specked.triangles)


def test_what_crosses_where_it_is_is_left_to_other_steps():
    deep = together(solid("box", size=[20, 20, 20]), solid("box", (5, 5, 5), size=[20, 20, 20]))
    same, _ = steady(deep, deep)
    assert len(crossing_pairs(same)) == len(crossing_pairs(deep))


def test_the_maker_may_leave_it_out():
    torn = together(boxes_apart(1.5), solid("box", (3, 3, 3), size=[30, 30, 30]))
    steps = {s.step for s in mend(torn, RepairOptions(skip=frozenset({"steady"})))[1].steps}
    assert "unite" in steps
    assert "steady" not in steps


def test_where_a_mesh_is_looked_at_it_is_turned_and_moved_out():
    assert PLACES[0] == ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))
    assert len({turn for turn, _ in PLACES}) > 3
    assert max(np.abs(move).max() for _, move in PLACES) >= 1
