"""Files with fewer triangles: the surface stays where it was, but for what was allowed."""

import igl
import numpy as np
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.coarser import coarser
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.measure.walls import spread
from noble_clay.demo.loader import demo_pieces
from tests.building import box, part, piece

FIGURE = piece(
    part("body", "sphere", (0, 0, 20), radius=20, facets=128),
    part("arm", "capsule", (18, 0, 26), (0, 60, 0), radius=4, length=30, facets=64, _colour="#0a1b2c"),
    box("mouth", (0, -20, 24), (12, 6, 3), op="difference", _colour="#ffffff"),
    name="A round figure",
)


def off(mesh, other):
    """mm that points all over a mesh are off another at most."""
    points = spread(mesh, 0.7, 20_000).points
    squared, _, _ = igl.point_mesh_squared_distance(points, other.vertices, other.triangles.astype(np.int64))
    return float(np.sqrt(squared.max()))


@pytest.mark.parametrize("by", [0.01, 0.05, 0.3])
def test_the_surface_moves_by_no_more_than_was_said(by):
    result = Evaluator().evaluate(FIGURE)
    found = coarser(result, by)
    assert len(found.mesh.triangles) < len(result.mesh.triangles)
    assert found.inspection.sound
    assert max(off(found.mesh, result.mesh), off(result.mesh, found.mesh)) <= by
    assert set(found.part_ids) == set(result.part_ids)


def test_more_leaves_fewer():
    result = Evaluator().evaluate(FIGURE)
    counts = [len(coarser(result, by).mesh.triangles) for by in (0.01, 0.05, 0.3, 1)]
    assert counts == sorted(counts, reverse=True)
    assert counts[-1] < 0.2 * len(result.mesh.triangles)


def test_a_soft_piece_is_written_with_fewer_triangles_and_sound():
    """Soft skins cross themselves where edges are collapsed far: then they are collapsed less."""
    result = Evaluator().evaluate(demo_pieces()[0])
    found = coarser(result, 0.2)
    assert found.inspection.sound
    assert len(found.mesh.triangles) < 0.93 * len(result.mesh.triangles)
    assert off(found.mesh, result.mesh) <= 0.2


def test_so_coarse_that_nothing_is_left_is_refused():
    with pytest.raises(MeshError, match="coarser"):
        coarser(Evaluator().evaluate(piece(box("a", (0, 0, 0), (1, 1, 1)))), 1000)
