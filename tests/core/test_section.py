"""Sections of a skin: the cut face against closed forms, its hatching, and planes through corners and flat faces."""

import numpy as np
import pytest

from noble_clay.core.measure.section import section
from noble_clay.core.mesh.affine import turn_about
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, evaluated, join, part


def unit_of(normal):
    return np.array(normal, dtype=float) / np.linalg.norm(normal)


def cut(result, normal, at):
    mesh, part_of, ids = result.solid.mesh_with_parts()
    return section(mesh, part_of, unit_of(normal), at), ids


def filled(triangles):
    """Their area, mm²."""
    return float(
        np.linalg.norm(np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]), axis=1).sum() / 2
    )


def test_a_box_on_every_axis():
    solid = evaluated(box("a", size=(10, 20, 30)))
    for normal, area, length in (((1, 0, 0), 600, 100), ((0, 1, 0), 300, 80), ((0, 0, 1), 200, 60)):
        for sign in (1, -1):
            found, _ = cut(solid, [sign * n for n in normal], sign * 0.25)
            assert found.area == pytest.approx(area, rel=1e-12) and found.length == pytest.approx(length, rel=1e-12)
            assert filled(found.triangles) == pytest.approx(area, rel=1e-12)
            assert np.allclose(found.outline @ np.array(normal), 0.25) and np.allclose(found.triangles @ normal, 0.25)


def test_a_ball_cut_aslant_far_out():
    centre, normal, off = np.array([100.0, -50, 30]), unit_of((1, 2, -2)), 6.0
    solid = evaluated(part("a", "sphere", centre, radius=10, facets=400))
    found, _ = cut(solid, normal, float(centre @ normal) + off)
    assert found.area == pytest.approx(np.pi * (100 - 36), rel=1e-3)
    assert found.length == pytest.approx(2 * np.pi * 8, rel=1e-3)
    assert np.abs(np.linalg.norm(found.outline - (centre + off * normal), axis=-1) - 8).max() < 0.01


def test_a_hollow_is_not_filled():
    solid = evaluated(box("a", size=(20, 20, 20)), box("b", (0, 0, 2), size=(10, 10, 10), op="difference"))
    found, _ = cut(solid, (0, 0, 1), 2.5)
    assert found.area == pytest.approx(300) and found.length == pytest.approx(120)
    assert filled(found.triangles) == pytest.approx(300)
    middles = found.hatching.mean(axis=1)
    assert (np.abs(middles[:, :2]).max(axis=1) > 5 - 1e-9).all(), "no line stands in the hollow"


def test_a_plane_in_a_face_and_beside_it():
    solid = evaluated(box("a", size=(10, 10, 10)))
    top = float(solid.solid.mesh_with_parts()[0].vertices[:, 2].max())
    assert cut(solid, (0, 0, 1), top)[0].area in (0.0, pytest.approx(100))
    beside, _ = cut(solid, (0, 0, 1), top + 1e-3)
    assert beside.area == 0 and len(beside.triangles) == len(beside.hatching) == len(beside.outline) == 0


def test_hatching_covers_the_face_and_knows_its_parts():
    solid = evaluated(join("g", box("a", size=(20, 10, 10)), box("b", (15, 0, 0), size=(12, 10, 10))))
    found, ids = cut(solid, (0, 0, 1), 1.0)
    assert {ids[i] for i in found.hatched} == {"a", "b"}
    sides = {ids[i]: found.hatching[found.hatched == i].mean(axis=1)[:, 0] for i in set(found.hatched.tolist())}
    assert sides["a"].max() < 12 and sides["b"].min() > 8, "each where its own outline is nearest"
    gap = np.ptp(found.outline[..., :2].reshape(-1, 2) @ turn_about("z", 0)[:2, :2], axis=0).max() / 48
    lengths = np.linalg.norm(found.hatching[:, 1] - found.hatching[:, 0], axis=1)
    assert lengths.sum() * gap == pytest.approx(found.area, rel=0.05), "lines a gap apart fill the area once"


def test_random_planes_through_a_figure_agree_with_the_kernel():
    solid = evaluated(
        join("g", part("a", "sphere", radius=9), part("b", "cone", (0, 0, 5), bottom_radius=7, height=14)),
        part("c", "torus", (4, 0, 0), ring_radius=8, tube_radius=3),
        part("d", "cylinder", radius=2, height=60, op="difference"),
    )
    mesh, part_of, _ = solid.solid.mesh_with_parts()
    rng = np.random.default_rng(7)
    for _ in range(40):
        normal = unit_of(tuple(rng.normal(size=3)))
        at = float(rng.uniform(-9, 12))
        found = section(mesh, part_of, normal, at)
        frame = np.array([np.cross(normal, [0.3, 0.5, 0.8]), np.zeros(3), normal])
        frame[0] /= np.linalg.norm(frame[0])
        frame[1] = np.cross(normal, frame[0])
        turned = solid.solid.manifold.transform(np.column_stack([frame, np.zeros(3)]))
        assert found.area == pytest.approx(turned.slice(at).area(), rel=1e-6, abs=1e-6)
        assert filled(found.triangles) == pytest.approx(found.area, rel=1e-9, abs=1e-9)


def test_nothing_is_cut_of_nothing():
    empty = section(
        Mesh(np.empty((0, 3)), np.empty((0, 3), dtype=np.int32)), np.empty(0, dtype=np.int64), unit_of((0, 0, 1)), 0
    )
    assert empty.area == 0 and len(empty.triangles) == 0
