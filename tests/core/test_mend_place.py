"""One flaw mended by itself, or all of a kind: that one is gone, and everything else is as it was."""

import numpy as np
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.mend.mend_place import mend_place
from noble_clay.core.mend.places import flaws
from noble_clay.core.mend.weld import weld
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.severity import SEVERITY
from tests.damage import (
    cracked,
    crumbed,
    damaged,
    doubled,
    flipped,
    holed,
    inside_out,
    kinked,
    loose,
    primitive,
    stepped,
    together,
    torn,
    without,
)

BALL = primitive("sphere", radius=12, facets=48)
CUBE = primitive("box", size=[4, 4, 4])


def counts(mesh):
    return {f.kind: f.count for f in inspect_mesh(mesh).findings}


def welded(*meshes):
    return weld(together(*meshes), 1e-6)[0]


def slivered():
    """A cube with a point on one edge that one side knows as a sliver."""
    points = np.concatenate(
        [CUBE.vertices, [(CUBE.vertices[CUBE.triangles[0, 0]] + CUBE.vertices[CUBE.triangles[0, 1]]) / 2]]
    )
    a, b, c = CUBE.triangles[0]
    new = len(CUBE.vertices)
    return Mesh(points, np.concatenate([[[a, new, c], [new, b, c], [a, b, new]], CUBE.triangles[1:]]))


def number_of(mesh, kind):
    return next(i for i, flaw in enumerate(flaws(mesh)) if flaw.kind == kind)


CASES = {
    "open_edges": damaged(BALL, [holed]),
    "flipped_faces": damaged(BALL, [flipped]),
    "inside_out_bodies": together(
        damaged(BALL, [inside_out]), damaged(primitive("sphere", (40, 0, 0), radius=5), [inside_out])
    ),
    "duplicate_faces": damaged(BALL, [doubled]),
    "degenerate_faces": slivered(),
    "self_intersections": together(
        BALL,
        primitive("box", (9, 0, 0), size=[10, 10, 10]),
        primitive("box", (60, 0, 0), size=[10, 10, 10]),
        primitive("box", (64, 3, 2), size=[10, 10, 10]),
    ),
    "loose_bodies": damaged(BALL, [crumbed]),
    "overshared_edges": welded(
        CUBE, primitive("box", (4, 4, 0), size=[4, 4, 4]), primitive("box", (-4, -4, 0), size=[4, 4, 4])
    ),
    "pinched_vertices": welded(
        CUBE, primitive("box", (4, 4, 4), size=[4, 4, 4]), primitive("box", (-4, -4, -4), size=[4, 4, 4])
    ),
}


@pytest.mark.parametrize("kind", sorted(SEVERITY))
def test_one_flaw_is_mended_and_the_others_of_its_kind_stay(kind):
    mesh = CASES[kind]
    number = number_of(mesh, kind)
    here = flaws(mesh)[number]
    mended, report = mend_place(mesh, kind, number)
    before, after = counts(mesh), counts(mended)
    left = before[kind] - here.count
    assert after.get(kind, 0) == left
    assert {k: v for k, v in after.items() if k not in (kind, "loose_bodies")} == {}
    assert report.before.findings == inspect_mesh(mesh).findings
    assert report.after.findings == inspect_mesh(mended).findings
    assert report.steps


@pytest.mark.parametrize("kind", sorted(SEVERITY))
def test_all_of_a_kind_are_mended_at_once(kind):
    mended, _ = mend_place(CASES[kind], kind, None)
    assert kind not in counts(mended) or kind == "loose_bodies"
    if kind == "loose_bodies":
        assert counts(mended) == {}, "they are all crumbs"


def test_only_the_triangles_concerned_change():
    mesh = CASES["open_edges"]
    mended, report = mend_place(mesh, "open_edges", 1)
    np.testing.assert_array_equal(mended.triangles[: len(mesh.triangles)], mesh.triangles)
    np.testing.assert_array_equal(mended.vertices, mesh.vertices)
    assert report.moved.largest < 0.3, "no farther than the middle of the hole is from its rim"


@pytest.mark.parametrize("damage", [cracked, stepped])
def test_a_crack_whose_sides_run_along_each_other_is_zipped_and_not_capped(damage):
    mesh = damaged(BALL, [damage])
    mended, report = mend_place(mesh, "open_edges", 0)
    assert report.steps[0].step == "zip_cracks"
    assert report.after.bodies == 1
    assert inspect_mesh(mended).area == pytest.approx(inspect_mesh(BALL).area, rel=1e-3), "no caps were put in"


def test_a_large_hole_is_closed_beside_a_small_one_that_stays():
    mesh = damaged(BALL, [torn, holed])
    largest = flaws(mesh)[0]
    mended, _ = mend_place(mesh, "open_edges", 0)
    assert counts(mended) == {"open_edges": counts(mesh)["open_edges"] - largest.count}


def corner_sets(corners):
    """Triangles by the points they have."""
    return {frozenset(map(tuple, triangle)) for triangle in corners.tolist()}


def test_a_fold_is_untangled():
    folded = damaged(BALL, [kinked])
    crossing = np.unique(crossing_pairs(folded))
    assert len(crossing) > 0
    mended, _ = mend_place(folded, "self_intersections", 0)
    assert inspect_mesh(mended).sound and len(crossing_pairs(mended)) == 0
    assert volume(mended) == pytest.approx(volume(BALL), rel=0.02), "what was a ball is one again"
    # All that the fold did not reach stays to the last triangle.
    away = ~np.isin(folded.triangles, folded.triangles[crossing]).any(axis=1)
    assert corner_sets(folded.corners[away]) <= corner_sets(mended.corners)


@pytest.mark.parametrize("opened", [False, True])
def test_what_goes_in_by_a_hair_comes_out_there_also_of_a_body_that_is_open(opened):
    """A cone stands on a block with its tip in it, three slacks deep; two other blocks run into each other."""
    tip = primitive("cone", (0.7, 0.3, 4), bottom_radius=0, top_radius=3, height=4, facets=7)
    others = CASES["self_intersections"]
    others = Mesh(others.vertices + [200.0, 0, 0], others.triangles)
    slack = slack_of(others)
    lowered = Mesh(tip.vertices - [0, 0, 3 * slack], tip.triangles)
    mesh = together(without(CUBE, np.arange(len(CUBE.triangles)) == 0) if opened else CUBE, lowered, others)
    here = next(i for i, f in enumerate(flaws(mesh)) if f.kind == "self_intersections" and abs(f.at[0]) < 3)
    mended, report = mend_place(mesh, "self_intersections", here)
    assert [s.step for s in report.steps] == ["patch_over"]
    assert counts(mended)["self_intersections"] == counts(mesh)["self_intersections"] - flaws(mesh)[here].count
    assert counts(mended).get("open_edges", 0) == counts(mesh).get("open_edges", 0)
    assert report.moved.largest <= 50 * slack


def test_dropping_a_body_drops_the_hollow_in_it():
    hollow = damaged(primitive("sphere", (40, 0, 0), radius=3), [inside_out])
    mesh = together(BALL, primitive("sphere", (40, 0, 0), radius=6), hollow)
    assert inspect_mesh(mesh).voids == 1
    mended, _ = mend_place(mesh, "loose_bodies", number_of(mesh, "loose_bodies"))
    assert inspect_mesh(mended).sound


@pytest.mark.parametrize(
    ("mesh", "kind", "number", "words"),
    [
        (BALL, "open_edges", 0, "not there any more"),
        (damaged(BALL, [holed]), "flipped_faces", 0, "not there any more"),
        (together(BALL, primitive("box", (60, 0, 0), size=[9, 9, 9])), "loose_bodies", None, "whole mesh"),
        (
            damaged(together(BALL, primitive("box", (9, 0, 0), size=[9, 9, 9])), [loose]),
            "self_intersections",
            None,
            "cracks first",
        ),
    ],
)
def test_what_cannot_be_mended_by_itself_is_refused_in_words(mesh, kind, number, words):
    with pytest.raises(MeshError, match=words):
        mend_place(mesh, kind, number)
