"""Damaged solids come back, judged by trimesh, and by libigl with CGAL's exact predicates; not by our own findings."""

import igl
import numpy as np
import pytest
import trimesh
from igl.copyleft import cgal
from tools.models import ensure_models

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mend.plan import mend
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, evaluated, part
from tests.damage import DAMAGES, damaged, kinked, primitive, together

SOLIDS = {
    "ball": [part("a", "sphere", radius=9)],
    "cup": [
        part("a", "cylinder", radius=9, height=12),
        part("b", "cylinder", (0, 0, 3), op="difference", radius=7, height=12),
    ],
    "pierced": [box("a", size=(20, 12, 8)), part("b", "cylinder", op="difference", radius=3, height=30)],
    "ring": [part("a", "torus", ring_radius=9, tube_radius=3)],
}


def crossings(mesh):
    """How many pairs of triangles cross, by exact arithmetic (CGAL, through libigl)."""
    found = cgal.remesh_self_intersections(
        np.ascontiguousarray(mesh.vertices), np.ascontiguousarray(mesh.triangles), detect_only=True
    )
    return len(found[2])


def farthest(points, mesh):
    squared = igl.point_mesh_squared_distance(points, mesh.vertices, mesh.triangles)[0]
    return float(np.sqrt(squared.max()))


def judged(mesh):
    found = trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)
    assert found.is_watertight
    assert found.is_winding_consistent
    assert found.volume > 0
    return found


@pytest.mark.parametrize("damage", DAMAGES)
@pytest.mark.parametrize("solid", SOLIDS)
def test_a_damaged_solid_comes_back(solid, damage):
    truth = evaluated(*SOLIDS[solid]).mesh
    mended, report = mend(damaged(truth, DAMAGES[damage]))
    found = judged(mended)
    assert found.body_count == 1
    assert found.volume == pytest.approx(inspect_mesh(truth).volume, rel=1e-3)
    diagonal = np.linalg.norm(np.ptp(truth.vertices, axis=0))
    assert farthest(truth.vertices, mended) < 0.002 * diagonal
    assert farthest(mended.vertices, truth) < 0.002 * diagonal
    assert crossings(mended) == 0
    assert report.after.sound


@pytest.mark.parametrize("facets", [24, 48])
@pytest.mark.parametrize("shift", [0.3, 0.6, 0.95])
def test_pairs_that_cross_are_counted_as_exact_arithmetic_counts_them(facets, shift):
    ball = primitive("sphere", radius=10, facets=facets)
    two = together(ball, Mesh(ball.vertices @ turn(0.3) + [20 * shift, 1.3, 0.7], ball.triangles))
    counted = {f.kind: f.count for f in inspect_mesh(two).findings}
    assert counted.get("self_intersections", 0) == crossings(two)


def turn(angle):
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])


@pytest.mark.parametrize("seed", range(6))
def test_folds_are_untangled(seed):
    """Points pulled through the surface beside them: what remains crosses nothing, and is where the surface was."""
    ball = primitive("sphere", radius=10, facets=40)
    broken = kinked(ball, np.random.default_rng(seed))
    assert crossings(broken) > 0
    mended, _ = mend(broken)
    found = judged(mended)
    assert found.volume == pytest.approx(inspect_mesh(ball).volume, rel=0.01)
    assert len(crossing := inspect_mesh(mended).findings) == 0, crossing
    assert farthest(mended.vertices, broken) < 1e-3


@pytest.mark.parametrize("count", [2, 5, 9])
def test_bodies_glued_together_without_a_join_become_their_union(count):
    """Against the kernel's exact union, part by part."""
    balls = [primitive("sphere", (6 * i, 2 * (i % 3), i % 2), radius=5, facets=32) for i in range(count)]
    parts = [part(f"p{i}", "sphere", (6 * i, 2 * (i % 3), i % 2), radius=5, facets=32) for i in range(count)]
    mended, report = mend(together(*balls))
    assert judged(mended).body_count == 1
    assert judged(mended).volume == pytest.approx(evaluated(*parts).inspection.volume, rel=1e-9)
    assert [s.step for s in report.steps] == ["unite"]


STLS = [f"assimp/STL/{name}" for name in ("Wuson.stl", "Spider_ascii.stl", "3DSMaxExport.STL", "sphereWithHole.stl")]


@pytest.mark.parametrize("name", ["bunny.obj", "airplane.ply", "ant.ply", "nut.ply", "assimp/OBJ/spider.obj", *STLS])
def test_meshes_that_others_carry_are_mended(name):
    path = ensure_models() / name
    before = read_mesh(path.read_bytes(), path.suffix).mesh
    mended, report = mend(before)
    judged(mended)
    assert report.after.manifold
    points = trimesh.sample.sample_surface(
        trimesh.Trimesh(mended.vertices, mended.triangles, process=False), 2000, seed=1
    )
    away = np.sqrt(igl.point_mesh_squared_distance(np.asarray(points[0]), before.vertices, before.triangles)[0])
    diagonal = np.linalg.norm(np.ptp(before.vertices, axis=0))
    assert np.mean(away < 0.005 * diagonal) > 0.95, "nothing is invented"


@pytest.mark.parametrize("name", ["OBJ/concave_polygon.obj", "PLY/float-color.ply", "STL/triangle.stl"])
def test_what_encloses_nothing_is_not_mended_into_nothing(name):
    path = ensure_models() / "assimp" / name
    before = read_mesh(path.read_bytes(), path.suffix).mesh
    mended, report = mend(before)
    assert len(mended.triangles) > 0
    assert "encloses nothing" in report.proposal
