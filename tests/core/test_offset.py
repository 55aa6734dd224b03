"""Surfaces at a distance from a mesh: what is left out in sampling changes nothing, and a tangle does no harm."""

import numpy as np
import pytest

from noble_clay.core.field.band import Band
from noble_clay.core.field.offset import offset_surface
from noble_clay.core.mesh.distance import MeshDistance
from tests.damage import kinked, primitive

RING = primitive("torus", ring_radius=8, tube_radius=3)
STAR = primitive("star", points=5, radius=10, inner_radius=4, height=5)
BALL = primitive("sphere", radius=5, facets=48)


@pytest.mark.parametrize("mesh", [RING, STAR, BALL], ids=["ring", "star", "ball"])
@pytest.mark.parametrize("by", [-0.9, 0.3, 1.7])
def test_what_is_not_asked_changes_nothing(mesh, by):
    cell, asked = 0.35, 0
    distance = MeshDistance(mesh)

    def counted(points):
        nonlocal asked
        asked += len(points)
        return distance(points)

    low, high = mesh.bounds
    band = Band.where([(distance, by, by)], low - 3, high + 3, cell)
    found, all_of_them = band.sampled(counted, by, cell), distance(band.points) - by
    one, other = band.surface(found), band.surface(all_of_them)
    assert np.allclose(one.vertices, other.vertices, rtol=0, atol=1e-9)
    assert np.array_equal(one.triangles, other.triangles)
    assert np.array_equal(found < 0, all_of_them < 0)
    assert asked < 0.8 * len(band.points)


@pytest.mark.parametrize("by", [-0.8, 0.8])
def test_beside_a_tangle_sides_are_told_by_the_winding_number(by):
    """A mesh that crosses itself in a few places has the offset of the sound one, but there."""
    tangled = kinked(BALL, np.random.default_rng(3))
    off = np.abs(np.linalg.norm(offset_surface(tangled, by, 0.3, self_intersecting=True).vertices, axis=1) - 5 - by)
    near = 2 * np.pi * 5 / 48
    assert np.mean(off < 0.05) > 0.9
    assert off.max() < near + 0.3
