"""Mesh files of every format: what is in them comes back, and what is wrong with them is said and where."""

import io
import json
import locale
import struct
import zipfile
from pathlib import Path

import numpy as np
import pytest

from noble_clay.cli import main
from noble_clay.core.errors import MeshError
from noble_clay.core.formats.mesh_file import MeshFile
from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.polygons import as_triangles
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.registry import FORMATS, check_bytes
from noble_clay.core.formats.threemf_write import write_threemf
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from tests.core.test_mend import solid

TORUS = solid("torus", ring_radius=9, tube_radius=3)


@pytest.mark.parametrize("ending", [f.ending for f in FORMATS.values() if f.reads])
def test_what_is_written_is_read(ending):
    file = read_mesh(mesh_bytes(TORUS, "ring", ending), ending)
    found = inspect_mesh(file.in_mm())
    assert (found.sound, found.genus, len(file.mesh.triangles)) == (True, 1, len(TORUS.triangles))
    assert found.volume == pytest.approx(inspect_mesh(TORUS).volume, rel=1e-5)
    assert file.unit == ("millimeter" if ending == "3mf" else None)


def test_writing_leaves_the_locale_as_it_was():
    before = locale.setlocale(locale.LC_ALL)
    write_threemf(TORUS, "ring")
    assert locale.setlocale(locale.LC_ALL) == before


def test_names_and_colours_of_a_3mf_come_back():
    part_of = (np.arange(len(TORUS.triangles)) % 2).astype(np.int64)
    data = write_threemf(TORUS, "ring", NamedParts(part_of, [("Shell", "#c9683f"), ("Eye", "#223344")]))
    file = read_mesh(data, "3mf")
    assert dict(zip(file.names, file.colours, strict=True)) == {"Shell": "#c9683f", "Eye": "#223344"}
    assert np.bincount(file.body_of).tolist() == [len(part_of) // 2] * 2


def model(body, unit="millimeter"):
    """A 3MF package around a model's text."""
    text = f'<?xml version="1.0"?><model unit="{unit}" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">{body}</model>'
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(
            "[Content_Types].xml",
            '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
            '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
            '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>',
        )
        archive.writestr(
            "_rels/.rels",
            '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
            '<Relationship Target="/3D/3dmodel.model" Id="r" '
            'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>',
        )
        archive.writestr("3D/3dmodel.model", text)
    return out.getvalue()


TETRA = (
    '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/>'
    '<vertex x="0" y="0" z="1"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/>'
    '<triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles>'
    "</mesh>"
)


def test_components_transforms_and_units_of_a_3mf():
    body = (
        f'<resources><object id="1" type="model" name="tip">{TETRA}</object><object id="2" type="model"><components>'
        '<component objectid="1"/><component objectid="1" transform="1 0 0 0 1 0 0 0 1 10 0 0"/></components></object>'
        '</resources><build><item objectid="2" transform="2 0 0 0 2 0 0 0 2 0 0 5"/></build>'
    )
    file = read_mesh(model(body, "inch"), "3mf")
    mesh = file.in_mm()
    assert file.unit == "inch"
    assert inspect_mesh(mesh).bodies == 2
    assert inspect_mesh(mesh).volume == pytest.approx(2 * 8 / 6 * 25.4**3)
    assert np.allclose(mesh.bounds, np.array([[0, 0, 5], [22, 2, 7]]) * 25.4)


def test_polygons_of_an_obj_become_triangles_that_fit():
    """A dented face, points counted from the end, names, and comments between."""
    text = b"""# made up
o Arrow
v 0 0 0
v 4 0 0
v 1 1 0
v 0 4 0
f 1/1 2/2 3/3 4/4
g Rest
f -4//1 -1//2 -3//3
"""
    file = read_mesh(text, "obj")
    assert file.names == ("Arrow", "Rest")
    first = Mesh(file.mesh.vertices, file.mesh.triangles[file.body_of == 0])
    assert inspect_mesh(first).area == pytest.approx(4), "a fan from its first corner would be larger"


@pytest.mark.parametrize("order", ["ascii", "binary_little_endian", "binary_big_endian"])
def test_every_kind_of_ply(order):
    head = (
        f"ply\nformat {order} 1.0\ncomment x\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\n"
    )
    head += "property uchar red\nproperty uchar green\nproperty uchar blue\n"
    head += "element face 2\nproperty list uchar int vertex_indices\nproperty uchar flag\nend_header\n"
    points = [(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0)]
    faces = [(0, 1, 2, 3), (0, 2, 1)]
    if order == "ascii":
        body = "".join(f"{x} {y} {z} 255 128 0\n" for x, y, z in points)
        body += "".join(f"{len(f)} {' '.join(map(str, f))} 7\n" for f in faces)
        data = (head + body).encode()
    else:
        end = "<" if "little" in order else ">"
        data = head.encode() + b"".join(struct.pack(end + "fff3B", *p, 255, 128, 0) for p in points)
        data += b"".join(struct.pack(f"{end}B{len(f)}iB", len(f), *f, 7) for f in faces)
    file = read_mesh(data, "ply")
    assert len(file.mesh.triangles) == 3
    assert inspect_mesh(file.mesh).area == pytest.approx(4 + 2)
    assert file.colours == ("#ff8000",)


def glb(document, binary=b""):
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<II", len(text), 0x4E4F534A) + text
    if binary:
        chunks += struct.pack("<II", len(binary), 0x004E4942) + binary
    return b"glTF" + struct.pack("<II", 2, 12 + len(chunks)) + chunks


def cornered(**node):
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], dtype="<f4").tobytes()
    return glb(
        {
            "buffers": [{"byteLength": 36}],
            "bufferViews": [{"buffer": 0, "byteLength": 36}],
            "accessors": [{"bufferView": 0, "componentType": 5126, "type": "VEC3", "count": 3}],
            "meshes": [{"name": "Leaf", "primitives": [{"attributes": {"POSITION": 0}, "material": 0}]}],
            "materials": [{"pbrMetallicRoughness": {"baseColorFactor": [1, 0.2158605, 0, 1]}}],
            "nodes": [{"mesh": 0, **node}, {"children": [0], "scale": [2, 2, 2]}],
            "scenes": [{"nodes": [1]}],
        },
        points,
    )


def test_nodes_and_colours_of_a_glb():
    file = read_mesh(cornered(translation=[3, 0, 0], rotation=[0, 0, np.sqrt(0.5), np.sqrt(0.5)]), "glb")
    assert isinstance(file, MeshFile)
    assert (file.names, file.colours) == (("Leaf",), ("#ff8000",))
    assert np.allclose(
        np.sort(file.mesh.vertices, axis=0), np.sort([[6, 0, 0], [6, 2, 0], [4, 0, 0]], axis=0), atol=1e-6
    )


STL = mesh_bytes(TORUS, "m", "stl")
PLY = mesh_bytes(TORUS, "m", "ply")
GLB = mesh_bytes(TORUS, "m", "glb")
ZIP_3MF = mesh_bytes(TORUS, "m", "3mf")


def zipped(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("__", "/"), data)
    return out.getvalue()


@pytest.mark.parametrize(
    ("ending", "data", "words"),
    [
        ("stl", b"", "empty"),
        ("stl", b"solid x\nendsolid x", "no triangles"),
        ("stl", STL[:-30], "promises"),
        ("stl", b"\0" * 80 + struct.pack("<I", 3_000_000_000) + b"\0" * 100, "promises 3,000,000,000"),
        ("stl", STL[:84] + struct.pack("<12fH", *[0] * 3, *[float("nan")] * 9, 0) + STL[134:], "triangle 1 "),
        ("stl", b"a shopping list: milk, eggs", "not an STL"),
        ("obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "not there"),
        ("obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n", "line 4"),
        ("obj", b"v 0 0 zero\nf 1 1 1\n", "point 1"),
        ("obj", b"v 0 0 0\nv 1 0 0\nv 0 inf 0\nf 1 2 3\n", "not a finite number"),
        ("obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\n", "no faces"),
        ("obj", STL, "not text"),
        ("ply", b"ply\nformat ascii 1.0\nelement vertex 9\nproperty float x\nend_header\n0\n", "not whole"),
        ("ply", PLY[:-5], "not whole"),
        ("ply", PLY.replace(b"element face ", b"element face 9"), "not whole"),
        ("ply", b"ply\nformat ascii 1.0\nelement vertex 99999999999\nproperty float x\nend_header\n", "too many"),
        ("ply", b"ply\nformat ascii 1.0\nelement vertex -3\nproperty float x\nend_header\n", "too many"),
        ("ply", b"ply\nformat strange 1.0\nend_header\n", "line 2"),
        ("ply", b"plywood", "no end"),
        ("glb", GLB[:-40], "promises"),
        ("glb", b"glTF" + struct.pack("<II", 1, 12) + b"\0" * 20, "version 1"),
        ("glb", glb({"nodes": [{"children": [0]}], "scenes": [{"nodes": [0]}]}), "too deep"),
        ("glb", glb({"nodes": [{"mesh": 4}], "scenes": [{"nodes": [0]}]}), "contradicts itself"),
        ("glb", glb({"extensionsRequired": ["KHR_draco_mesh_compression"]}), "KHR_draco_mesh_compression"),
        ("3mf", b"PK\x03\x04 and no more", "not a whole 3MF"),
        ("3mf", ZIP_3MF[: len(ZIP_3MF) // 2], "not a whole 3MF"),
        ("3mf", zipped(readme="hello"), "no model"),
        ("3mf", zipped(**{"..__..__etc__passwd": "x", "a.model": "x"}), "outside itself"),
        ("3mf", zipped(**{"a.model": b" " * 50_000_000}), "far more"),
        ("3mf", model("<resources/><build/>"), "(no object|cannot be read)"),
        ("xyz", b"1 2 3", "none of them"),
    ],
)
def test_what_is_wrong_is_said(ending, data, words):
    with pytest.raises(MeshError, match=words):
        read_mesh(data, ending)


def test_entities_are_not_followed():
    with zipfile.ZipFile(io.BytesIO(model(""))) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    text = b'<?xml version="1.0"?><!DOCTYPE m [<!ENTITY x SYSTEM "file:///etc/passwd">]><model>&x;</model>'
    files["3D/3dmodel.model"] = text
    with pytest.raises(MeshError, match="DOCTYPE"):
        read_mesh(zipped(**{k.replace("/", "__"): v for k, v in files.items()}), "3mf")


def test_files_too_large_are_refused_before_they_are_read(tmp_path, monkeypatch, capsys):
    path = tmp_path / "large.stl"
    with path.open("wb") as file:
        file.truncate(700_000_000)  # holes take no room on the disk
    monkeypatch.setattr(Path, "read_bytes", lambda _: pytest.fail("it was read"))
    assert main(["inspect", str(path)]) == 2
    assert "the file is 700 MB; at most 600 MB can be read" in capsys.readouterr().err


def test_how_large_a_file_may_be_depends_on_its_format():
    with pytest.raises(MeshError, match="700 MB"):
        check_bytes(700_000_000, ".stl")
    check_bytes(250_000_000, ".obj")


def test_faces_of_no_extent_are_left_out_and_the_rest_numbered():
    points = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    triangles, owner = as_triangles(points, np.array([0, 1, 0, 1, 2, 0, 1, 2, 3]), np.array([2, 3, 4]))
    assert owner.tolist() == [1, 2, 2]
    assert len(triangles) == 3
