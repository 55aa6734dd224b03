"""Faces meant to meet do, whatever binary fractions make of it; contact in an edge or point is told."""

import math

import numpy as np
import pytest

from noble_clay.core.mesh.affine import rotation
from tests.building import box, evaluated, join, part


def row(length, count=20, turn=(0, 0, 0)):
    step = rotation(turn) @ [length, 0, 0]
    copies = {"kind": "row", "count": count, "step": step.tolist()}
    return evaluated(part("a", "box", None, turn, size=[length] * 3, _copies=copies)).inspection


@pytest.mark.parametrize("turn", [(0, 0, 0), (0, 0, 30), (17, 0, 0), (11, 22, 33), (0, 45, 0)])
@pytest.mark.parametrize("length", [0.1, 1 / 3, 3.7, 10.1])
def test_a_row_stepped_by_exactly_its_size_is_one_body(length, turn):
    found = row(length, turn=turn)
    assert (found.bodies, found.voids, found.genus, found.manifold) == (1, 0, 0, True)
    assert found.volume == pytest.approx(20 * length**3, rel=1e-9)


@pytest.mark.parametrize("turn", [(0, 0, 30), (0, 0, 17.3), (30, 10, 33), (45, 0, 0)])
@pytest.mark.parametrize("length", [10, 3.7])
def test_a_small_face_on_a_slanted_large_one_is_one_body(length, turn):
    at = rotation(turn) @ [length * 0.75, 0.1, 0]
    found = evaluated(
        box("a", size=(length,) * 3, turn=turn), box("b", at, (length / 2, length / 3, length / 2), turn=turn)
    )
    assert (found.inspection.bodies, found.inspection.genus) == (1, 0)


@pytest.mark.parametrize("turn", [(0, 0, 0), (20, 10, 33)])
def test_a_cutter_flush_with_the_face_leaves_no_skin(turn):
    found = evaluated(
        box("a", size=(10, 10, 10), turn=turn), box("b", size=(4, 4, 10), turn=turn, op="difference")
    ).inspection
    assert (found.bodies, found.genus) == (1, 1)
    assert found.volume == pytest.approx(1000 - 160, rel=1e-6)


@pytest.mark.parametrize("turn", [(0, 0, 0), (20, 10, 33)])
def test_a_peg_in_a_hole_of_its_size_fills_it(turn):
    tube = part("a", "tube", (0.1, 0.2, 0.3), turn, radius=10, wall=4, height=10)
    peg = part("b", "cylinder", (0.1, 0.2, 0.3), turn, radius=6, height=10)
    found = evaluated(tube, peg).inspection
    assert (found.bodies, found.voids, found.genus) == (1, 0, 0)
    assert found.volume == pytest.approx(32 * math.sin(2 * math.pi / 64) * 1000, rel=1e-6)


def test_the_contact_distance():
    near, far = (evaluated(box("a"), box("b", (1 + gap, 0, 0))).inspection for gap in (0.9e-5, 2e-5))
    assert (near.bodies, far.bodies) == (1, 2)


def test_six_triangles_make_a_hexagon():
    wedge = part("a", "prism", (0, 10, 0), (0, 0, 180), sides=3, radius=10, height=5)
    found = evaluated({**wedge, "copies": {"kind": "ring", "count": 6, "axis": "z", "angle": 60}}).inspection
    assert (found.bodies, found.genus) == (1, 0)
    assert found.volume == pytest.approx(6 * 3 * math.sqrt(3) / 4 * 100 * 5, rel=1e-6)


@pytest.mark.parametrize("place", [{}, {"rotation": [10, 20, 30], "position": [0.1, 0.2, 0.3]}])
@pytest.mark.parametrize(
    ("at", "finding"), [((1, 1, 0), ("overshared_edges", 1)), ((1, 1, 1), ("pinched_vertices", 1))]
)
def test_contact_in_an_edge_or_a_corner_is_no_manifold_and_is_told(at, finding, place):
    found = evaluated(join("j", box("a"), box("b", at), place=place)).inspection
    assert not found.manifold
    assert found.bodies == 2
    assert finding in [(f.kind, f.count) for f in found.findings]


def test_warping_into_contact_keeps_origins():
    result = evaluated(box("a"), box("b", (1.000009, 0, 0)))
    assert set(result.part_ids) == {"a", "b"}
    assert np.bincount(result.part_of).min() > 0
