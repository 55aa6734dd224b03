"""The compiled loops under topology, against the same questions answered slowly by SciPy, NumPy and plain sets."""

from collections import Counter

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components as components_of_graph

from noble_clay.core.mesh import gather
from noble_clay.core.mesh.half_edges import across, unpaired
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.pairing import (
    boxes_by,
    connected_components,
    consistent_winding,
    edges_of,
    equal_corners,
    is_closed_manifold,
    manifold_edge_pairs,
    repeated,
    thin_triangles,
)
from tests.damage import primitive

SEEDS = range(5)


def soup(seed, vertices=30, triangles=90):
    """Triangles that name their vertices at random, no vertex twice in one."""
    rng = np.random.default_rng(seed)
    return np.array([rng.choice(vertices, 3, replace=False) for _ in range(triangles)])


def half_edges(triangles):
    return [(int(t[k]), int(t[(k + 1) % 3])) for t in triangles for k in range(3)]


def by_sorting(way, *given):
    """What a process without the compiled loops works out."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(gather, "compiled_for", lambda many: False)
        return way(*given)


def sorted_edges_of(triangles, vertices):
    return by_sorting(gather.edges_of, triangles, vertices)


def assert_same(found, expected):
    for one, other in zip(found, expected, strict=True):
        assert one.shape == other.shape
        assert np.array_equal(one, other)


@pytest.mark.parametrize("seed", SEEDS)
def test_edges_are_those_that_a_set_of_pairs_holds(seed):
    triangles = soup(seed)
    edges, edge_of_half, counts = edges_of(triangles, 30)
    assert_same(sorted_edges_of(triangles, 30), (edges, edge_of_half, counts))
    every = [tuple(sorted(h)) for h in half_edges(triangles)]
    expected = Counter(every)
    assert [tuple(e) for e in edges.tolist()] == sorted(expected)
    assert counts.tolist() == [expected[e] for e in sorted(expected)]
    assert [tuple(edges[e].tolist()) for e in edge_of_half] == every


def test_edges_of_nothing_are_none():
    edges, of_half, counts = edges_of(np.zeros((0, 3), dtype=np.int64), 4)
    assert (edges.shape, of_half.shape, counts.shape) == ((0, 2), (0,), (0,))
    assert_same(sorted_edges_of(np.zeros((0, 3), dtype=np.int64), 4), (edges, of_half, counts))


@pytest.mark.parametrize("seed", SEEDS)
def test_half_edges_in_twos_are_of_edges_with_exactly_two(seed):
    triangles = soup(seed)
    edges, edge_of_half, counts = edges_of(triangles, 30)
    found = manifold_edge_pairs(edge_of_half, counts)
    assert np.array_equal(by_sorting(gather.manifold_edge_pairs, edge_of_half, counts), found)
    by_edge = {}
    for half, edge in enumerate(edge_of_half.tolist()):
        by_edge.setdefault(edge, []).append(half)
    assert found.tolist() == [halves for _, halves in sorted(by_edge.items()) if len(halves) == 2]
    assert 0 < len(found) < len(edges)


@pytest.mark.parametrize("seed", SEEDS)
@pytest.mark.parametrize("links", [0, 1, 40, 90, 400])
def test_groups_are_the_connected_components_counted_by_their_first(seed, links):
    ties = np.random.default_rng(seed).integers(0, 100, (links, 2))
    number, label = connected_components(100, ties)
    expected, other = components_of_graph(
        coo_matrix((np.ones(links), (ties[:, 0], ties[:, 1])), shape=(100, 100)), directed=False
    )
    assert number == expected
    assert len({*zip(label.tolist(), other.tolist(), strict=True)}) == number, "one name of ours for each of theirs"
    firsts = [label.tolist().index(i) for i in range(number)]
    assert firsts == sorted(firsts)


@pytest.mark.parametrize("seed", SEEDS)
def test_what_was_turned_is_found_shell_by_shell(seed):
    """Faces of two balls turned at random: each found turned against the first of its own shell."""
    rng = np.random.default_rng(seed)
    ball = primitive("sphere", radius=3, facets=12)
    triangles = np.concatenate([ball.triangles, ball.triangles + len(ball.vertices)])
    flip = rng.random(len(triangles)) < 0.5
    mixed = np.where(flip[:, None], triangles[:, ::-1], triangles)
    _, edge_of_half, counts = edges_of(mixed, 2 * len(ball.vertices))
    pairs = manifold_edge_pairs(edge_of_half, counts)
    start = mixed.reshape(-1)
    turned, torn = consistent_winding(len(mixed), pairs // 3, start[pairs[:, 0]] != start[pairs[:, 1]])
    half = len(ball.triangles)
    assert not torn.any()
    assert np.array_equal(turned[:half], flip[:half] ^ flip[0])
    assert np.array_equal(turned[half:], flip[half:] ^ flip[half])


def test_a_ring_that_contradicts_itself_is_torn_and_its_neighbour_is_not():
    pairs = np.array([[0, 1], [1, 2], [2, 0], [3, 4]])
    turned, torn = consistent_winding(5, pairs, np.array([True, True, False, False]))
    assert torn.tolist() == [True, True, True, False, False]
    assert turned[3:].tolist() == [False, True]


@pytest.mark.parametrize("seed", SEEDS)
def test_equal_points_are_found_to_the_bit(seed):
    rng = np.random.default_rng(seed)
    points = rng.integers(-2, 3, (200, 3)).astype(np.float64)
    points[rng.random((200, 3)) < 0.2] *= -1  # so that there are zeros of both signs
    index, firsts = equal_corners(points)
    seen, expected = {}, []
    for point in (points + 0.0).tolist():
        expected.append(seen.setdefault(tuple(point), len(seen)))
    assert index.tolist() == expected
    assert np.array_equal(points[firsts][index], points)
    assert len(equal_corners(points + np.arange(200)[:, None] * 1e-13)[1]) > len(firsts)


@pytest.mark.parametrize("seed", SEEDS)
def test_repeated_triangles_are_all_but_the_first_of_their_three_vertices(seed):
    triangles = soup(seed, vertices=9, triangles=120)
    seen, expected = set(), []
    for t in triangles.tolist():
        expected.append(frozenset(t) in seen)
        seen.add(frozenset(t))
    assert any(expected)
    assert repeated(triangles, 9).tolist() == expected


@pytest.mark.parametrize(
    ("height", "thin"), [(1.0, False), (1e-3, False), (1.01e-6, False), (0.99e-6, True), (0.0, True)]
)
def test_how_thin_a_triangle_may_be(height, thin):
    points = np.array([[0.0, 0, 0], [7, 0, 0], [3, 7 * height, 0]])
    for order in ([0, 1, 2], [1, 2, 0], [2, 1, 0]):
        assert thin_triangles(points, np.array([order]), 1e-6).tolist() == [thin]
    assert thin_triangles(points, np.array([[0, 0, 1]]), 1e-6).all(), "one that names a vertex twice"


def test_boxes_hold_just_what_is_of_each():
    rng = np.random.default_rng(8)
    points, triangles = rng.normal(size=(40, 3)), soup(1, vertices=40)
    shell = rng.integers(0, 3, len(triangles))
    low, high = boxes_by(shell, 4, points, triangles)
    for i in range(3):
        own = points[triangles[shell == i]].reshape(-1, 3)
        assert (low[i].tolist(), high[i].tolist()) == (own.min(axis=0).tolist(), own.max(axis=0).tolist())
    assert np.isinf(low[3]).all(), "nothing is of the last"


def test_a_mesh_without_triangles_is_asked_in_vain():
    nothing = Mesh.empty()
    assert connected_components(0, np.zeros((0, 2), dtype=np.int64))[0] == 0
    assert len(equal_corners(nothing.vertices)[0]) == 0
    assert len(repeated(nothing.triangles, 0)) == 0


@pytest.mark.parametrize("seed", range(5))
def test_half_edges_are_paired_with_those_that_run_the_other_way(seed):
    rng = np.random.default_rng(seed)
    triangles = np.array([rng.permutation(9)[:3] for _ in range(40)])
    ways = Counter((int(t[k]), int(t[(k + 1) % 3])) for t in triangles for k in range(3))
    beyond, wrong = across(triangles, 9), unpaired(triangles, 9)
    for t, row in enumerate(triangles):
        edges = [(int(row[k]), int(row[(k + 1) % 3])) for k in range(3)]
        for (a, b), other in zip(edges, beyond[t], strict=True):
            if ways[b, a] == 0:
                assert other == -1
            else:
                assert (b, a) in [(int(triangles[other][k]), int(triangles[other][(k + 1) % 3])) for k in range(3)]
        assert wrong[t] == any(ways[e] != 1 or ways[e[::-1]] == 0 for e in edges)


def test_in_a_closed_mesh_every_triangle_lies_across_from_its_neighbours():
    ball = primitive("sphere", radius=3, facets=12)
    beyond = across(ball.triangles, len(ball.vertices))
    assert not unpaired(ball.triangles, len(ball.vertices)).any()
    assert all(t in beyond[n] for t, row in enumerate(beyond) for n in row)


BOX = hexahedron((1.0, 1.0, 1.0)).triangles
TWO_BOXES = np.concatenate([BOX, BOX + 8])


def with_one(triangles, old, new):
    """The triangles with some vertices named as others."""
    found = triangles.copy()
    for a, b in zip(old, new, strict=True):
        found[found == a] = b
    return found


@pytest.mark.parametrize(
    ("triangles", "closed"),
    [
        (BOX, True),
        (TWO_BOXES, True),
        (np.roll(BOX, 1, axis=1), True),
        (BOX[:, ::-1], True),
        (BOX[1:], False),
        (np.concatenate([BOX, BOX[:1]]), False),
        (np.concatenate([BOX, BOX]), False),
        (np.concatenate([BOX, BOX[:, ::-1]]), False),
        (np.concatenate([BOX[:1, ::-1], BOX[1:]]), False),
        (np.concatenate([BOX, [[0, 0, 1]]]), False),
        (with_one(TWO_BOXES, [8], [0]), False),
        (with_one(TWO_BOXES, [8, 9], [0, 1]), False),
        (np.zeros((0, 3), dtype=np.int64), True),
    ],
    ids=[
        "box",
        "two",
        "turned",
        "inside-out",
        "open",
        "doubled",
        "twice",
        "back-to-back",
        "one-turned",
        "collapsed",
        "corner",
        "edge",
        "nothing",
    ],
)
def test_a_closed_manifold_is_told_as_its_edges_and_fans_tell_it(triangles, closed):
    from noble_clay.core.mesh import topology

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(topology, "compiled_for", lambda many: False)
        assert topology.Topology(Mesh(np.zeros((16, 3)), triangles)).is_manifold is closed
    assert bool(is_closed_manifold(np.ascontiguousarray(triangles), 16)) is closed


@pytest.mark.parametrize("seed", SEEDS)
def test_a_torn_surface_is_no_closed_manifold(seed):
    """A ball with any one triangle turned, dropped, or named at another vertex."""
    rng = np.random.default_rng(seed)
    ball = primitive("sphere", radius=5.0)
    assert is_closed_manifold(ball.triangles, len(ball.vertices))
    for t in rng.choice(len(ball.triangles), 20, replace=False):
        turned, other = ball.triangles.copy(), ball.triangles.copy()
        turned[t] = turned[t, ::-1]
        other[t, rng.integers(3)] = (other[t].max() + 7) % len(ball.vertices)
        for triangles in (turned, other, np.delete(ball.triangles, t, axis=0)):
            assert not is_closed_manifold(np.ascontiguousarray(triangles), len(ball.vertices))
