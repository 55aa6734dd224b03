"""Points to measure from: caught by corners, edges and middles, with the radius and thickness of what is there."""

import numpy as np
import pytest

from noble_clay.core.measure.spots import sharp_edges, spot_at
from tests.building import box, evaluated, part


def spot(parts, eye, direction, reach=0.5):
    solid = evaluated(*parts).solid
    way = np.array(direction, dtype=float)
    return spot_at(solid, sharp_edges(solid.mesh_only()), np.array(eye, dtype=float), way / np.linalg.norm(way), reach)


BOX = [box("a", (100, 7, 0), size=(10, 20, 30))]


@pytest.mark.parametrize(
    ("x", "y", "kind", "point"),
    [
        (95.2, -2.8, "corner", (95, -3, 15)),
        (100.3, -2.9, "middle", (100, -3, 15)),
        (97.0, -2.7, "edge", (97, -3, 15)),
        (100.2, 7.1, "middle", (100, 7, 15)),
        (102.5, 10.0, "surface", (102.5, 10, 15)),
    ],
)
def test_a_box_from_above(x, y, kind, point):
    found = spot(BOX, (x, y, 90), (0, 0, -1))
    assert found.kind == kind
    np.testing.assert_allclose(found.point, point, atol=1e-9)
    assert found.thickness == pytest.approx(30, abs=1e-9) and found.radius is None
    np.testing.assert_allclose(found.normal, (0, 0, 1), atol=1e-12)


@pytest.mark.parametrize(
    ("x", "z", "kind", "point"),
    [(94.9, 15.2, "corner", (95, -3, 15)), (97.0, 15.3, "edge", (97, -3, 15)), (100.1, 15.1, "middle", (100, -3, 15))],
)
def test_a_ray_that_just_misses_is_caught_by_the_rim(x, z, kind, point):
    found = spot(BOX, (x, -90, z), (0, 1, 0))
    assert found.kind == kind and found.thickness is None
    assert np.linalg.norm(found.point[[0, 2]] - np.array(point)[[0, 2]]) < 1e-9
    assert spot(BOX, (x, -90, z + 1), (0, 1, 0)) is None


def test_beyond_reach_nothing_is_caught_and_a_miss_is_none():
    assert spot(BOX, (95.2, -2.8, 90), (0, 0, -1), reach=0.1).kind == "surface"
    assert spot(BOX, (0, 0, 90), (0, 0, -1)) is None


@pytest.mark.parametrize("turn", [(0, 0, 0), (20, 40, 70)])
def test_radii_of_balls_and_cylinders_however_turned(turn):
    ball = spot([part("a", "sphere", (5, 5, 5), turn, radius=7)], (5.3, 4.2, 90), (0, 0, -1))
    assert ball.radius == pytest.approx(7, rel=1e-6)
    assert ball.thickness == pytest.approx(14, rel=0.02)
    tube = spot([part("a", "cylinder", turn=turn, radius=4, height=40)], (0.4, 0.3, 90), (0, 0, -1), reach=0.01)
    if turn == (0, 0, 0):
        assert tube.radius is None, "its lid is flat"
    else:
        assert tube.radius == pytest.approx(4, rel=1e-6)


def test_a_hole_has_its_radius_and_a_torus_has_none():
    pierced = [box("a", size=(20, 20, 10)), part("h", "cylinder", radius=3, height=40, op="difference")]
    hole = spot(pierced, (0, 0, 20), (3, 0.4, -20), reach=0.001)
    assert hole.radius == pytest.approx(3, rel=1e-6)
    assert hole.thickness == pytest.approx(7, rel=0.02)
    cut = [part("s", "sphere", (0, 0, 3), radius=9), part("c", "cylinder", (0, 0, 0), (90, 0, 0), radius=2, height=50)]
    joined = [
        *cut,
        box("b", (0, 0, -8), size=(30, 30, 10)),
        part("h", "cylinder", radius=1, height=60, op="difference"),
    ]
    assert spot(joined, (30, 20, 45), (-3, -2, -4.2), reach=0.001).radius == pytest.approx(9, rel=1e-5)
    assert spot(joined, (0.3, -20, 20), (0, 0, -1), reach=0.001).radius == pytest.approx(2, rel=1e-5)
    ring = spot([part("t", "torus", ring_radius=10, tube_radius=3)], (10, 0.2, 20), (0, 0, -1), reach=0.001)
    assert ring.radius is None
    cone = spot([part("c", "cone", bottom_radius=9, top_radius=7, height=4)], (20, 0.2, 0), (-1, 0, 0), reach=0.001)
    assert cone.radius is None, "though its rims lie on a ball"


def test_the_rim_of_a_cylinder_has_edges_but_no_corners():
    solid = evaluated(part("a", "cylinder", radius=4, height=10)).solid
    edges = sharp_edges(solid.mesh_only())
    assert len(edges.corners) == 0 and len(edges.ends) > 20
    assert len(sharp_edges(evaluated(box("b")).solid.mesh_only()).corners) == 8
    assert len(sharp_edges(evaluated(box("b")).solid.mesh_only()).ends) == 12
