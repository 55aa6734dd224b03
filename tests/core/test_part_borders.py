"""Where parts meet on a surface that is built anew, by a change or in a soft list: a clean line, where it belongs."""

from __future__ import annotations

import numpy as np
import pytest

from noble_clay.core.evaluate.result import Result
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.topology import Topology
from tests.building import box, evaluated, join, part

CHANGES = {
    "round": {"kind": "round", "radius": 2},
    "grow": {"kind": "grow", "by": 1.5},
    "shrink": {"kind": "grow", "by": -1.5},
    "resurface": {"kind": "resurface", "resolution": 1.5},
}

AROUND = {"round": 100 - 16 + 4 * np.pi, "grow": 112, "shrink": 88, "resurface": 100}
"""mm around a block of 30 by 20 across, by each change."""

HALVES = [box("a", (-10, 0, 0), (20, 30, 20)), box("b", (10, 0, 0), (20, 30, 20))]
STRIPE = [box("a", (-11, 0, 0), (20, 30, 20)), box("b", (11, 0, 0), (20, 30, 20)), box("c", (0, 0, 0), (2, 30, 20))]
BALL = [part("a", "sphere", radius=20), part("c", "torus", ring_radius=19, tube_radius=4)]


def lines_between(result: Result) -> np.ndarray:
    """(k, 2, 3) edges of the surface between triangles of two parts."""
    topology = Topology(result.mesh)
    pairs = topology.pairs[0]
    two = result.part_of[pairs // 3]
    edges = topology.edges[topology.edge_of_half[pairs[:, 0]]]
    return result.mesh.vertices[edges[two[:, 0] != two[:, 1]]]


def length(lines: np.ndarray) -> float:
    return float(np.linalg.norm(lines[:, 0] - lines[:, 1], axis=1).sum())


@pytest.mark.parametrize("change", CHANGES)
@pytest.mark.parametrize("turn", [(0, 0, 0), (20, 30, 40)])
def test_two_halves_of_a_block_meet_in_the_plane_between_them(change, turn):
    whole = join("j", *HALVES, changes=[CHANGES[change]], place={"rotation": turn})
    result = evaluated(whole)
    upright = evaluated(join("j", *HALVES, changes=[CHANGES[change]]))
    assert result.inspection.sound
    lines = lines_between(upright)
    assert np.abs(lines[..., 0]).max() < 0.08
    assert length(lines) == pytest.approx(AROUND[change], rel=0.005)
    assert length(lines_between(result)) == pytest.approx(length(lines), rel=0.005)


@pytest.mark.parametrize("change", CHANGES)
def test_a_stripe_narrower_than_the_triangles_beside_it_keeps_its_width(change):
    result = evaluated(join("j", *STRIPE, changes=[CHANGES[change]]))
    x = np.abs(lines_between(result)[..., 0])
    assert x.min() == pytest.approx(1, abs=0.08)
    assert x.max() == pytest.approx(1, abs=0.08)
    share = areas(result.mesh)[result.part_of == result.part_ids.index("c")].sum()
    assert share == pytest.approx(2 * AROUND[change], rel=0.05)


def test_a_round_inlay_in_a_flat_face_stays_round():
    inlay = part("b", "cylinder", radius=8, height=6)
    plate = [box("a", (0, 0, 0), (40, 40, 6)), part("hole", "cylinder", op="difference", radius=8, height=6), inlay]
    result = evaluated(join("j", *plate, changes=[{"kind": "grow", "by": 1}]))
    lines = lines_between(result)
    assert np.abs(np.hypot(lines[..., 0], lines[..., 1]) - 8).max() < 0.1
    assert np.unique(np.abs(lines[..., 2]).round(6)).tolist() == [4]
    assert length(lines) == pytest.approx(2 * 2 * np.pi * 8, rel=0.01)


@pytest.mark.parametrize("change", ["grow", "shrink", "round"])
def test_off_a_seam_the_line_runs_where_both_parts_are_alike(change):
    """To all that lies off the edge between two parts that edge is nearest: they share it in two, and not in shreds."""
    result = evaluated(join("j", *BALL, changes=[CHANGES[change]]))
    assert result.inspection.sound
    # Two rings of the ball's width, and a little more where the ring stands out of it.
    assert length(lines_between(result)) == pytest.approx(4 * np.pi * 19.7, rel=0.09)


@pytest.mark.parametrize("blend", [4, 8])
def test_a_nested_join_keeps_a_clean_line_where_it_runs_into_another_part(blend):
    inner = join("k", *BALL)
    arm = part("arm", "capsule", (15, 0, 4), (0, 60, 0), radius=7, length=50)
    both = join("j", inner, arm)
    both["join"]["blend"] = blend
    result = evaluated(both)
    assert result.inspection.sound
    lines = lines_between(result)
    ways = lines[:, 1] - lines[:, 0]
    # On the ring's seams, which are circles around z, lines hardly rise where the arm begins: a line in steps would.
    middle = lines.mean(axis=1)
    here = (np.abs(np.abs(middle[:, 2]) - 3.4) < 1.2) & (np.hypot(middle[:, 0] - 15, middle[:, 1]) < 14)
    rise = np.abs(ways[here, 2]).sum() / np.linalg.norm(ways[here], axis=1).sum()
    assert here.sum() > 50
    assert rise < 0.25
