"""Shape changes against closed forms and the counts of the rules they follow."""

import math

import numpy as np
import pytest

from noble_clay.core.changes.hollow import Hollow
from noble_clay.core.changes.quads import catmull_clark, quad_subdivided
from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.changes.subdivide import Subdivide
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.primitives.registry import PRIMITIVES


def solid(kind, **fields):
    return Solid.from_mesh(PRIMITIVES[kind].model_validate({"kind": kind, **fields}).mesh(), "a", True)


def changed(before, kind, **fields):
    return CHANGES[kind].model_validate({"kind": kind, **fields}).made(before)


def test_catmull_clark_makes_a_vertex_of_every_vertex_edge_and_face():
    """Catmull & Clark 1978: V + E + F vertices, and a quad for every corner of every face."""
    cube = PRIMITIVES["box"].model_validate({"kind": "box", "size": [10, 10, 10]}).mesh()
    corners = np.array([[3, 2, 1, 0], [4, 5, 6, 7], [0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7]])
    vertices, quads, _ = catmull_clark(cube.vertices, corners.reshape(-1), np.full(6, 4))
    assert (len(vertices), len(quads)) == (8 + 12 + 6, 24)
    # Of a cube of side 2 about the origin, a corner goes to 5/9 of itself after one step (by its vertex rule).
    reached = np.abs(vertices[:8] / 5)
    assert np.allclose(reached, 5 / 9)


def test_each_round_of_quads_makes_about_four_times_as_many():
    """A closed quad cylinder of 482 points goes to about 31,000 after three rounds (common practice)."""
    sides, rows = 24, 20
    angle = np.arange(sides) * 2 * np.pi / sides
    ring = np.column_stack([np.cos(angle), np.sin(angle)])
    points = [np.column_stack([ring, np.full(sides, z)]) for z in range(rows)]
    vertices = np.concatenate([*points, [[0, 0, 0], [0, 0, rows - 1]]])
    grid = np.arange(sides * rows).reshape(rows, sides)
    turned = np.roll(grid, -1, axis=1)
    quads = np.stack([grid[:-1], turned[:-1], turned[1:], grid[1:]], axis=-1).reshape(-1, 4)
    lids = np.concatenate(
        [
            np.column_stack([turned[0], grid[0], np.full(sides, sides * rows)]),
            np.column_stack([grid[-1], turned[-1], np.full(sides, sides * rows + 1)]),
        ]
    )
    corners = np.concatenate([quads.reshape(-1), lids.reshape(-1)])
    sizes = np.concatenate([np.full(len(quads), 4), np.full(len(lids), 3)])
    assert len(vertices) == 482
    counts = []
    for _ in range(3):
        vertices, found, _ = catmull_clark(vertices, corners, sizes)
        corners, sizes = found.reshape(-1), np.full(len(found), 4)
        counts.append(len(vertices))
    assert 29_000 < counts[-1] < 32_000
    assert all(3.8 < b / a < 4.2 for a, b in zip(counts[:-1], counts[1:], strict=True))


@pytest.mark.parametrize("way", ["finer", "rounder"])
@pytest.mark.parametrize("steps", [1, 2, 3])
def test_loop_and_midpoints_make_four_triangles_of_one(way, steps):
    """Loop 1987."""
    before = solid("star", points=5, radius=12, inner_radius=6, height=8)
    after = Subdivide(kind="subdivide", steps=steps, way=way).made(before)
    assert after.manifold.num_tri() == before.manifold.num_tri() * 4**steps
    if way == "finer":
        assert after.volume == pytest.approx(before.volume, rel=1e-12)


def test_quads_of_a_cube_tend_to_a_figure_as_symmetrical_as_it():
    mesh, _ = quad_subdivided(solid("box", size=[10, 10, 10]).mesh_only(), 3)
    swapped = {tuple(np.round(v, 6)) for v in mesh.vertices[:, [1, 2, 0]]}
    assert swapped == {tuple(np.round(v, 6)) for v in mesh.vertices}


def rounded_box(size, r):
    """Steiner's formula: a box inset by r, its faces, edges and corners grown by r again."""
    a, b, c = (s - 2 * r for s in size)
    return a * b * c + 2 * r * (a * b + b * c + c * a) + math.pi * r * r * (a + b + c) + 4 / 3 * math.pi * r**3


def test_a_rounded_box_has_the_volume_of_its_closed_form():
    size, r = (20, 16, 12), 3
    errors = []
    for facets in (32, 64):
        found = changed(solid("box", size=list(size)), "round", radius=r, facets=facets)
        errors.append(rounded_box(size, r) - found.volume)
        assert np.allclose(found.bounds, [[-10, -8, -6], [10, 8, 6]], atol=1e-9)
    assert 0 < errors[1] < errors[0] / 3.5, "inscribed, and nearer by the square of the sides"
    assert errors[1] < 0.002 * rounded_box(size, r)


def test_a_solid_that_is_not_convex_is_rounded_alike_by_its_field():
    """Two rounded boxes, far apart, as one solid: not convex, so the field is taken; the closed form is the same."""
    one = solid("box", size=[20, 16, 12])
    matrix = np.eye(3, 4)
    matrix[0, 3] = 40
    both = Solid(one.manifold + one.placed(matrix).manifold, one.labels, one.planes)
    found = changed(both, "round", radius=3, fineness=0.5)
    assert found.volume == pytest.approx(2 * rounded_box((20, 16, 12), 3), rel=4e-3)


@pytest.mark.parametrize("wall", [0.8, 2, 3.5])
def test_walls_of_a_hollow_box_are_as_thick_as_asked(wall):
    found = changed(solid("box", size=[20, 16, 12]), "hollow", wall=wall)
    inside = (20 - 2 * wall) * (16 - 2 * wall) * (12 - 2 * wall)
    assert found.volume == pytest.approx(20 * 16 * 12 - inside, rel=1e-9)


def test_walls_of_a_hollow_sphere_are_as_thick_as_asked():
    outer = solid("sphere", radius=10, facets=64)
    cavity = Hollow(kind="hollow", wall=2)._cavity(outer).mesh_only()
    thick = -MeshDistance(outer.mesh_only())(cavity.vertices)
    assert np.allclose(thick, 2, atol=1e-6), "of the mesh"
    radii = np.linalg.norm(cavity.vertices, axis=1)
    assert abs(radii - 8).max() < 0.05, "and of the true sphere, to the roundness of 64 sides"


def test_walls_of_a_hollow_torus_are_as_thick_as_asked():
    """By the field: a torus of tube radius 4 with a wall of 1.5 leaves one of tube radius 2.5 inside (Pappus)."""
    found = changed(solid("torus", ring_radius=10, tube_radius=4, facets=128, tube_facets=96), "hollow", wall=1.5)
    assert found.volume == pytest.approx(2 * math.pi**2 * 10 * (16 - 6.25), rel=5e-3)


def test_a_cavity_thinner_than_a_third_of_its_wall_is_found():
    """Pappus: a ring's volume is that of its round section times the way of its middle."""
    ring = solid("torus", ring_radius=15, tube_radius=6, facets=128, tube_facets=128)
    cavity = ring.volume - changed(ring, "hollow", wall=5.4).volume
    assert cavity == pytest.approx(2 * math.pi**2 * 15 * 0.6**2, rel=0.1)


def test_an_open_box_is_a_cup():
    found = changed(solid("box", size=[20, 16, 12]), "hollow", wall=2, open="z+")
    assert found.volume == pytest.approx(20 * 16 * 12 - 16 * 12 * 10, rel=1e-9)
    assert found.bodies == 1


def test_drain_holes_go_through_the_floor():
    closed = changed(solid("box", size=[20, 16, 12]), "hollow", wall=2)
    drained = changed(solid("box", size=[20, 16, 12]), "hollow", wall=2, drain={"count": 3, "diameter": 3})
    each = 32 / 2 * math.sin(2 * math.pi / 32) * 1.5**2 * 2  # a prism of 32 sides through 2 mm
    assert closed.volume - drained.volume == pytest.approx(3 * each, rel=1e-6)


@pytest.mark.parametrize("angle", [30, 90, 200])
def test_twisting_keeps_the_volume(angle):
    """Cavalieri's principle: every slice is turned, none is changed."""
    before = solid("box", size=[10, 10, 30])
    found = changed(before, "twist", angle=angle, slices=96)
    assert found.volume == pytest.approx(3000, rel=2e-3)


@pytest.mark.parametrize(("angle", "towards"), [(40, 0), (90, 90), (-150, 30), (359, 0)])
def test_bending_keeps_the_volume_of_what_is_alike_on_both_sides(angle, towards):
    """Pappus: the slice's area times the way of its centroid, which is as long as the straight part was."""
    found = changed(solid("box", size=[4, 4, 60]), "bend", angle=angle, towards=towards, slices=128)
    assert found.volume == pytest.approx(960, rel=2e-3)


def test_a_tapered_box_is_the_frustum_of_a_pyramid():
    """Prismatoid formula: h / 6 (A0 + 4 Am + A1)."""
    found = changed(solid("box", size=[10, 10, 12]), "taper", top=0.4)
    assert found.volume == pytest.approx(12 / 6 * (100 + 4 * 49 + 16), rel=1e-9)


def test_flattening_a_sphere_leaves_a_cap_less():
    """Volume of a spherical cap, pi h² (3r - h) / 3."""
    before = solid("sphere", radius=10, facets=256)
    found = changed(before, "flatten", depth=3)
    assert before.volume - found.volume == pytest.approx(math.pi * 9 * (30 - 3) / 3, rel=2e-3)


def test_resurfacing_keeps_edges_and_makes_even_triangles():
    found = changed(solid("box", size=[20, 16, 12]), "resurface", resolution=1).mesh_only()
    assert np.allclose(found.bounds, [[-10, -8, -6], [10, 8, 6]], atol=1e-9)
    sides = np.linalg.norm(found.corners - np.roll(found.corners, -1, axis=1), axis=2)
    assert 0.5 < np.median(sides) < 1.2
    assert np.percentile(sides, 95) < 2 * np.median(sides)
    on_edge = np.sum(np.isclose(np.abs(found.vertices), [10, 8, 6], atol=1e-9), axis=1) >= 2
    assert on_edge.sum() > 0.6 * 4 * (20 + 16 + 12), "the sharp edges are lined with vertices"


@pytest.mark.parametrize("cell", [0.5, 0.8, 1.3])
def test_a_lattice_too_coarse_for_the_part_still_gives_a_closed_solid(cell):
    found = changed(solid("torus", ring_radius=10, tube_radius=3), "round", radius=1, fineness=cell)
    assert str(found.manifold.status()).endswith("NoError") and found.manifold.genus() == 1
    assert found.volume == pytest.approx(2 * math.pi**2 * 10 * 9, rel=0.15)


def test_simplifying_to_a_count_keeps_it():
    found = changed(solid("sphere", radius=10, facets=96), "simplify", count=1000)
    assert 800 < found.manifold.num_tri() <= 1000
    assert found.volume == pytest.approx(4 / 3 * math.pi * 1000, rel=0.03), "inscribed"
