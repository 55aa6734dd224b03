"""Mending steps one by one: what each does, and what it leaves alone."""

import numpy as np
import pytest

from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.draw_apart import draw_apart
from noble_clay.core.mend.drop_crumbs import drop_crumbs
from noble_clay.core.mend.drop_inner import drop_inner
from noble_clay.core.mend.patch import flat_patch, spanned_patch
from noble_clay.core.mend.patch_over import patch_over
from noble_clay.core.mend.resurface import resurface
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.sheets import encloses, sheets, thicken
from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mend.unite import unite
from noble_clay.core.mend.weld import weld
from noble_clay.core.mend.zip_cracks import zip_cracks
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from tests.core.test_mend import SPHERE, solid
from tests.damage import together, without

CUBE = solid("box", size=[4, 4, 4])


def test_zipping_closes_a_crack_whose_sides_have_other_points():
    """The lower half of a box has its rim's corners only, the upper one many points along them."""
    n, half = 8, 2.0
    steps = np.linspace(-half, half, n + 1)
    ring = np.array(
        [[x, -half, 0] for x in steps[:-1]]
        + [[half, y, 0] for y in steps[:-1]]
        + [[-x, half, 0] for x in steps[:-1]]
        + [[-half, -y, 0] for y in steps[:-1]]
    )
    upper_points = np.concatenate([ring, [[0, 0, 3.0]]])
    count = len(ring)
    upper = Mesh(upper_points, np.array([[i, (i + 1) % count, count] for i in range(count)]))
    corners = ring[[0, n, 2 * n, 3 * n]] + [0, 0, -2e-5]
    lower = Mesh(np.concatenate([corners, [[0, 0, -3.0]]]), np.array([[(i + 1) % 4, i, 4] for i in range(4)]))
    cracked = together(upper, lower)
    assert {f.kind for f in inspect_mesh(cracked).findings} >= {"open_edges"}
    zipped, done = zip_cracks(cracked)
    assert inspect_mesh(zipped).sound
    assert done.count == count + 4
    assert done.more["widest_mm"] < 1e-3
    assert inspect_mesh(zipped).volume == pytest.approx(2 * 16 * 3 / 3, rel=1e-4)


def test_bodies_that_meet_in_an_edge_are_parted_by_a_hair():
    touching = weld(together(CUBE, solid("box", (4, 4, 0), size=[4, 4, 4])), 1e-6)[0]
    apart, done = separate(touching)
    assert (done.count, done.more["edges"]) == (1, 1)
    found = inspect_mesh(apart)
    assert (found.manifold, found.bodies) == (True, 2)
    assert found.volume == pytest.approx(128, rel=1e-5)
    rounded = np.unique(apart.vertices.astype(np.float32), axis=0)
    assert len(rounded) == len(apart.vertices), "a file still tells them apart"


def test_a_wall_inside_is_dropped_and_a_hollow_is_not():
    both = weld(together(CUBE, solid("box", (4, 0, 0), size=[4, 4, 4])), 1e-6)[0]
    single = Mesh(
        both.vertices, both.triangles[np.unique(np.sort(both.triangles, axis=1), axis=0, return_index=True)[1]]
    )
    cleared, done = drop_inner(single)
    assert done.count == 4, "two triangles a side, cut along other diagonals"
    assert inspect_mesh(cleared).sound
    assert inspect_mesh(cleared).volume == pytest.approx(128)
    hollow = together(SPHERE, Mesh(SPHERE.vertices * 0.5, SPHERE.triangles[:, ::-1]))
    assert drop_inner(hollow)[1].count == 0


def test_a_sliver_gives_its_long_side_to_its_neighbour():
    """A cube's face divided at the middle of its edge on one side only, a triangle without area between."""
    points = np.concatenate([CUBE.vertices, CUBE.vertices[CUBE.triangles[0, :2]].mean(axis=0)[None]])
    a, b, _ = CUBE.triangles[0]
    other = next(i for i, t in enumerate(CUBE.triangles) if i != 0 and {int(a), int(b)} <= set(t.tolist()))
    k = next(k for k in range(3) if CUBE.triangles[other, k] == b and CUBE.triangles[other, (k + 1) % 3] == a)
    far, middle = CUBE.triangles[other, (k + 2) % 3], len(CUBE.vertices)
    rest = np.delete(CUBE.triangles, other, axis=0)
    triangles = np.concatenate([rest, [[b, middle, far], [middle, a, far], [b, a, middle]]])
    broken = Mesh(points, triangles)
    assert [f.values() for f in inspect_mesh(broken).findings] == [{"kind": "degenerate_faces", "count": 1}]
    mended, done = turn_slivers(broken)
    assert done.count == 1
    assert inspect_mesh(mended).findings == ()
    assert inspect_mesh(mended).volume == pytest.approx(64)


@pytest.mark.parametrize("facets", [36, 64])
def test_a_hole_in_what_is_round_is_closed_round(facets):
    whole = solid(radius=10, facets=facets)
    middles = whole.corners.mean(axis=1)
    broken = without(whole, np.linalg.norm(middles - [0, -10, 0], axis=1) < 4)
    closed, done = close_holes(broken)
    assert done.more["smooth"] == 1
    assert inspect_mesh(closed).manifold
    assert inspect_mesh(closed).volume == pytest.approx(inspect_mesh(whole).volume, rel=4e-3)
    reach = np.linalg.norm(closed.vertices, axis=1)
    assert reach.max() < 10.3 and reach.min() > 9.7


def test_a_polygon_is_spanned_by_its_own_points():
    square = np.array([[0.0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0]])
    assert flat_patch(square).shape == (2, 3)
    bent = np.array([[0.0, 0, 0], [2, 0, 1], [2, 2, 0], [0, 2, 1], [-1, 1, 3]])
    assert spanned_patch(bent).shape == (3, 3)
    bow = np.array([[0.0, 0, 0], [2, 2, 0], [2, 0, 0], [0, 2, 0], [1, 3, 0]])
    assert flat_patch(bow) is None, "it crosses itself"


def test_crumbs_are_few_and_small():
    crumbs = [solid("box", (20 + i, 0, 0), size=[0.1, 0.1, 0.1]) for i in range(3)]
    cleared, done = drop_crumbs(together(SPHERE, *crumbs))
    assert (done.count, len(cleared.triangles)) == (3, len(SPHERE.triangles))
    many = together(*(solid("box", (2 * i, 0, 0), size=[0.5, 0.5, 0.5]) for i in range(40)))
    assert drop_crumbs(many)[1].count == 0, "they are all there is"
    assert drop_crumbs(together(SPHERE, solid("box", (30, 0, 0), size=[2, 2, 2])), 10.0)[1].count == 1


def test_a_sheet_is_told_from_a_body_with_a_hole():
    small_hole = without(SPHERE, slice(0, 10))
    bowl = without(SPHERE, SPHERE.corners.mean(axis=1)[:, 2] > 0)
    assert not sheets(small_hole).any()
    assert sheets(bowl).all() and encloses(bowl)
    walled, done = thicken(bowl, np.ones(len(bowl.triangles), dtype=bool), 0.4)
    found = inspect_mesh(walled)
    assert found.sound
    assert found.volume == pytest.approx(0.4 * done.more["area_mm2"], rel=0.03)


def test_resurfacing_closes_what_goes_around_something():
    broken = without(SPHERE, slice(30, 60))
    skin, done = resurface(broken, 0.8)
    found = inspect_mesh(skin)
    assert found.sound
    assert done.more["resolution_mm"] == 0.8
    assert found.volume == pytest.approx(inspect_mesh(SPHERE).volume, rel=0.02)
    assert len(resurface(Mesh(SPHERE.vertices, SPHERE.triangles[:1]))[0].triangles) == 0


def pulled(mesh, **far):
    """With the first point of some faces pulled so many times as far as the middle of the others."""
    points = mesh.vertices.copy()
    for face, much in far.items():
        first, *others = mesh.triangles[int(face.removeprefix("face_"))]
        points[first] += much * (mesh.vertices[others].mean(axis=0) - mesh.vertices[first])
    return Mesh(points, mesh.triangles)


def test_the_last_crossings_are_patched_over():
    """A point pulled through the far side of its own neighbours: the faces around it go, and the rest stays."""
    ball = solid(radius=10, facets=48)
    broken = pulled(ball, face_1200=1.4)
    assert len(crossing_pairs(broken)) > 0
    patched, done = patch_over(broken)
    found = inspect_mesh(patched)
    assert (found.manifold, found.findings) == (True, ())
    assert done.more["cut_out"] < 0.05 * len(ball.triangles)
    assert found.volume == pytest.approx(inspect_mesh(ball).volume, rel=0.01)
    assert patch_over(ball)[1].count == 0


def test_every_tangle_is_patched_with_as_little_cut_out_as_if_it_were_alone():
    ball = solid(radius=10, facets=48)
    alone = [patch_over(pulled(ball, **far))[1].more["cut_out"] for far in ({"face_1200": 1.4}, {"face_300": 3.0})]
    assert alone[0] <= alone[1] / 2
    patched, done = patch_over(pulled(ball, face_1200=1.4, face_300=3.0))
    assert inspect_mesh(patched).manifold and len(crossing_pairs(patched)) == 0
    assert done.more["cut_out"] == sum(alone)


def test_flush_bodies_that_share_an_edge_are_each_closed_by_themselves():
    """A block flush with the rim of a plate: two faces lie at one angle about their edge, each must find its own."""
    plate = solid("box", (0, 0, 2), size=[40, 30, 4])
    block = solid("box", (-16, 0, 9), size=[8, 30, 10])
    touching = weld(together(plate, block), 1e-6)[0]
    apart, done = separate(touching, None, 0.0)
    assert done.count >= 1
    shells = inspect_mesh(apart).shells
    assert sorted(round(s.volume) for s in shells) == [2400, 4800] and all(s.closed for s in shells)
    assert set(map(tuple, apart.vertices)) == set(map(tuple, touching.vertices)), "they are not moved"
    united, _ = unite(apart)
    found = inspect_mesh(united)
    assert found.sound and found.volume == pytest.approx(7200, abs=1e-6)


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (4000.0, -2500.0, 900.0)])
@pytest.mark.parametrize("tilt", [0.0, 1.5])
def test_layers_are_drawn_apart_by_a_hair(at, tilt):
    """A drum on a plate: flat on it, or tilted a little into it."""
    slack = slack_of(Mesh(CUBE.vertices + at, CUBE.triangles))
    drum = solid("cylinder", (0, 0, 2), radius=3, height=4, facets=17)
    tilted = drum.vertices + np.outer(drum.vertices[:, 0] / 3, [0, 0, tilt * slack])
    stacked = together(solid("box", (0, 0, -1), size=[10, 10, 2]), Mesh(tilted, drum.triangles))
    stacked = Mesh(stacked.vertices + at, stacked.triangles)
    assert len(crossing_pairs(stacked)) > 0
    apart, done = draw_apart(stacked)
    assert len(crossing_pairs(apart)) == 0 and done.count > 0 and done.more["left"] == 0
    assert np.abs(apart.vertices - stacked.vertices).max() < 30 * slack, "by more than a hair"
    assert (apart.triangles == stacked.triangles).all()


@pytest.mark.parametrize(("slacks", "apart"), [(3.0, True), (50.0, False)])
def test_a_tip_that_goes_in_by_a_hair_comes_out_and_one_that_goes_in_further_does_not(slacks, apart):
    """A cone on its tip, in the middle of no triangle's edge; none of its sides is a layer."""
    tip = solid("cone", (0.7, 0.3, 3), bottom_radius=0, top_radius=3, height=2, facets=4)
    both = together(CUBE, tip)
    slack = slack_of(both)
    both = Mesh(both.vertices - (np.arange(len(both.vertices)) >= 8)[:, None] * [0, 0, slacks * slack], both.triangles)
    assert len(crossing_pairs(both)) >= 4
    found, done = draw_apart(both)
    assert (len(crossing_pairs(found)) == 0) == (done.count > 0) == apart
    assert np.abs(found.vertices - both.vertices).max() <= 8 * slack


@pytest.mark.parametrize("over", [2e-5, 8e-5])
def test_a_needle_folded_over_the_side_of_its_neighbour_gives_that_side_up(over):
    """A box of 10 mm, a point put a little beyond the diagonal of its top, in the half that is not cut up there."""
    cube = solid("box", size=[10, 10, 10])
    half = np.flatnonzero((cube.corners[:, :, 2] > 4.9).all(axis=1))[0]
    a, b, c = cube.triangles[half]
    a, b, c = next(t for t in ((a, b, c), (b, c, a), (c, a, b)) if cube.vertices[t[0]] @ cube.vertices[t[1]] < 0)
    away = (cube.vertices[a] + cube.vertices[b]) / 2 - cube.vertices[c]
    point = cube.vertices[c] + away + over * away / np.linalg.norm(away)
    fan = [[a, b, 8], [b, c, 8], [c, a, 8]]
    folded = Mesh(np.vstack([cube.vertices, point]), np.vstack([np.delete(cube.triangles, half, axis=0), fan]))
    assert len(crossing_pairs(folded)) > 0
    found, done = draw_apart(folded)
    assert done.count > 0 and inspect_mesh(found).manifold
    np.testing.assert_array_equal(found.vertices, folded.vertices)
    assert volume(found) == pytest.approx(1000.0, abs=1e-3)


def test_what_runs_through_something_is_no_layer():
    crossed = together(CUBE, solid("cylinder", radius=1, height=8))
    assert draw_apart(crossed)[1].count == 0
    assert draw_apart(SPHERE)[1].count == 0


def test_a_shell_that_is_no_solid_keeps_no_others_from_being_united():
    """Two blocks run into each other, and an open box runs into both."""
    blocks = [solid("box", (x, 0, 0), size=[6, 6, 6]) for x in (0, 4)]
    open_box = without(solid("box", (2, 0, 3), size=[2, 2, 4]), np.arange(12) == 0)
    united, done = unite(together(*blocks, open_box))
    assert (done.count, done.more["bodies"]) == (2, 1)
    shells = sorted(inspect_mesh(united).shells, key=lambda s: s.triangles)
    assert not shells[0].closed and shells[0].triangles == 11, "the open one is as it was"
    assert shells[1].volume == pytest.approx(10 * 36)


def cells(filled):
    """The surface of unit cells, two triangles for each of their sides with nothing beyond it; points are shared."""
    filled = set(filled)
    corners, triangles = [], []
    for cell in sorted(filled):
        for axis in range(3):
            for side in (0, 1):
                beyond = np.array(cell)
                beyond[axis] += 2 * side - 1
                if tuple(beyond) in filled:
                    continue
                u, v = np.eye(3)[(axis + 1) % 3], np.eye(3)[(axis + 2) % 3]
                at = np.array(cell, dtype=float)
                at[axis] += side
                square = [at, at + u, at + u + v, at + v][:: 1 if side else -1]
                n = len(corners)
                corners += square
                triangles += [(n, n + 1, n + 2), (n, n + 2, n + 3)]
    return weld(Mesh(np.array(corners), np.array(triangles)), 1e-9)[0]


def test_an_edge_whose_ends_hang_together_elsewhere_is_slit():
    """Two posts that meet in an edge only, on one floor and under one roof: no point of it can be parted."""
    plates = [(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 2)]
    posts = cells([*plates, (0, 0, 1), (1, 1, 1)])
    assert [f.kind for f in inspect_mesh(posts).findings] == ["overshared_edges"]
    slit, done = separate(posts, slit=True)
    found = inspect_mesh(slit)
    assert found.sound and done.more == {"edges": 1, "points": 2}
    assert found.volume == pytest.approx(10, rel=1e-4) and found.genus == 1
    assert len(slit.triangles) == len(posts.triangles) + 4


def test_a_rim_that_runs_along_an_edge_of_three_faces_is_closed():
    """Two cubes of 4 mm that meet in an edge, without one of the four triangles there."""
    both = weld(together(solid("box", size=[4, 4, 4]), solid("box", (4, 4, 0), size=[4, 4, 4])), 1e-6)[0]
    edge = np.flatnonzero(np.isclose(both.vertices[:, :2], 2).all(axis=1))
    there = np.flatnonzero(np.isin(both.triangles, edge).sum(axis=1) == 2)
    assert len(there) == 4
    for gone in there:
        broken = both.keep(np.arange(len(both.triangles)) != gone)
        assert close_holes(broken)[1].count == 0
        closed, done = close_holes(broken, odd=True)
        found = inspect_mesh(separate(closed, slit=True)[0])
        assert (done.count, found.manifold) == (1, True)
        assert found.volume == pytest.approx(128, rel=1e-4)
