"""The field of a list: what a ball that rolls between the parts leaves, and where it changes nothing."""

import numpy as np
import pytest

from noble_clay.core.field import forms
from noble_clay.core.field.fold import Fold, Placed, Step
from noble_clay.core.field.marching_cubes import EDGES, ON_FACES, table

CELL = 0.4


def at(*position):
    return np.column_stack([np.eye(3), position])


def block(size, *position):
    return Placed(forms.box(size), at(*position))


def field(points, *steps):
    values, gradients, margins = Fold(list(steps), CELL).at(np.array(points, dtype=float))
    assert np.linalg.norm(gradients, axis=1) == pytest.approx(1)
    return values, margins


def union(radius, *forms_):
    return Step("union", radius, forms_)


FLOOR, WALL = block((60, 60, 20), 0, 0, -10), block((20, 60, 60), -10, 0, 0)


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
def test_a_right_angle_gets_a_fillet_of_exactly_the_radius(share):
    angle = np.radians(180 + 90 * share)
    point = [3 + 3 * np.cos(angle), 2, 3 + 3 * np.sin(angle)]
    values, margins = field([point], union(0, FLOOR), union(3, WALL))
    assert values == pytest.approx(0, abs=1e-9)
    assert margins < 0


@pytest.mark.parametrize("degrees", [100, 120, 150])
def test_an_obtuse_angle_gets_a_fillet_of_the_radius(degrees):
    """A plane through the origin, turned by so many degrees from the floor: geometry says where the ball stands."""
    turn = np.radians(180 - degrees)
    slope = np.array([[np.cos(turn), 0, np.sin(turn)], [0, 1, 0], [-np.sin(turn), 0, np.cos(turn)]])
    leaning = Placed(forms.box((100, 60, 20)), np.column_stack([slope, slope @ [-50, 0, -10]]))
    up, along = np.array([0.0, 0, 1]), slope @ [0.0, 0, 1]
    middle = 2 * (up + along) / (1 + up @ along)  # at 2 mm from both planes
    lowest = middle - 2 * (up + along) / np.linalg.norm(up + along)
    values, _ = field([lowest, middle - 2 * up, middle - 2 * along], union(0, FLOOR), union(2, leaning))
    assert values == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("off", [-0.3, 0.0, 0.3])
def test_flush_faces_stay_flat(off):
    heights = np.linspace(-15, 15, 61)
    points = np.column_stack([np.full_like(heights, 10 + off), np.full_like(heights, 2), heights])
    flush = union(0, block((20, 20, 20), 0, 0, -10)), union(4, block((20, 20, 20), 0, 0, 10))
    values, _ = field(points, *flush)
    if off < 0:
        assert values.max() < 0
    else:
        assert values == pytest.approx(off, abs=1e-3)


def test_a_part_that_stands_there_twice_changes_nothing():
    points = np.random.default_rng(0).uniform(-14, 14, (500, 3))
    ball = Placed(forms.sphere(9, 0), at(1, 2, 3))
    once, _ = field(points, union(0, ball))
    twice, _ = field(points, union(0, ball), union(3, ball))
    assert twice == pytest.approx(once, abs=1e-6)


@pytest.mark.parametrize("op", ["union", "difference", "intersection"])
def test_further_than_the_radius_from_the_other_part_nothing_changes(op):
    points = np.random.default_rng(1).uniform(-16, 16, (4000, 3))
    body, tool = block((20, 20, 20), 0, 0, 0), Placed(forms.sphere(8, 0), at(9, 4, 6))
    soft, margins = field(points, union(0, body), Step(op, 2.5, (tool,)))
    sharp, _ = field(points, union(0, body), Step(op, 0, (tool,)))
    beyond = margins > 0
    assert beyond.sum() > 300
    assert soft[beyond] == pytest.approx(sharp[beyond], abs=1e-12)
    # Rounding fills the seam of a union, and takes the edge off what is cut.
    assert (soft <= sharp + 1e-9).all() if op == "union" else (soft >= sharp - 1e-9).all()
    assert np.abs(soft - sharp).max() > 0.3


@pytest.mark.parametrize(("gap", "bridged"), [(0.5, True), (0.57, True), (0.6, False), (0.9, False)])
def test_parts_bridge_where_they_are_nearer_than_the_docs_say(gap, bridged):
    """(2 - sqrt 2) r, 0.586 of the radius."""
    two = union(0, block((10, 10, 10), -5, 0, 0)), union(4, block((10, 10, 10), 5 + 4 * gap, 0, 0))
    values, _ = field([[2 * gap, 0, 0]], *two)
    assert (values[0] < 0) == bridged


def test_a_radius_of_its_own_and_a_sharp_one():
    steps = union(0, FLOOR), union(0, WALL)
    sharp, _ = field([[0.5, 0, 0.5]], *steps)
    assert sharp == pytest.approx(0.5)
    soft, _ = field([[0.5, 0, 0.5]], steps[0], union(2, WALL))
    assert soft[0] < 0


def test_the_table_of_cells_closes_and_keeps_out_of_faces():
    every = table()
    counts = (every.lines >= 0).sum(axis=1)
    assert counts[0] == counts[255] == 0 and counts.max() == 5
    for inside in range(256):
        total = every.sizes[inside].sum()
        assert counts[inside] == total - 2 * (every.sizes[inside] > 0).sum()
        found = every.edges[inside][every.fills[inside, : counts[inside]]]
        cut = {i for i, (a, b) in enumerate(EDGES) if (inside >> a & 1) != (inside >> b & 1)}
        assert set(found.reshape(-1)) == cut
        ways = {(int(a), int(b)) for t in found for a, b in ((t[0], t[1]), (t[1], t[2]), (t[2], t[0]))}
        assert len(ways) == 3 * len(found), "no edge runs one way twice"
        for a, b in ways:
            # Within the cell an edge is shared; on its face it is one side of a line that the neighbour has too.
            assert ((b, a) in ways) != any(a in face and b in face for face in ON_FACES)
