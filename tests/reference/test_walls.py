"""How thick walls are, against closed forms."""

import numpy as np
import pytest

from noble_clay.core.measure.walls import spread, thickness
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, evaluated, part

SHELLS = [
    # A ball of radius R with a hollow of radius r: R - r everywhere, less what the facets take. Common practice.
    pytest.param(
        [part("a", "sphere", radius=12, facets=96), part("b", "sphere", op="difference", radius=11.5, facets=96)],
        0.5,
        id="hollow ball",
    ),
    # A tube: outer less inner radius on its walls.
    pytest.param(
        [
            part("a", "cylinder", radius=10, height=20, facets=128),
            part("b", "cylinder", op="difference", radius=9.2, height=30, facets=128),
        ],
        0.8,
        id="tube",
    ),
    # A box hollowed to a wall: that wall.
    pytest.param([box("a", size=(30, 20, 10)), box("b", size=(29, 19, 9), op="difference")], 0.5, id="hollow box"),
]


@pytest.mark.parametrize(("parts", "wall"), SHELLS)
def test_the_wall_of_a_shell(parts, wall):
    mesh = evaluated(*parts).mesh
    samples = spread(mesh, 1.0, 100_000)
    thick, _ = thickness(mesh, samples, 2 * wall)
    walls = np.isfinite(thick)
    assert samples.area[walls].sum() > 0.85 * samples.area.sum(), "nearly all of it is wall"
    np.testing.assert_allclose(np.average(thick[walls], weights=samples.area[walls]), wall, rtol=0.03)


def test_the_chord_of_a_ball_is_twice_its_radius():
    """Straight inward from a ball's skin is through its middle."""
    mesh = evaluated(part("a", "sphere", radius=10, facets=128)).mesh
    thick, _ = thickness(mesh, spread(mesh, 1.0, 20_000), 25)
    np.testing.assert_allclose(thick, 20, rtol=2e-3)


def test_samples_stand_for_the_whole_skin_evenly():
    """Each part of a skin has as many samples as its share of the area (common practice for quasirandom points)."""
    corners = np.array([[0.0, 0, 0], [40, 0, 0], [0, 30, 0]])
    samples = spread(Mesh(corners, np.array([[0, 1, 2]])), 0.5, 100_000)
    assert samples.area.sum() == pytest.approx(600)
    # The triangle's third nearest a corner, in barycentric measure, is a ninth of it.
    for corner, across in ((0, None), (1, 0), (2, 1)):
        share = (
            1 - samples.points[:, 0] / 40 - samples.points[:, 1] / 30
            if across is None
            else samples.points[:, across] / (40, 30)[across]
        )
        assert np.mean(share > 2 / 3) == pytest.approx(1 / 9, rel=0.05), f"corner {corner}"
