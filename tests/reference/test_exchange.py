"""GLB by the Khronos group's validator; PLY and OBJ by readers that share nothing with ours or trimesh's."""

import io
import json
import subprocess
import zipfile
from functools import cache

import numpy as np
import plyfile
import pytest
import tinyobjloader
from tools.frontend import FRONTEND, NODE_BIN, ensure_packages

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.write import piece_bytes
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.tree import shown_colours
from noble_clay.demo.loader import demo_pieces
from tests.building import box, part, piece

VALIDATOR = """
const { validateBytes } = require("gltf-validator");
const data = new Uint8Array(require("fs").readFileSync(0));
validateBytes(data, { maxIssues: 20 }).then((report) => console.log(JSON.stringify(report.issues)));
"""
ODD = piece(
    box("slab", (0, 0, 1), (30, 20, 2), _name="Slab & <base>", _colour="#c9683f"),
    part("knob", "sphere", (0, 0, 4), radius=4, facets=24, _name="Knöpfchen “oben”", _colour="#0a1b2c"),
    box("hole", (9, 0, 1), (4, 4, 9), op="difference", _colour="#ffffff"),
    name="Odd / name: 3",
)
PIECES = [ODD, demo_pieces()[0]]


@cache
def made_of(number):
    return Evaluator().evaluate(PIECES[number])


def validated(data):
    """The validator's issues: how many errors and warnings, and what each says."""
    ensure_packages()
    node = [str(NODE_BIN / "node"), "-e", VALIDATOR]
    done = subprocess.run(node, input=data, cwd=FRONTEND, capture_output=True, check=True)
    return json.loads(done.stdout)


@pytest.mark.parametrize("number", range(len(PIECES)), ids=[p.name for p in PIECES])
def test_glb_is_valid_to_the_khronos_validator(number):
    made, result = PIECES[number], made_of(number)
    for file_format in ("glb", "colours.glb"):
        issues = validated(piece_bytes(made, result, file_format))
        assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]


def test_the_validator_would_tell():
    data = bytearray(piece_bytes(ODD, made_of(0), "glb"))
    at = data.index(b'"count"')
    data[at : at + 7] = b'"coumt"'
    assert validated(bytes(data))["numErrors"] > 0


def faces_of(mesh, colours):
    """Every triangle as its corners and colour, in an order of their own."""
    rows = np.column_stack([np.asarray(mesh.corners, dtype=np.float32).reshape(-1, 9), colours])
    return rows[np.lexsort(rows.T)]


def colours_of(made, result):
    """(m, 3) the colour of each triangle, 0 to 255."""
    shown = shown_colours(made)
    of_parts = [[int(shown[i][k : k + 2], 16) for k in (1, 3, 5)] for i in result.part_ids]
    return np.array(of_parts)[result.written.part_of]


@pytest.mark.parametrize("number", range(len(PIECES)), ids=[p.name for p in PIECES])
def test_every_triangle_of_a_ply_and_its_colour_are_read_by_plyfile(number):
    made, result = PIECES[number], made_of(number)
    found = plyfile.PlyData.read(io.BytesIO(piece_bytes(made, result, "ply")))
    vertex, face = found["vertex"], found["face"]
    mesh = Mesh(
        np.column_stack([vertex[n] for n in "xyz"]).astype(float), np.stack(list(face["vertex_indices"])).astype(int)
    )
    colours = np.column_stack([face[n] for n in ("red", "green", "blue")])
    expected = faces_of(result.written.mesh, colours_of(made, result))
    np.testing.assert_array_equal(faces_of(mesh, colours), expected)


@pytest.mark.parametrize("number", range(len(PIECES)), ids=[p.name for p in PIECES])
def test_every_triangle_of_an_obj_and_its_colour_are_read_by_tinyobjloader(number, tmp_path):
    made, result = PIECES[number], made_of(number)
    with zipfile.ZipFile(io.BytesIO(piece_bytes(made, result, "obj.zip"))) as archive:
        archive.extractall(tmp_path)
    reader = tinyobjloader.ObjReader()
    assert reader.ParseFromFile(str(next(tmp_path.glob("*.obj")))), reader.Error()
    assert reader.Warning() == ""
    points = np.array(reader.GetAttrib().vertices).reshape(-1, 3)
    diffuse = np.array([m.diffuse for m in reader.GetMaterials()])
    corners, colours = [], []
    for shape in reader.GetShapes():
        corners.append(np.array([i.vertex_index for i in shape.mesh.indices]).reshape(-1, 3))
        colours.append(np.round(255 * diffuse[np.array(shape.mesh.material_ids)]))
    found = faces_of(Mesh(points, np.concatenate(corners)), np.concatenate(colours))
    expected = faces_of(result.written.mesh, colours_of(made, result))
    assert found.shape == expected.shape
    np.testing.assert_array_equal(found, expected)
