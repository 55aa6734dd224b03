"""What rounding leaves where faces meet at a hair's angle is made one point; nothing else moves."""

import math

import numpy as np
import pytest

from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.draw_together import drawn_together
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.primitives.drafted import leaning
from noble_clay.core.primitives.limb import Limb
from tests.damage import primitive, together

BALL = primitive("sphere", radius=10, facets=48)


def with_sliver(at, out):
    """The ball with a corner cut into two, `out` (3,) mm apart."""
    rim = np.flatnonzero((BALL.triangles == at).any(axis=1))
    twin = len(BALL.vertices)
    following = {int(a): int(b) for _, a, b in (np.roll(t, -list(t).index(at)) for t in BALL.triangles[rim])}
    ring = [next(iter(following))]
    while following[ring[-1]] != ring[0]:
        ring.append(following[ring[-1]])
    half = len(ring) // 2
    fan = [[at, a, b] for a, b in zip(ring[:half], ring[1 : half + 1], strict=True)]
    fan += [[twin, a, b] for a, b in zip(ring[half:], [*ring[half + 1 :], ring[0]], strict=True)]
    fan += [[at, ring[half], twin], [twin, ring[0], at]]
    vertices = np.vstack([BALL.vertices, BALL.vertices[at] + out])
    return Mesh(vertices, np.concatenate([np.delete(BALL.triangles, rim, axis=0), fan]))


@pytest.mark.parametrize("size", [2e-4, 0.002, 0.01])
def test_slivers_become_corners_again(size):
    rng, crossed = np.random.default_rng(1), 0
    for _ in range(200):
        mesh = with_sliver(300, size * rng.normal(size=3))
        if len(crossing_pairs(mesh)) == 0:
            continue
        crossed += 1
        found = drawn_together(mesh)
        assert inspect_mesh(found).sound
        assert (len(found.vertices), len(found.triangles)) == (len(BALL.vertices), len(BALL.triangles))
        np.testing.assert_array_equal(found.vertices, BALL.vertices)
    assert crossed > 0


def test_what_crosses_nowhere_is_the_very_same():
    assert drawn_together(BALL) is BALL


def test_two_balls_in_each_other_are_no_sliver():
    both = together(BALL, Mesh(BALL.vertices + [9.0, 1.0, 2.0], BALL.triangles))
    assert drawn_together(both) is both


@pytest.mark.parametrize("smooth", [False, True])
@pytest.mark.parametrize("seed", range(3))
def test_limbs_of_every_thickness_cross_themselves_nowhere(seed, smooth):
    rng = np.random.default_rng(seed)
    for _ in range(25):
        count = int(rng.integers(3, 8))
        limb = Limb(
            kind="limb",
            points=rng.uniform(-30, 30, (count, 3)).tolist(),
            radii=(10 ** rng.uniform(-1, 0.9, count)).tolist(),
            smooth=smooth,
            closed=bool(rng.integers(2)),
            facets=int(rng.integers(6, 40)),
        )
        mesh = limb.mesh()
        assert len(crossing_pairs(mesh)) == 0
        assert inspect_mesh(mesh).sound
        np.testing.assert_allclose(mesh.bounds, limb.bounds(), atol=1e-9)


def test_a_straight_limb_holds_what_its_balls_and_cones_hold():
    """Capsules' volumes: a chain of equal balls far apart on a line is one long capsule."""
    limb = Limb(kind="limb", points=[(0, 0, 0), (0, 0, 9), (0, 0, 21)], radii=[3, 3, 3], facets=96)
    assert volume(limb.mesh()) == pytest.approx(math.pi * 9 * 21 + 4 / 3 * math.pi * 27, rel=5e-3)


@pytest.mark.parametrize(("lean", "turn"), [(20, 139.6), (34, -141), (41, -296), (26, 700)])
def test_outlines_that_lean_far_out_and_twist_far_cross_themselves_nowhere(lean, turn):
    reach = np.array([36, 4, 3, 3, 3, 3, 3, 6, 3, 3.0])
    angles = 2 * math.pi * np.arange(len(reach)) / len(reach)
    ring = reach[:, None] * np.column_stack([np.cos(angles), np.sin(angles)])
    mesh = leaning([ring], 17, -17 * math.tan(math.radians(lean)), math.radians(turn))
    assert inspect_mesh(mesh).sound
    straight = leaning([ring], 17, -17 * math.tan(math.radians(lean)))
    assert volume(mesh) == pytest.approx(volume(straight), rel=1e-2), "turning level by level changes no volume"
