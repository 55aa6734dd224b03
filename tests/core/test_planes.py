"""The flat faces of solids, by which neighbours are made to meet."""

import numpy as np
import pytest

from noble_clay.core.kernel.planes import planes_of
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import Place
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.primitives.registry import PRIMITIVES


def mesh_of(kind, **fields):
    return PRIMITIVES[kind].model_validate({"kind": kind, **fields}).mesh()


@pytest.mark.parametrize(
    ("kind", "fields", "flat"),
    [
        ("box", {"size": [3, 4, 5]}, 6),
        ("wedge", {"size": [3, 4, 5]}, 5),
        ("prism", {"radius": 4, "height": 9, "sides": 6}, 8),
        ("cylinder", {"radius": 4, "height": 9, "facets": 200}, 2),
        ("sphere", {"radius": 4, "facets": 64}, 0),
        ("torus", {"ring_radius": 9, "tube_radius": 2, "facets": 64}, 0),
        ("capsule", {"radius": 2, "length": 9, "facets": 200}, 0),
        ("sphere", {"radius": 4, "facets": 8}, 32),
    ],
)
def test_as_many_as_a_maker_would_count(kind, fields, flat):
    found = planes_of(mesh_of(kind, **fields), even_is_round=True)
    assert len(found.reaches) == flat


def test_planes_go_where_the_solid_goes():
    mesh = mesh_of("wedge", size=[3, 4, 5])
    matrix = place_matrix(Place(position=(7, -2, 11), rotation=(20, 30, 40), scale=(2, 1, 3)), {"x"})
    placed = planes_of(mesh).placed(matrix)
    there = mesh.vertices @ matrix[:, :3].T + matrix[:, 3]
    for normal, point, middle, reach in zip(placed.normals, placed.points, placed.middles, placed.reaches, strict=True):
        assert np.linalg.norm(normal) == pytest.approx(1)
        heights = (there - point) @ normal
        assert heights.max() == pytest.approx(0, abs=1e-9), "the whole solid lies behind a face of something convex"
        on_face = there[np.abs(heights) < 1e-9]
        assert len(on_face) >= 3
        assert np.linalg.norm(on_face - middle, axis=1).max() <= reach + 1e-9


def test_a_triangle_without_area_counts_nowhere():
    box = mesh_of("box", size=[2, 2, 2])
    flat = Mesh(box.vertices, np.vstack([box.triangles, [[0, 0, 1]]]))
    assert len(planes_of(flat).reaches) == 6
    assert areas(flat)[-1] == 0
    assert normals(flat)[-1].tolist() == [0, 0, 0]
    assert areas(flat).sum() == pytest.approx(24)
