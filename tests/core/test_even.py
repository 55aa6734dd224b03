"""Evening out turns no triangle over: a point stays where it was where its way would do that."""

import numpy as np
import pytest

from noble_clay.core.field.even import LEAST_TURN, _without_turning
from tests.damage import primitive

BALL = primitive("sphere", radius=5, facets=32)


def normals(points):
    a, b, c = points[BALL.triangles].transpose(1, 0, 2)
    return np.cross(b - a, c - a)


@pytest.mark.parametrize("far", [0.05, 0.4, 1.0])
def test_a_point_goes_all_its_way_or_stays_and_no_triangle_turns(far):
    """Reference: the cosine between each triangle's normals before and after, by numpy."""
    wanted = BALL.vertices + np.random.default_rng(3).normal(0, far, BALL.vertices.shape)
    found = _without_turning(BALL.triangles, BALL.vertices, wanted)
    went, stayed = (np.all(found == there, axis=1) for there in (wanted, BALL.vertices))
    assert (went | stayed).all()
    before, after = normals(BALL.vertices), normals(found)
    along = (before * after).sum(axis=1) / np.linalg.norm(before, axis=1) / np.linalg.norm(after, axis=1)
    assert along.min() >= LEAST_TURN - 1e-12
    assert went.any() or far == 1.0
    assert stayed.any() or far == 0.05


def test_what_turns_nothing_goes_all_its_way():
    wanted = BALL.vertices * [1.1, 0.9, 1.0]
    assert np.array_equal(_without_turning(BALL.triangles, BALL.vertices, wanted), wanted)
