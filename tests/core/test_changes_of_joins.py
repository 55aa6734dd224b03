"""Shape changes of what joins leave: long thin triangles at any angle, where smoothing folds, slices crumble."""

import numpy as np
import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.long_edges import without_long_edges
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.topology import Topology
from tests.building import box, evaluated, join, part, piece
from tests.drawn import drawn_join

SEEDS = range(10)


def changed(part_values, **change):
    return Evaluator().evaluate(piece({**part_values, "changes": [change]}))


def flaws(result):
    return {f.kind: f.count for f in result.inspection.findings if f.kind != "loose_bodies"}


@pytest.mark.parametrize("seed", SEEDS)
def test_a_join_at_any_angle_stays_sound_when_it_is_twisted_or_polished(seed):
    drawn = drawn_join(seed)
    before = evaluated(drawn)
    if before.solid.empty or flaws(before):
        pytest.skip("this one is nothing, or touches itself, to begin with")
    for change in ({"kind": "twist", "angle": 90}, {"kind": "polish", "rounds": 8}):
        after = changed(drawn, **change)
        assert flaws(after) == {}
        assert after.solid.volume == pytest.approx(before.solid.volume, rel=0.03)


def test_as_many_slices_as_there_may_be_make_no_more_triangles_than_they_take():
    """Cut plane after plane, each cut went through what the one before had left: 256 slices made millions."""
    bar = part("bar", "box", size=(10, 10, 40))
    after = changed(bar, kind="twist", angle=90, slices=256)
    assert len(after.mesh.triangles) < 12 * 4 * 2 * 257
    assert flaws(after) == {}
    assert after.solid.volume == pytest.approx(4000, rel=1e-3)


def test_polishing_leaves_a_flat_face_flat_however_it_is_cut_up():
    """A hole in it makes long thin triangles; their corners stay in the plane, away from the edges."""
    plate = join("plate", box("a", size=(30, 30, 10)), part("b", "cylinder", radius=0.5, height=30, op="difference"))
    points = changed(plate, kind="polish", rounds=8).mesh.vertices
    top = points[(np.abs(points[:, :2]).max(axis=1) < 10) & (np.hypot(points[:, 0], points[:, 1]) > 5)]
    height = np.abs(top[np.abs(top[:, 2]) > 4][:, 2])
    assert len(height) > 100
    assert np.ptp(height) < 0.02


@pytest.mark.parametrize("strength", [0.5, 0.7, 0.9])
def test_polishing_at_any_strength_ends_within_the_part_it_began_with(strength):
    """A low cone's triangles are so thin that each corner has but one neighbour that counts: it swung to and fro, each
    time further, and the disc was 68 mm wide in the end.
    """
    cone = part("cone", "cone", bottom_radius=10, top_radius=0, height=0.5, facets=96)
    before = evaluated(cone).solid
    after = changed(cone, kind="polish", rounds=60, strength=strength)
    low, high = before.bounds
    assert (after.solid.bounds[0] > low - 0.1).all()
    assert (after.solid.bounds[1] < high + 0.1).all()
    assert after.solid.volume == pytest.approx(before.volume, rel=0.01)


def test_growing_leaves_no_crossing_where_sheets_of_the_lattice_meet():
    """Star and tube at an angle: simplified, two triangles of what a lattice gave ran through each other."""
    star = part("a", "star", (2.9, 3.2, 0.3), (15, 45, 30), points=5, radius=7, inner_radius=3, height=6)
    tube = part("b", "tube", (-1.3, -0.4, -2), (90, 15, 45), radius=6, wall=2, height=5, facets=20)
    for by in (0.5, -0.5):
        result = changed(join("j", star, tube), kind="grow", by=by)
        assert len(crossing_pairs(result.mesh)) == 0
        assert flaws(result) == {}


def least_angle(mesh):
    """Radians, of all corners of all triangles."""
    one = np.roll(mesh.corners, -1, axis=1) - mesh.corners
    other = np.roll(mesh.corners, 1, axis=1) - mesh.corners
    across = np.linalg.norm(np.cross(one, other), axis=2)
    return np.arctan2(across, np.einsum("ijk,ijk->ij", one, other)).min()


def test_long_edges_are_halved_and_the_surface_stays():
    slab = hexahedron((40, 1, 3))
    fine, origin = without_long_edges(slab, 1.2)
    ends = fine.vertices[Topology(fine).edges]
    assert np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1).max() <= 1.2
    assert Topology(fine).is_manifold
    assert volume(fine) == pytest.approx(120, rel=1e-12)
    assert least_angle(fine) > 0.49 * least_angle(slab), "Rivara's bound is half of what it was"
    for triangle in range(len(slab.triangles)):
        own = fine.corners[origin == triangle]
        area = np.linalg.norm(np.cross(own[:, 1] - own[:, 0], own[:, 2] - own[:, 0]), axis=1).sum()
        a, b, c = slab.corners[triangle]
        assert area == pytest.approx(np.linalg.norm(np.cross(b - a, c - a)), rel=1e-9)
    same, _ = without_long_edges(slab, 100)
    assert same is slab
