"""Triangles that cross, counted beside CGAL's exact predicates (through libigl) and by rational arithmetic."""

from fractions import Fraction
from itertools import combinations

import igl
import numpy as np
import pytest
from igl.copyleft import cgal

from noble_clay.core.mend.outer_skin import sides_of_patches
from noble_clay.core.mend.untangle import untangle
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.mesh import Mesh
from tests.damage import primitive, together


def exact(mesh):
    """Pairs that cross by CGAL, which also tells of pairs that only touch."""
    found = cgal.remesh_self_intersections(
        np.ascontiguousarray(mesh.vertices), np.ascontiguousarray(mesh.triangles), detect_only=True
    )[2]
    return {tuple(sorted(p)) for p in np.asarray(found).tolist()}


def soup(seed, number, reach):
    rng = np.random.default_rng(seed)
    corners = rng.uniform(0, 10, (number, 1, 3)) + rng.uniform(-reach, reach, (number, 3, 3))
    return Mesh(corners.reshape(-1, 3), np.arange(3 * number).reshape(-1, 3))


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize(("number", "reach"), [(60, 3.0), (300, 1.5), (1500, 0.6)])
def test_triangles_at_random(seed, number, reach):
    mesh = soup(seed, number, reach)
    found = {tuple(p) for p in crossing_pairs(mesh).tolist()}
    assert found
    assert found == exact(mesh)


@pytest.mark.parametrize("seed", range(8))
def test_triangles_that_share_points(seed):
    """Vertices of few places, so that most pairs have one or two in common."""
    rng = np.random.default_rng(seed)
    points = rng.uniform(0, 10, (14, 3))
    triangles = np.array(list(combinations(range(14), 3)))
    mesh = Mesh(points, triangles[rng.choice(len(triangles), 80, replace=False)])
    found = {tuple(p) for p in crossing_pairs(mesh).tolist()}
    assert found
    assert found == exact(mesh)


def side(a, b, c, d):
    """The exact sign of six times the volume of a, b, c, d."""
    u, v, w = ([Fraction(float(p[k])) - Fraction(float(d[k])) for k in range(3)] for p in (a, b, c))
    six = u[0] * (v[1] * w[2] - v[2] * w[1]) + u[1] * (v[2] * w[0] - v[0] * w[2]) + u[2] * (v[0] * w[1] - v[1] * w[0])
    return (six > 0) - (six < 0)


def edge_goes_through(p, q, a, b, c):
    """Whether the open segment meets the open triangle, told in rational arithmetic."""
    if side(a, b, c, p) * side(a, b, c, q) >= 0:
        return False
    turns = {side(p, q, a, b), side(p, q, b, c), side(p, q, c, a)}
    return turns in ({1}, {-1})


@pytest.mark.parametrize("seed", range(6))
def test_edges_through_faces_told_in_rational_arithmetic(seed):
    """Two triangles in general position cross where an edge of one goes through the other (common practice)."""
    mesh = soup(seed, 40, 4.0)
    expected = set()
    for i, j in combinations(range(40), 2):
        for one, other in ((i, j), (j, i)):
            t = mesh.corners[one]
            if any(edge_goes_through(t[k], t[(k + 1) % 3], *mesh.corners[other]) for k in range(3)):
                expected.add((i, j))
    assert expected
    assert {tuple(p) for p in crossing_pairs(mesh).tolist()} == expected


@pytest.mark.parametrize("size", [1e-3, 1.0, 1e4])
@pytest.mark.parametrize("away", [0.0, 3.0])
def test_the_count_is_the_same_at_any_size_and_place(size, away):
    ball = primitive("sphere", radius=10, facets=28)
    two = together(ball, Mesh(ball.vertices + [9.3, 1.1, 0.7], ball.triangles))
    moved = Mesh((two.vertices + away * 10) * size, two.triangles)
    assert np.array_equal(crossing_pairs(moved), crossing_pairs(two))


@pytest.mark.parametrize("shift", [2.0, 7.0, 13.0])
def test_patches_lie_between_whole_winding_numbers(shift):
    """In front of and behind any piece of closed surfaces the generalised winding number is whole, and they differ by
    one (A. Jacobson and others, 2013)."""
    from noble_clay.core.mend.arrange import arranged

    ball = primitive("sphere", radius=10, facets=24)
    two = together(ball, Mesh(ball.vertices + [shift, 1.3, 0.4], ball.triangles))
    cut, _ = arranged(two, crossing_pairs(two))
    patch, before, behind = sides_of_patches(cut, two)
    assert len(before) == 4, "outer and inner piece of each"
    assert before == pytest.approx(np.round(before), abs=1e-2)
    assert behind - before == pytest.approx(np.ones(4), abs=1e-2)
    assert sorted(np.round(behind).tolist()) == [1, 1, 2, 2]
    assert len(patch) == len(cut.triangles)


@pytest.mark.parametrize("seed", range(4))
def test_a_heap_of_bodies_untangled_holds_what_they_hold_together(seed):
    """Points at random are in the skin where the heap winds around them at least once."""
    rng = np.random.default_rng(seed)
    heap = together(
        *(primitive("sphere", rng.uniform(-8, 8, 3), radius=rng.uniform(3, 6), facets=20) for _ in range(5))
    )
    skin, done = untangle(heap)
    assert done.more["left"] == 0
    points = rng.uniform(-14, 14, (4000, 3))
    inside = igl.fast_winding_number(heap.vertices, heap.triangles, points) > 0.5
    within = igl.fast_winding_number(skin.vertices, skin.triangles, points)
    near = np.sqrt(igl.point_mesh_squared_distance(points, skin.vertices, skin.triangles)[0]) < 1e-3
    assert inside.sum() > 100
    assert np.array_equal((within > 0.5)[~near], inside[~near])
