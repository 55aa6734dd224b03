"""Surfaces at a distance from a mesh: what is left out in sampling changes nothing, and a tangle does no harm."""

import numpy as np
import pytest

from noble_clay.core.field.band import Band
from noble_clay.core.field.offset import offset_surface
from noble_clay.core.mesh.affine import rotation
from noble_clay.core.mesh.distance import MeshDistance
from tests.building import box, evaluated, join
from tests.damage import kinked, primitive
from tests.drawn import drawn_join

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


@pytest.mark.parametrize("seed", [242, 259])
def test_a_join_whose_rounded_creases_run_through_themselves_is_rounded(seed):
    """On the way, what is grown by twice the radius keeps sharp creases, which may cross where several meet."""
    drawn = drawn_join(seed)
    rounded, finer = (
        evaluated({**drawn, "changes": [{"kind": "round", "radius": 1, **more}]}) for more in ({}, {"fineness": 0.15})
    )
    assert rounded.inspection.manifold
    assert rounded.solid.volume == pytest.approx(finer.solid.volume, rel=0.02)


@pytest.mark.parametrize(("turn", "most"), [((0, 0, 0), 0.001), ((10, 25, 30), 0.1)])
def test_a_grown_join_keeps_the_crease_that_lies_in(turn, most):
    """Two walls at a right angle, grown: the line in which they met goes on as sharp, by as much farther out."""
    two = [box("a", (0, 0, 0), (20, 20, 4)), box("b", (-8, 0, 8), (4, 20, 20))]
    walls = join("j", join("k", *two, place={"rotation": turn}))
    mesh = evaluated({**walls, "changes": [{"kind": "grow", "by": 1, "fineness": 0.37}]}).mesh
    line = np.column_stack([np.full(50, -5.0), np.linspace(-9, 9, 50), np.full(50, 3.0)])
    off = MeshDistance(mesh).unsigned_distance(line @ rotation(turn).T)[0]
    assert off.max() < most
    assert off.mean() < most / 4
