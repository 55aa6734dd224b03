"""Outlines given a height, and sections carried along paths: closed, outward, of the volume that a formula gives."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.half_edges import unpaired
from noble_clay.core.mesh.mass import volume
from noble_clay.core.primitives.base import circle
from noble_clay.core.primitives.flat import extruded, signed_area
from noble_clay.core.primitives.swept import frames_along, swept
from tests.examples import examples

SQUARE = np.array([[-1.0, -1], [1, -1], [1, 1], [-1, 1]])


def closed_volume(mesh):
    """Of a mesh that is closed and that the kernel takes."""
    assert not unpaired(mesh.triangles, len(mesh.vertices)).any()
    Solid.from_mesh(mesh, "it")
    return volume(mesh)


@pytest.mark.parametrize("turn", [1, -1])
def test_holes_and_islands_in_any_direction(turn):
    rings = [SQUARE * 10, (SQUARE * 6)[::turn], SQUARE[::-turn] * 2, SQUARE + [30, 0]]
    mesh = extruded(rings, -1.0, 2.0)
    assert closed_volume(mesh) == pytest.approx(3 * (400 - 144 + 16 + 4))
    assert len(mesh.vertices) == 2 * 16


def test_points_in_a_straight_line_stay():
    ring = np.array([[0.0, 0], [1, 0], [2, 0], [3, 0], [3, 3], [1.5, 3], [0, 3]])
    mesh = extruded([ring], 0.0, 1.0)
    assert closed_volume(mesh) == pytest.approx(9)
    assert len(mesh.vertices) == 14


@examples(60)
@given(st.integers(0, 10_000), st.integers(3, 60), st.integers(0, 4))
def test_any_outline_with_holes_is_closed_and_as_large_as_its_rings(seed, corners, holes):
    rng = np.random.default_rng(seed)

    def blob(middle, reach):
        ring = circle(corners) * (reach * rng.uniform(0.35, 1, corners))[:, None] + middle
        return ring[:: rng.choice([1, -1])]

    rings = [circle(corners) * 40 / np.cos(np.pi / corners), *(blob((12 * k - 18, 0), 5) for k in range(holes))]
    mesh = extruded(rings, 0.0, 2.5)
    expected = abs(signed_area(rings[0])) - sum(abs(signed_area(r)) for r in rings[1:])
    assert closed_volume(mesh) == pytest.approx(2.5 * expected)


@pytest.mark.parametrize(
    ("rings", "words"),
    [
        ([np.array([[0.0, 0], [4, 4], [4, 0], [0, 4], [-1, 2]])], "crosses itself"),
        ([np.array([[0.0, 0], [1, 0], [2, 0]])], "encloses nothing"),
        ([SQUARE[:2]], "encloses nothing"),
    ],
)
def test_what_cannot_be_an_outline_is_refused(rings, words):
    with pytest.raises(ValueError, match=words):
        extruded(rings, 0.0, 1.0)


def test_a_straight_path_makes_a_prism_and_scales_a_frustum():
    path = np.array([[0.0, 0, 0], [0, 0, 4], [0, 0, 9]])
    assert closed_volume(swept(SQUARE, path)) == pytest.approx(36)
    halved = swept(SQUARE[::-1], path[[0, 2]], np.array([1.0, 0.5]))
    assert closed_volume(halved) == pytest.approx(9 / 3 * (4 + 1 + 2))


@pytest.mark.parametrize("tilt", [0.0, 0.3, 1.2])
def test_a_closed_path_has_the_volume_of_pappus(tilt):
    around = circle(240) * 30
    turn = np.array([[1, 0, 0], [0, np.cos(tilt), -np.sin(tilt)], [0, np.sin(tilt), np.cos(tilt)]])
    path = np.column_stack([around, np.zeros(240)]) @ turn.T
    mesh = swept(circle(24) * 2, path, closed=True)
    assert closed_volume(mesh) == pytest.approx(signed_area(circle(24) * 2) * 2 * np.pi * 30, rel=2e-3)


def test_frames_turn_no_more_than_they_must_and_a_closed_one_meets_itself():
    t = np.linspace(0, 4 * np.pi, 400, endpoint=False)
    knot = np.column_stack([np.sin(t / 2) * 20, np.sin(t) * 12, np.cos(3 * t / 2) * 6])
    for closed in (False, True):
        across, up = frames_along(knot, closed)
        assert np.abs(np.einsum("ij,ij->i", across, up)).max() < 1e-9
        steps = np.einsum("ij,ij->i", across, np.roll(across, -1, axis=0))
        assert (steps if closed else steps[:-1]).min() > np.cos(np.radians(12)), "no sudden turn, nor at the seam"
    flat = np.column_stack([np.linspace(0, 50, 30), np.sin(np.linspace(0, 6, 30)) * 5, np.zeros(30)])
    _, up = frames_along(flat)
    assert np.abs(np.abs(up[:, 2]) - 1).max() < 1e-9, "in a plane the frame stays in it"


@pytest.mark.parametrize(("points", "closed"), [(1, False), (2, True)])
def test_too_short_a_path_is_refused(points, closed):
    with pytest.raises(ValueError, match="at least 2 points"):
        swept(SQUARE, np.zeros((points, 3)), closed=closed)
