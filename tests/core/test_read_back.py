"""Every file is read again before it is given out: one that holds anything else is refused."""

import numpy as np
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.read_back import check_read_back
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.formats.write import piece_bytes
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, part, piece

MADE = piece(
    box("slab", (1000, -2000, 1), (31.7, 20.123, 2), _colour="#c9683f"),
    part("knob", "sphere", (1003.3, -2000, 4), radius=4.2, facets=24, _colour="#0a1b2c"),
    part("hole", "cylinder", (991, -2000, 1), radius=1 / 3, height=9, op="difference"),
)
RESULT = Evaluator().evaluate(MADE)
MESH = RESULT.written.mesh


def moved(mesh):
    """One point a hair further on."""
    vertices = mesh.vertices.copy()
    vertices[5, 0] += 0.001
    return Mesh(vertices, mesh.triangles)


def turned(mesh):
    """One triangle inside out."""
    triangles = mesh.triangles.copy()
    triangles[3] = triangles[3, ::-1]
    return Mesh(mesh.vertices, triangles)


def short(mesh):
    return Mesh(mesh.vertices, mesh.triangles[:-1])


@pytest.mark.parametrize("file_format", FORMATS)
def test_what_was_written_is_what_is_read_and_nothing_else(file_format):
    data = piece_bytes(MADE, RESULT, file_format)
    check_read_back(data, file_format, MESH)
    for changed in (moved, turned, short):
        with pytest.raises(MeshError, match="does not hold what was written"):
            check_read_back(data, file_format, changed(MESH))


def test_a_file_cut_short_is_no_file():
    data = piece_bytes(MADE, RESULT, "stl")
    with pytest.raises(MeshError):
        check_read_back(data[:-50], "stl", MESH)


def test_a_zero_is_a_zero_whatever_its_sign():
    mesh = Mesh(
        np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]]), np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    )
    data = FORMATS["ply"].write(mesh, "corner", None)
    check_read_back(data, "ply", Mesh(np.where(mesh.vertices == 0, -0.0, mesh.vertices), mesh.triangles))
