"""Findings counted exactly, and the mending steps: what each does, and what it leaves alone."""

import numpy as np
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.mend.close_holes import close_holes, open_loops
from noble_clay.core.mend.moved import Moved
from noble_clay.core.mend.orient import orient
from noble_clay.core.mend.plan import RepairOptions, mend
from noble_clay.core.mend.weld import weld
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.nesting import depths
from noble_clay.core.mesh.topology import Topology
from tests.damage import primitive, together, without


def solid(kind="sphere", at=(0, 0, 0), **fields):
    return primitive(kind, at, **(fields or {"radius": 10, "facets": 24}))


def turned(mesh, faces):
    triangles = mesh.triangles.copy()
    triangles[faces] = triangles[faces][:, ::-1]
    return Mesh(mesh.vertices, triangles)


def moved_by(mesh, x):
    return Mesh(mesh.vertices + [x, 0, 0], mesh.triangles)


def counts(mesh):
    return {f.kind: f.count for f in inspect_mesh(mesh).findings}


SPHERE = solid()
INWARD = turned(SPHERE, slice(None))
CUBE = solid("box", size=[4, 4, 4])


@pytest.mark.parametrize(
    ("mesh", "expected"),
    [
        (SPHERE, {}),
        (without(SPHERE, [100]), {"open_edges": 3}),
        (without(SPHERE, [100, 300]), {"open_edges": 6}),
        (turned(SPHERE, [7, 50, 200]), {"flipped_faces": 3}),
        (INWARD, {"inside_out_bodies": 1}),
        (Mesh(SPHERE.vertices, np.concatenate([SPHERE.triangles, SPHERE.triangles[:5]])), {"duplicate_faces": 5}),
        (Mesh(SPHERE.vertices, np.concatenate([SPHERE.triangles, [[3, 3, 4]]])), {"degenerate_faces": 1}),
        (together(SPHERE, solid(at=(30, 0, 0))), {"loose_bodies": 1}),
        (together(SPHERE, solid(at=(30, 0, 0)), moved_by(INWARD, 60)), {"loose_bodies": 1, "inside_out_bodies": 1}),
    ],
)
def test_findings_are_counted_exactly(mesh, expected):
    assert counts(mesh) == expected


def test_an_edge_of_four_faces_and_a_shared_corner():
    edge = together(CUBE, solid("box", (4, 4, 0), size=[4, 4, 4]))
    corner = together(CUBE, solid("box", (4, 4, 4), size=[4, 4, 4]))
    assert counts(weld(edge, 1e-6)[0]) == {"overshared_edges": 1, "loose_bodies": 1}
    assert counts(weld(corner, 1e-6)[0]) == {"pinched_vertices": 1, "loose_bodies": 1}


def test_voids_are_bodies_turned_inward():
    hollow = together(SPHERE, turned(solid(radius=5, facets=12), slice(None)))
    found = inspect_mesh(hollow)
    assert (found.bodies, found.voids, found.manifold) == (1, 1, True)


def test_genus_is_summed_over_shells():
    rings = together(
        solid("torus", ring_radius=9, tube_radius=2), solid("tube", (40, 0, 0), radius=5, wall=2, height=3)
    )
    assert inspect_mesh(rings).genus == 2


def test_a_one_sided_band_is_not_called_sound():
    angle = np.linspace(0, 2 * np.pi, 25)[:-1]
    half = angle / 2
    along = np.column_stack([np.cos(angle), np.sin(angle), 0 * angle]) * 10
    across = np.column_stack([np.cos(half) * np.cos(angle), np.cos(half) * np.sin(angle), np.sin(half)]) * 2
    n = len(angle)
    vertices = np.concatenate([along + across, along - across])
    faces = []
    for i in range(n):
        j, last = (i + 1) % n, i == n - 1
        a, b, c, d = i, i + n, (j + n if last else j), (j if last else j + n)
        faces += [[a, b, c], [b, d, c]]
    band = inspect_mesh(Mesh(vertices, np.array(faces)))
    assert not band.manifold
    assert {f.kind for f in band.findings} >= {"open_edges", "flipped_faces"}


def test_shells_know_in_how_many_others_they_lie():
    nested = together(SPHERE, solid(radius=6, facets=12), solid(radius=3, facets=12), solid(at=(9, 0, 0)))
    shell = Topology(nested).shells[1]
    assert depths(nested, shell, np.ones(4, dtype=bool)).tolist() == [0, 1, 2, 0]
    assert depths(nested, shell, np.array([False, True, True, True])).tolist() == [0, 0, 1, 0]


def test_a_hollow_turned_outward_is_turned_back():
    hollow = together(SPHERE, turned(solid(radius=5, facets=12), slice(None)))
    outward = together(SPHERE, solid(radius=5, facets=12))
    assert counts(outward) == {"inside_out_bodies": 1, "loose_bodies": 1}
    mended, _ = mend(outward)
    assert inspect_mesh(mended).volume == pytest.approx(inspect_mesh(hollow).volume)
    assert inspect_mesh(mended).voids == 1


def test_a_sound_mesh_comes_back_as_it_is():
    mended, report = mend(SPHERE)
    assert mended is SPHERE
    assert (report.steps, report.moved) == ((), Moved(0.0, 0.0))


def damaged():
    rng = np.random.default_rng(5)
    mesh = without(turned(SPHERE, rng.random(len(SPHERE.triangles)) < 0.2), [20, 21, 400])
    crumb = solid("box", (30, 0, 0), size=[0.1, 0.1, 0.1])
    mesh = together(mesh, crumb)
    loose = mesh.corners.reshape(-1, 3) + rng.uniform(-1e-5, 1e-5, (3 * len(mesh.triangles), 3))
    return Mesh(loose, np.arange(len(loose)).reshape(-1, 3))


def test_all_plain_damage_at_once_is_mended_and_told():
    mended, report = mend(damaged())
    assert inspect_mesh(mended).sound
    steps = {s.step: s for s in report.steps}
    assert steps["close_holes"].count == 2
    assert steps["close_holes"].more["triangles_added"] == 3
    assert steps["drop_crumbs"].count == 1
    assert steps["zip_cracks"].more["points_merged"] > 1000
    assert inspect_mesh(mended).volume == pytest.approx(inspect_mesh(SPHERE).volume, rel=1e-4)


SHEET = Mesh(np.array([[0.0, 0, 0], [90, 0, 0], [90, 90, 0], [0, 90, 0]]), np.array([[0, 1, 2], [0, 2, 3]]))


def test_a_sheet_is_not_mended_into_nothing_but_offered_a_wall():
    left, report = mend(SHEET)
    assert left is SHEET
    assert not report.after.manifold
    assert "sheet" in report.proposal
    walled, report = mend(SHEET, RepairOptions(wall_mm=report.proposal_mm))
    assert report.proposal is None
    assert inspect_mesh(walled).sound
    assert inspect_mesh(walled).volume == pytest.approx(90 * 90 * report.steps[0].more["wall_mm"])


def test_a_bowl_gets_a_wall_and_stays_a_bowl():
    bowl = without(SPHERE, SPHERE.corners.mean(axis=1)[:, 2] > 0)
    mended, report = mend(bowl)
    assert [s.step for s in report.steps][:1] == ["thicken"]
    found = inspect_mesh(mended)
    assert found.sound
    assert found.volume < 0.1 * inspect_mesh(SPHERE).volume
    assert report.moved.largest <= report.steps[0].more["wall_mm"]


def test_a_wall_that_runs_through_itself_everywhere_is_built_anew_at_once():
    places = np.meshgrid(np.arange(201) * 0.33, np.arange(7) * 0.33, indexing="ij")
    x, y = (p.reshape(-1) for p in places)
    a = (np.arange(200)[:, None] * 7 + np.arange(6)).reshape(-1)
    quads = np.column_stack([a, a + 7, a + 8, a + 1])
    crumpled = Mesh(
        np.column_stack([x, y, 0.6 * np.sin(4 * x) * np.sin(4 * y)]),
        np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]),
    )
    _, report = mend(crumpled, RepairOptions(wall_mm=2))
    assert report.after.sound
    assert [s.more["resurfaced"] for s in report.steps if s.step == "mend_shells"] == [1]
    assert report.moved.largest < 1.05, "half the wall on either side"


def test_shells_that_run_through_each_other_everywhere_are_built_anew_together_at_once():
    """Four balls in one place, three of them dented each its own way, a triangle out of each."""
    ball = primitive("sphere", radius=10, facets=64)
    dented = Mesh(ball.vertices * (1 + 0.01 * np.sin(9 * ball.vertices).prod(axis=1))[:, None], ball.triangles)
    balls = [Mesh(dented.vertices[:, np.roll([0, 1, 2], i)], dented.triangles) for i in range(3)]
    mesh = together(*(without(b, np.arange(len(b.triangles)) == 7) for b in [*balls, ball]))
    mended, report = mend(mesh)
    assert [s.step for s in report.steps if s.step in ("resurface", "mend_shells", "untangle")] == ["resurface"]
    assert report.after.manifold and not report.after.findings
    assert report.after.volume == pytest.approx(4 / 3 * np.pi * 10**3, rel=0.01)


@pytest.mark.parametrize("step", ["drop_crumbs", "close_holes"])
def test_a_step_that_is_left_out_is_not_taken(step):
    _, report = mend(damaged(), RepairOptions(skip=frozenset([step])))
    assert step not in [s.step for s in report.steps]


def test_progress_is_told_and_may_stop_the_work():
    told = []

    class Enough(Exception):
        pass

    def progress(share, name):
        told.append((share, name))
        if name == "close_holes":
            raise Enough

    with pytest.raises(Enough):
        mend(damaged(), progress=progress)
    assert [share for share, _ in told] == sorted(share for share, _ in told)
    assert told[0] == (0.0, "inspect")


def test_several_bodies_are_bridged_or_the_largest_is_kept():
    two = together(SPHERE, solid(at=(30, 0, 0), radius=5, facets=24))
    assert mend(two)[0] is two, "nothing is wrong with either"
    bridged, report = mend(two, RepairOptions(bodies="bridge"))
    assert inspect_mesh(bridged).sound
    assert report.steps[0].more["radius_mm"] > 0
    largest, _ = mend(two, RepairOptions(bodies="largest"))
    assert np.array_equal(largest.vertices, SPHERE.vertices)


def test_mending_nothing_is_refused():
    with pytest.raises(MeshError, match="no triangles"):
        mend(Mesh.empty())


def test_a_large_flat_hole_is_closed_with_its_own_points():
    cup = solid("cylinder", radius=5, height=8, facets=40)
    top = np.isclose(cup.corners[:, :, 2], 4).all(axis=1)
    filled, done = close_holes(without(cup, top))
    assert (done.count, done.more["left_open"]) == (1, 0)
    assert inspect_mesh(filled).manifold
    assert inspect_mesh(filled).volume == pytest.approx(inspect_mesh(cup).volume)


def test_loops_that_share_a_vertex_are_told_apart():
    eight = np.array([[0, 1], [1, 2], [2, 0], [0, 3], [3, 4], [4, 0]])
    loops = open_loops(eight)
    assert sorted(sorted(loop.tolist()) for loop in loops) == [[0, 1, 2], [0, 3, 4]]


def test_turning_takes_the_fewest_faces_and_whole_bodies_outward():
    straight, done = orient(turned(SPHERE, [1, 2, 3]))
    assert done.count == 3
    assert np.array_equal(straight.triangles, SPHERE.triangles)
    outward, done = orient(INWARD)
    assert done.more["bodies_turned"] == 1
    assert inspect_mesh(outward).volume > 0


def test_how_far_it_moved_is_the_farthest_both_ways():
    moved = Mesh(SPHERE.vertices + [0.5, 0, 0], SPHERE.triangles)
    assert Moved.between(SPHERE, moved).largest == pytest.approx(0.5, abs=0.02)
    assert 0.1 < Moved.between(SPHERE, moved).typical < 0.4
    spiked = together(SPHERE, solid("box", (30, 0, 0), size=[1, 1, 1]))
    assert Moved.between(SPHERE, spiked) == Moved.between(spiked, SPHERE)
    assert Moved.between(SPHERE, spiked).largest > 19
    assert Moved.between(SPHERE, Mesh.empty()) == Moved(None, None)


def test_what_was_sound_stays_to_the_bit():
    broken = without(SPHERE, slice(100, 140))
    mended, report = mend(broken)
    assert report.after.sound
    assert placed_triangles(broken) <= placed_triangles(mended)


def placed_triangles(mesh):
    return {c.tobytes() for c in (corners[np.lexsort(corners.T)] for corners in mesh.corners)}


@pytest.mark.parametrize(("twist", "volume"), [(10.0, 200.0), (14.0, 740.0 / 3)], ids=["even", "uneven"])
@pytest.mark.parametrize("lying", [False, True])
def test_a_block_that_runs_through_itself_to_its_far_side_keeps_both_halves(twist, volume, lying):
    """Two of its corners changed places: one half is turned inside out, and seen as well as the other. 4 mm high, its
    halves triangles of 25 mm² each; uneven, of 125/6 and 245/6 mm².
    """
    flat = np.array([[0, 0], [10, twist], [10, 0], [0, 10.0]])
    points = np.vstack([np.column_stack([flat, np.full(4, z)]) for z in (0.0, 4.0)])
    walls = [t for i in range(4) for t in ([i, (i + 1) % 4, 4 + (i + 1) % 4], [i, 4 + (i + 1) % 4, 4 + i])]
    block = Mesh(
        points[:, [1, 2, 0]] if lying else points, np.array([[0, 2, 1], [0, 3, 2], [4, 5, 6], [4, 6, 7], *walls])
    )
    found, report = mend(block)
    assert report.after.manifold and report.after.bodies == 2
    assert report.after.volume == pytest.approx(volume, rel=1e-4)
    assert len(found.triangles) <= 24


def test_what_has_its_corners_in_a_line_only_in_the_file_is_turned():
    box = primitive("box", (5, 10, 5), size=[10, 10, 10])
    on_edge = (box.corners[:, :, 2] == 10).all(axis=1) & ((box.corners[:, :, 1] == 5).sum(axis=1) == 2)
    face = int(np.flatnonzero(on_edge)[0])
    y = box.corners[face, :, 1]
    a, b, c = np.roll(box.triangles[face], -int(np.flatnonzero((y == 5) & (np.roll(y, -1) == 5))[0]))
    needle = len(box.vertices)
    fan = [[a, b, needle], [b, c, needle], [c, a, needle]]
    split = Mesh(np.vstack([box.vertices, [5, 5 + 1e-8, 10]]), np.vstack([np.delete(box.triangles, face, axis=0), fan]))
    under = int(np.flatnonzero((split.corners[:, :, 2] == 0).all(axis=1))[0])
    mended, report = mend(without(split, [under]))
    assert report.after.findings == ()
    assert {s.step for s in report.steps} >= {"close_holes", "turn_slivers"}
    assert len(mended.triangles) == 14
