"""How triangles hang together: edges, rims, shells, fans, and Euler's number of solids that everybody knows."""

import numpy as np
import pytest

from noble_clay.core.mend.weld import weld
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology, vertex_shells
from tests.building import evaluated, part
from tests.damage import primitive, together, without

BALL = primitive("sphere", radius=5, facets=16)
CUBE = primitive("box", size=[4, 4, 4])
RING = primitive("torus", ring_radius=9, tube_radius=2)


def cubes(at):
    return weld(together(CUBE, primitive("box", at, size=[4, 4, 4])), 1e-6)[0]


@pytest.mark.parametrize(
    ("mesh", "euler"),
    [
        (BALL, [2]),
        (CUBE, [2]),
        (RING, [0]),
        (together(BALL, RING), [2, 0]),
        (without(BALL, [40]), [1]),
        (cubes((4, 4, 4)), [2, 2]),  # they share a corner
        (cubes((4, 4, 0)), [2, 2]),  # they share an edge
    ],
)
def test_eulers_number(mesh, euler):
    assert Topology(mesh).euler.tolist() == euler


@pytest.mark.parametrize("holes", [1, 2, 5])
def test_every_hole_through_takes_two_from_eulers_number(holes):
    drilled = evaluated(
        part("a", "box", size=[60, 10, 10]),
        *(part(f"h{i}", "cylinder", (12 * i - 24, 0, 0), op="difference", radius=3, height=30) for i in range(holes)),
    ).mesh
    assert Topology(drilled).euler.tolist() == [2 - 2 * holes]


def test_a_closed_surface_has_one_edge_and_a_half_a_face_and_no_rim():
    topology = Topology(BALL)
    assert 2 * len(topology.edges) == 3 * len(BALL.triangles)
    assert set(topology.faces_per_edge.tolist()) == {2}
    assert len(topology.open_halves) == 0
    halves, agree = topology.pairs
    assert (len(halves), agree.all()) == (len(topology.edges), True)
    assert topology.closed_shells.tolist() == [True]


def test_a_rim_runs_along_the_faces_that_are_left():
    gone = 40
    topology = Topology(without(BALL, [gone]))
    a, b, c = BALL.triangles[gone].tolist()
    assert {tuple(e) for e in topology.open_half_edges.tolist()} == {(b, a), (c, b), (a, c)}
    for half, (start, end) in zip(topology.open_halves, topology.open_half_edges, strict=True):
        face = topology.mesh.triangles[half // 3]
        assert (face[half % 3], face[(half % 3 + 1) % 3]) == (start, end)


@pytest.mark.parametrize(
    ("at", "over", "pinched", "shells"), [((4, 4, 0), 1, 0, 2), ((4, 4, 4), 0, 1, 2), ((9, 0, 0), 0, 0, 2)]
)
def test_what_two_cubes_share(at, over, pinched, shells):
    topology = Topology(cubes(at))
    assert int(np.sum(topology.faces_per_edge > 2)) == over
    assert len(topology.pinched) == pinched
    assert topology.shells[0] == shells


def test_shells_are_told_by_edges_and_vertex_shells_by_points():
    corner = cubes((4, 4, 4))
    assert Topology(corner).shells[0] == 2
    assert vertex_shells(corner)[0] == 1
    number, shell = vertex_shells(together(BALL, RING, CUBE))
    assert number == 3
    assert np.bincount(shell).tolist() == [len(m.triangles) for m in (BALL, RING, CUBE)]
    assert vertex_shells(Mesh.empty())[0] == 0
    spare = Mesh(np.concatenate([np.zeros((7, 3)), CUBE.vertices]), CUBE.triangles + 7)
    assert vertex_shells(spare)[0] == 1, "points that nothing uses are no shells"


def test_a_fan_goes_around_every_vertex_of_a_closed_surface():
    fans, fan = Topology(BALL).fans
    assert fans == len(BALL.vertices)
    corner = BALL.triangles.reshape(-1)
    assert all(len(np.unique(corner[fan == i])) == 1 for i in range(fans))
    assert Topology(cubes((4, 4, 4))).fans[0] == 16, "eight corners each, the one in common twice"


def test_the_fewer_faces_are_the_turned_ones():
    some = np.zeros(len(BALL.triangles), dtype=bool)
    some[[3, 4, 90]] = True
    mesh = Mesh(BALL.vertices, np.where(some[:, None], BALL.triangles[:, ::-1], BALL.triangles))
    turned, one_sided = Topology(mesh).turned
    assert np.array_equal(turned, some)
    assert not one_sided.any()
    most = Mesh(BALL.vertices, np.where(some[:, None], BALL.triangles, BALL.triangles[:, ::-1]))
    assert np.array_equal(Topology(most).turned[0], some), "the whole body may be inside out, which is another flaw"


def test_a_band_with_half_a_turn_is_one_sided_and_a_plain_one_is_not():
    def band(halfturn):
        n = 18
        a, b = np.arange(n), np.arange(n) + n
        c, d = np.roll(a, -1).copy(), np.roll(b, -1).copy()
        if halfturn:
            c[-1], d[-1] = d[-1], c[-1]
        return Mesh(np.zeros((2 * n, 3)), np.concatenate([np.column_stack([a, c, b]), np.column_stack([b, c, d])]))

    assert Topology(band(False)).turned[1].tolist() == [False]
    twisted = Topology(band(True))
    assert twisted.turned[1].tolist() == [True]
    assert not twisted.turned[0].any(), "no face is the wrong one"
