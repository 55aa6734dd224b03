"""Zipping cracks and cutting apart what meets: how wide, where, and what stays untouched."""

import numpy as np
import pytest

from noble_clay.core.mend import zip_cracks as zip_cracks_module
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.weld import weld
from noble_clay.core.mend.zip_cracks import WIDTHS, zip_cracks
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology
from tests.damage import cracked, jittered, loose, primitive, size_of, stepped, together, without

BALL = primitive("sphere", radius=10, facets=32)
CUBE = primitive("box", size=[4, 4, 4])


def rng():
    return np.random.default_rng(3)


def open_edges(mesh):
    return len(Topology(mesh).open_halves)


def split_along(mesh, width):
    """The mesh cut at the height of its middle, its upper half moved up and aside by `width` mm in all."""
    upper = mesh.corners[:, :, 2].mean(axis=1) > 0
    one, other = mesh.keep(upper), mesh.keep(~upper)
    return together(Mesh(one.vertices + width / 3**0.5, one.triangles), other)


@pytest.mark.parametrize("damage", [loose, jittered, cracked, stepped])
def test_all_kinds_of_cracks_are_zipped(damage):
    broken = damage(BALL, rng())
    assert open_edges(broken) > 0
    zipped, done = zip_cracks(broken)
    assert open_edges(zipped) == 0
    assert done.count == open_edges(broken)
    assert inspect_mesh(zipped).area == pytest.approx(inspect_mesh(BALL).area, rel=1e-4)


@pytest.mark.parametrize("share", WIDTHS)
def test_a_crack_is_zipped_by_the_narrowest_width_that_does(share):
    broken = split_along(BALL, 0.6 * share * size_of(BALL))
    zipped, done = zip_cracks(broken)
    assert open_edges(zipped) == 0
    assert done.more["widest_mm"] == pytest.approx(share * size_of(broken), rel=1e-2)


def test_a_gap_that_is_meant_stays():
    gap = split_along(BALL, 0.01 * size_of(BALL))
    same, done = zip_cracks(gap)
    assert (same is gap, done.count) == (True, 0)


def test_no_wider_than_the_maker_says():
    broken = split_along(BALL, 5e-4 * size_of(BALL))
    assert zip_cracks(broken, widest=1e-4 * size_of(BALL))[1].count == 0
    assert zip_cracks(broken, widest=1e-2 * size_of(BALL))[1].count > 0


def test_only_cracks_within_the_boxes_are_zipped():
    second = Mesh(BALL.vertices + [50, 0, 0], BALL.triangles)
    broken = together(cracked(BALL, rng()), cracked(second, rng()))
    box = np.array([[[35, -20, -20], [65, 20, 20]]], dtype=float)
    zipped, _ = zip_cracks(broken, within=box)
    left = zipped.vertices[Topology(zipped).open_half_edges]
    assert len(left) > 0
    assert left[..., 0].max() < 20, "the second ball is whole, the first as it was"


def test_points_off_the_rim_do_not_move():
    broken = cracked(BALL, rng())
    rim = np.unique(Topology(broken).open_half_edges)
    kept = {p.tobytes() for p in np.delete(broken.vertices, rim, axis=0)}
    zipped, _ = zip_cracks(broken)
    assert kept <= {p.tobytes() for p in zipped.vertices}


def test_sides_of_a_short_edge_are_not_merged_into_a_point():
    """A hole as small as the widest crack, whose rim edges are as short: it stays a hole."""
    points = np.concatenate([BALL.vertices * 1000, [[0, 0, 0]]])
    whole = Mesh(points[:-1], BALL.triangles)
    holed = without(whole, [60])
    zipped, done = zip_cracks(holed)
    assert (done.count, open_edges(zipped)) == (0, 3)


def touching(*at):
    return weld(together(CUBE, *(primitive("box", p, size=[4, 4, 4]) for p in at)), 1e-6)[0]


@pytest.mark.parametrize(
    ("at", "edges", "points"),
    [
        ([(4, 4, 0)], 1, 2),
        ([(4, 4, 4)], 0, 1),
        ([(4, 4, 0), (-4, -4, 0)], 2, 4),
        ([(4, 4, 4), (-4, -4, 4), (4, -4, -4)], 0, 3),
        ([(4, 4, 0), (-4, -4, -4)], 1, 3),
    ],
)
def test_as_many_bodies_as_were_glued_come_apart(at, edges, points):
    apart, done = separate(touching(*at))
    found = inspect_mesh(apart)
    assert (found.manifold, found.bodies) == (True, len(at) + 1)
    assert (done.more["edges"], done.more["points"]) == (edges, points)
    assert found.volume == pytest.approx(64 * (len(at) + 1), rel=1e-5)
    assert [f.kind for f in found.findings] == ["loose_bodies"]


def test_only_the_edges_asked_for_come_apart():
    both = touching((4, 4, 0), (-4, -4, 0))
    corner = np.flatnonzero(np.all(both.vertices[:, :2] > 1.9, axis=1) & np.all(both.vertices[:, :2] < 2.1, axis=1))
    apart, done = separate(both, corner)
    assert done.more["edges"] == 1
    assert {f.kind: f.count for f in inspect_mesh(apart).findings}["overshared_edges"] == 1


def test_four_walls_that_meet_in_a_line_are_paired_across_their_solids():
    """Four bars like a cross of tubes around one edge: each solid keeps both of its own faces."""
    first = touching((4, 4, 0))
    apart, _ = separate(first)
    number, shell = Topology(apart).shells
    assert number == 2
    middles = [apart.corners[shell == i].mean(axis=(0, 1)) for i in range(2)]
    assert sorted(np.round(m[0]) for m in middles) == [0, 4]


def test_nothing_shared_leaves_it_as_it_is():
    same, done = separate(BALL)
    assert (same is BALL, done.count) == (True, 0)
    holed = without(BALL, [5, 6, 7])
    assert separate(holed)[0] is holed


def test_what_is_parted_moves_by_less_than_can_be_printed():
    mesh = touching((4, 4, 0))
    apart, _ = separate(mesh)
    away = np.linalg.norm(apart.vertices[: len(mesh.vertices)] - mesh.vertices, axis=1)
    assert 0 < away.max() < 1e-3


@pytest.mark.parametrize("distance", [0.01, 0.1, 1.0])
def test_welding_merges_chains_into_their_first(distance):
    row = np.column_stack([np.arange(9) * 0.9 * distance, np.zeros(9), np.zeros(9)])
    far = row + [100, 0, 0]
    top = np.array([[0.0, 50, 0]])
    points = np.concatenate([row, far, top])
    triangles = np.array([[i, 9 + i, 18] for i in range(9)])
    welded, done = weld(Mesh(points, triangles), distance)
    assert done.count == 16
    assert len(welded.vertices) == 3
    assert welded.vertices.tolist() == [row[0].tolist(), far[0].tolist(), top[0].tolist()]
    assert weld(Mesh(points, triangles), 0.8 * distance)[1].count == 0


@pytest.mark.parametrize("number", [1, 8, 60])
def test_the_points_about_edges_are_the_same_whether_few_or_many_are_looked_at(number, monkeypatch):
    rng = np.random.default_rng(number)
    points, middles, reach = rng.random((3 * number, 3)), rng.random((number, 3)), rng.uniform(0, 0.4, number)
    few = zip_cracks_module._within(points, middles, reach)
    monkeypatch.setattr(zip_cracks_module, "FEW", 0)
    many = zip_cracks_module._within(points, middles, reach)
    expected = [
        (m, p) for m in range(number) for p in range(3 * number) if np.linalg.norm(points[p] - middles[m]) <= reach[m]
    ]
    for edge, at in (few, many):
        assert list(zip(edge.tolist(), at.tolist(), strict=True)) == expected
