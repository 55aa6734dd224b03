"""What becomes of several bodies: united where they run into each other, bridged, or all but the largest dropped."""

import numpy as np
import pytest

from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.mend.bodies import BRIDGE_MM, bridge, keep_largest
from noble_clay.core.mend.unite import kernel_solid, unite
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from tests.building import evaluated, part
from tests.damage import primitive, together, without

BALL = primitive("sphere", radius=10, facets=32)


def ball(at, radius=10.0):
    return primitive("sphere", at, radius=radius, facets=32)


def inward(mesh):
    return Mesh(mesh.vertices, mesh.triangles[:, ::-1])


def hollow(at, radius, room):
    return together(ball(at, radius), inward(ball(at, room)))


@pytest.mark.parametrize(
    "rest",
    [
        [ball((30, 0, 0), 5)],
        [ball((30, 0, 0), 9), ball((-40, 0, 0), 2)],
        [hollow((30, 0, 0), 8, 4)],
    ],
)
@pytest.mark.parametrize("first", [True, False])
def test_the_largest_body_is_kept_with_its_hollow(rest, first):
    own = hollow((0, 0, 0), 10, 6)
    found, done = keep_largest(together(own, *rest) if first else together(*rest, own))
    assert inspect_mesh(found).bodies == 1
    assert inspect_mesh(found).voids == 1
    assert inspect_mesh(found).volume == pytest.approx(inspect_mesh(own).volume)
    assert done.count == sum(inspect_mesh(m).bodies + inspect_mesh(m).voids for m in rest)


def test_one_body_is_its_own_largest():
    found, done = keep_largest(hollow((0, 0, 0), 10, 6))
    assert done.count == 0
    assert inspect_mesh(found).voids == 1
    assert bridge(BALL)[1].count == 0


@pytest.mark.parametrize("others", [1, 2, 4])
@pytest.mark.parametrize("radius", [None, 0.4])
def test_every_other_body_is_tied_to_the_largest(others, radius):
    turn = np.arange(others) * 2 * np.pi / others
    rest = [ball((20 * np.cos(t), 20 * np.sin(t), 0), 4) for t in turn]
    mesh = together(BALL, *rest)
    found, done = bridge(mesh, radius)
    seen = inspect_mesh(found)
    assert (done.count, seen.bodies, seen.manifold) == (others, 1, True)
    assert done.more["radius_mm"] == (radius or min(BRIDGE_MM, 0.02 * np.linalg.norm(np.ptp(mesh.vertices, axis=0))))
    added = seen.volume - inspect_mesh(mesh).volume
    gap = 20 - 10 - 4
    rod = np.pi * done.more["radius_mm"] ** 2 * gap
    assert 0.8 * others * rod < added < 2.0 * others * rod, "a rod over the gap, rounded into both ends"


def test_a_mesh_that_is_no_solid_is_not_bridged():
    open_ones = together(without(BALL, [5]), ball((30, 0, 0), 4))
    same, done = bridge(open_ones)
    assert (same is open_ones, done.count) == (True, 0)


def test_a_chain_of_bodies_becomes_one_and_what_stands_apart_stays():
    chain = [ball((14 * i, 0, 0)) for i in range(4)]
    apart = ball((0, 60, 0), 7)
    found, done = unite(together(*chain, apart))
    assert (done.count, done.more["bodies"]) == (4, 1)
    assert inspect_mesh(found).bodies == 2
    kernel = evaluated(*(part(f"p{i}", "sphere", (14 * i, 0, 0), radius=10, facets=32) for i in range(4)))
    assert inspect_mesh(found).volume == pytest.approx(kernel.inspection.volume + inspect_mesh(apart).volume, rel=1e-9)
    assert np.array_equal(found.vertices[: len(apart.vertices)], apart.vertices), "what stands apart is as it was"


def test_two_clusters_are_two_bodies():
    found, done = unite(together(BALL, ball((14, 0, 0)), ball((0, 80, 0)), ball((14, 80, 0))))
    assert (done.count, done.more["bodies"]) == (4, 2)
    assert inspect_mesh(found).bodies == 2


def test_a_hollow_that_the_other_body_fills_is_filled():
    """A ball with a hollow, and a post that comes into the hollow: their union has the rest of the hollow."""
    post = primitive("cylinder", (0, 0, 6), radius=2, height=12, facets=24)
    shell = hollow((0, 0, 0), 10, 5)
    found, done = unite(together(shell, post))
    kernel = evaluated(
        part("a", "sphere", radius=10, facets=32),
        part("b", "sphere", op="difference", radius=5, facets=32),
        part("c", "cylinder", (0, 0, 6), radius=2, height=12, facets=24),
    )
    assert done.count == 3
    assert (inspect_mesh(found).bodies, inspect_mesh(found).voids) == (1, 1)
    assert inspect_mesh(found).volume == pytest.approx(kernel.inspection.volume, rel=1e-9)


def test_an_open_body_keeps_its_cluster_from_being_united():
    broken = together(without(BALL, [7]), ball((14, 0, 0)), ball((0, 80, 0)), ball((14, 80, 0)))
    found, done = unite(broken)
    assert (done.count, done.more["bodies"]) == (2, 1), "only the cluster that is whole"
    assert inspect_mesh(found).findings, "and the other is as it was"


def test_the_kernel_takes_solids_and_nothing_else():
    solid = kernel_solid(BALL)
    assert inspect_mesh(mesh_of(solid)).volume == pytest.approx(inspect_mesh(BALL).volume)
    assert kernel_solid(without(BALL, [3])) is None
