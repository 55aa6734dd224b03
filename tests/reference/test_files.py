"""Files as others read them: lib3mf in strict mode, the sizes of the STL format, trimesh for the rest."""

import io
import struct
import zipfile

import numpy as np
import pytest
import trimesh
from lib3mf import get_wrapper

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.formats.write import piece_bytes
from noble_clay.core.mend.plan import mend
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import areas
from noble_clay.core.piece.tree import shown_colours
from noble_clay.demo.barnacle_bell import barnacle_bell
from noble_clay.demo.loader import demo_pieces
from tests.building import box, join, part, piece

CLAW = piece(
    join(
        "claw",
        part("palm", "ellipsoid", radii=[11, 7, 14], _name="Palm & fist"),
        part("bite", "pyramid", (0, 0, 9), sides=4, radius=6, height=20, op="difference", _colour="#26282a"),
        colour="#c9683f",
    ),
    box("base", (0, 0, -14), (30, 20, 4)),
    name="Claw <big>",
)


@pytest.fixture(scope="module")
def result():
    return Evaluator().evaluate(CLAW)


def test_stl_has_the_size_and_content_of_the_format(result):
    """80 + 4 + 50·n bytes; normal, three corners, two bytes (the format as in common use)."""
    data = piece_bytes(CLAW, result, "stl")
    count = struct.unpack_from("<I", data, 80)[0]
    assert count == result.inspection.triangles
    assert len(data) == 84 + 50 * count
    assert not data.lower().startswith(b"solid")
    first = np.frombuffer(data, "<f4", 12, 84).reshape(4, 3)
    normal = np.cross(first[2] - first[1], first[3] - first[1])
    np.testing.assert_allclose(first[0], normal / np.linalg.norm(normal), atol=1e-4)


@pytest.mark.parametrize("file_format", [f.ending for f in FORMATS.values() if f.reads])
def test_every_format_is_closed_and_whole_to_trimesh(result, file_format):
    data = piece_bytes(CLAW, result, file_format)
    mesh = (
        threemf_mesh(data)
        if file_format == "3mf"
        else trimesh.load(io.BytesIO(data), file_type=file_format, force="mesh")
    )
    mesh.merge_vertices()
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert mesh.volume == pytest.approx(result.inspection.volume, rel=1e-5)
    np.testing.assert_allclose(mesh.bounds, result.inspection.bounds, atol=1e-4)


def strict_model(data):
    model = get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(data)
    assert reader.GetWarningCount() == 0
    return model


def threemf_mesh(data):
    meshes = strict_model(data).GetMeshObjects()
    assert meshes.MoveNext()
    body = meshes.GetCurrentMeshObject()
    vertices = [tuple(v.Coordinates) for v in body.GetVertices()]
    triangles = [tuple(t.Indices) for t in body.GetTriangleIndices()]
    return trimesh.Trimesh(vertices, triangles, process=False)


def test_3mf_is_read_strictly_with_names_and_colours(result):
    model = strict_model(piece_bytes(CLAW, result, "3mf"))
    meshes = model.GetMeshObjects()
    assert meshes.MoveNext()
    body = meshes.GetCurrentMeshObject()
    assert body.GetName() == "Claw <big>"
    assert body.IsManifoldAndOriented()
    groups = model.GetBaseMaterialGroups()
    assert groups.MoveNext()
    group = groups.GetCurrentBaseMaterialGroup()
    found = {}
    for material in group.GetAllPropertyIDs():
        colour = group.GetDisplayColor(material)
        found[group.GetName(material)] = f"#{colour.Red:02x}{colour.Green:02x}{colour.Blue:02x}"
    assert found == {"Palm & fist": "#c9683f", "Pyramid": "#26282a", "Box": "#c7a384"}
    used = {p.PropertyIDs[0] for p in body.GetAllTriangleProperties()}
    assert used == set(group.GetAllPropertyIDs())


@pytest.mark.parametrize("document", demo_pieces(), ids=lambda d: d.name)
def test_the_demo_is_sound_and_stands(document):
    found = Evaluator().evaluate(document).inspection
    assert found.sound
    assert found.bounds[0][2] == pytest.approx(0, abs=1e-9)
    assert 20 <= sum(1 for _ in document.walk()) <= 60


def test_the_barnacle_bell_arrives_broken_in_every_way_it_is_meant_to_and_is_mended():
    """Judged by trimesh; what it is once mended, by the parts that it was made of."""
    bell = barnacle_bell()
    found = {f.kind for f in inspect_mesh(bell).findings}
    assert {"open_edges", "pinched_vertices", "self_intersections", "loose_bodies"} <= found
    mended, report = mend(bell)
    judged = trimesh.Trimesh(mended.vertices, mended.triangles, process=False)
    assert judged.is_watertight and judged.is_winding_consistent
    assert (report.after.bodies, report.after.voids) == (1, 1)
    assert report.after.findings == ()


def shades(colour):
    return [int(colour[i : i + 2], 16) for i in (1, 3, 5)]


def areas_by_colour(result):
    """mm² of every colour that the piece shows, from its parts."""
    shown, found = shown_colours(CLAW), {}
    for number, area in zip(result.written.part_of, areas(result.written.mesh), strict=True):
        colour = shown[result.part_ids[number]].lower()
        found[colour] = found.get(colour, 0.0) + area
    return found


def test_colours_of_ply_are_read_by_trimesh(result):
    mesh = trimesh.load(io.BytesIO(piece_bytes(CLAW, result, "ply")), file_type="ply", process=False)
    assert len(mesh.faces) == len(result.written.mesh.triangles)
    found = {
        colour: mesh.area_faces[(mesh.visual.face_colors[:, :3] == shades(colour)).all(axis=1)].sum()
        for colour in areas_by_colour(result)
    }
    assert found == pytest.approx(areas_by_colour(result), rel=1e-4)


def test_colours_of_glb_are_read_by_trimesh_and_its_mesh_is_whole_to_us(result):
    data = piece_bytes(CLAW, result, "colours.glb")
    scene = trimesh.load(io.BytesIO(data), file_type="glb")
    found = {}
    for body in scene.geometry.values():
        *shade, _ = body.visual.material.baseColorFactor
        # trimesh tells factors as bytes; sRGB from linear light (IEC 61966-2-1).
        light = np.array(shade) / 255
        srgb = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
        nearest = min(areas_by_colour(result), key=lambda c: np.abs(np.array(shades(c)) / 255 - srgb).max())
        assert np.abs(np.array(shades(nearest)) / 255 - srgb).max() < 0.02
        found[nearest] = found.get(nearest, 0.0) + body.area
    assert found == pytest.approx(areas_by_colour(result), rel=1e-4)
    again = read_mesh(data, "glb")
    assert inspect_mesh(again.mesh).sound
    assert {c.lower() for c in again.colours} == set(areas_by_colour(result))


def test_a_plain_glb_says_no_colour(result):
    assert set(read_mesh(piece_bytes(CLAW, result, "glb"), "glb").colours) == {None}


def test_obj_comes_with_its_colours_in_an_mtl_beside_it(result, tmp_path):
    with zipfile.ZipFile(io.BytesIO(piece_bytes(CLAW, result, "obj.zip"))) as archive:
        archive.extractall(tmp_path)
        text = archive.read(next(n for n in archive.namelist() if n.endswith(".obj")))
    scene = trimesh.load(next(tmp_path.glob("*.obj")), split_object=False, group_material=True)
    bodies = scene.geometry.values() if isinstance(scene, trimesh.Scene) else [scene]
    found = {}
    for body in bodies:
        colour = "#{:02x}{:02x}{:02x}".format(*body.visual.material.diffuse[:3])
        found[colour] = found.get(colour, 0.0) + body.area
    assert found == pytest.approx(areas_by_colour(result), rel=1e-4)
    assert inspect_mesh(read_mesh(text, "obj").mesh).sound
