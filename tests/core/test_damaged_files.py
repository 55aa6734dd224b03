"""Files that are damaged in every way a test can think of: read, or refused in words, and within a moment."""

import io
import json
import struct
import time
import zipfile

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.errors import ClayError, MeshError, PieceError
from noble_clay.core.formats.pieces import PieceFile, asset_bytes, asset_mesh, piece_pack, read_piece_file
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.registry import FORMATS
from noble_clay.core.formats.write import mesh_bytes
from tests.building import piece
from tests.damage import primitive
from tests.examples import examples

BALL = primitive("sphere", radius=5, facets=10)
GOOD = {ending: mesh_bytes(BALL, "ball", ending) for ending in FORMATS}
WHOLE = st.integers(0, 2**31)


def glb(document, binary=b"\0" * 64):
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(binary), 0x004E4942) + binary
    return b"glTF" + struct.pack("<II", 2, 12 + len(chunks)) + chunks


def described(data):
    """The JSON of a GLB file, and what follows it."""
    size = int.from_bytes(data[12:16], "little")
    return json.loads(data[20 : 20 + size]), data[28 + size :]


def in_words(error):
    text = str(error)
    assert text and "more memory" not in text and "Traceback" not in text and len(text) < 400
    return True


@examples(300)
@given(st.sampled_from(sorted(GOOD)), st.lists(st.tuples(WHOLE, st.integers(0, 255)), min_size=1, max_size=12), WHOLE)
def test_changed_bytes_are_read_or_refused_in_words(ending, changes, cut):
    data = bytearray(GOOD[ending])
    for at, value in changes:
        data[at % len(data)] = value
    if cut % 3 == 0:
        del data[cut % len(data) :]
    try:
        found = read_mesh(bytes(data), ending)
    except MeshError as error:
        assert in_words(error)
    else:
        assert np.isfinite(found.mesh.vertices).all()
        assert all("\0" not in name for name in found.names)


ODD = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 2**40) | st.floats() | st.sampled_from(["", "VEC3", "\0", "x" * 99]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from("abc"), inner, max_size=2),
    max_leaves=6,
)


@examples(300)
@given(st.data())
def test_a_glb_with_odd_values_anywhere_is_read_or_refused_in_words(data):
    document, rest = described(GOOD["glb"])
    spots = [(document, key) for key in document]
    for value in document.values():
        if isinstance(value, list):
            spots += [(value, i) for i in range(len(value))]
            spots += [(item, key) for item in value if isinstance(item, dict) for key in item]
    for _ in range(data.draw(st.integers(1, 3))):
        holder, key = data.draw(st.sampled_from(spots))
        holder[key] = data.draw(ODD)
    text = json.dumps(document).encode()
    try:
        read_mesh(glb(json.loads(text), rest), "glb")
    except MeshError as error:
        assert in_words(error)


PLY = """ply
format ascii 1.0
element vertex 3
{x}
property float y
property float z
element face 1
{faces}
end_header
"""


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            PLY.format(x="property float x", faces="property int vertex_indices") + "0 0 0\n1 0 0\n0 1 0\n3\n",
            "no lists",
        ),
        (
            PLY.format(x="property float x", faces="property list float int vertex_indices")
            + "0 0 0\n1 0 0\n0 1 0\nnan 0 1 2\n",
            "cannot be read",
        ),
        (
            PLY.format(x="property list int float x", faces="property list uchar int vertex_indices")
            + "1 0 0 0\n1 1 0 0\n1 0 1 0\n3 0 1 2\n",
            "no points with x",
        ),
    ],
)
def test_ply_files_whose_lists_are_none_are_told_as_such(text, words):
    with pytest.raises(MeshError, match=words):
        read_mesh(text.encode(), "ply")


@pytest.mark.parametrize(
    "document",
    [
        {"nodes": [[]], "scenes": [{"nodes": [0]}]},
        {"nodes": "all", "scenes": [{"nodes": [0]}]},
        {"nodes": [{"mesh": 0}], "meshes": ["a"], "scenes": [{"nodes": [0]}]},
        {"nodes": [{"children": {"a": 1}}], "scenes": [{"nodes": [0]}]},
        {"scenes": [[]], "nodes": []},
        {"extensionsRequired": 7},
    ],
)
def test_a_glb_with_a_list_where_an_object_is_due_is_refused(document):
    with pytest.raises(MeshError):
        read_mesh(glb(document), "glb")
    with pytest.raises(MeshError, match="mesh asset cannot be read"):
        asset_mesh(glb(document))


def test_a_scene_graph_that_doubles_is_counted_before_it_is_expanded():
    nodes = [{"children": [i + 1, i + 1]} for i in range(40)] + [{"mesh": 0}]
    started = time.monotonic()
    with pytest.raises(MeshError, match="over 100,000 times"):
        read_mesh(glb({"nodes": nodes, "scenes": [{"nodes": [0]}], "meshes": [{"primitives": []}]}), "glb")
    assert time.monotonic() - started < 20


def threemf(model, compression=zipfile.ZIP_DEFLATED):
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(GOOD["3mf"])) as good, zipfile.ZipFile(out, "w", compression) as bad:
        for name in good.namelist():
            bad.writestr(name, model if name.endswith(".model") else good.read(name))
    return out.getvalue()


def test_components_that_double_are_counted_before_they_are_expanded():
    inner = '<object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/>'
    inner += '<vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices><triangles>'
    inner += "".join(
        f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in ((0, 2, 1), (0, 1, 3), (1, 2, 3), (0, 3, 2))
    )
    inner += "</triangles></mesh></object>"
    for k in range(2, 40):
        part = f'<component objectid="{k - 1}"/>'
        inner += f'<object id="{k}" type="model"><components>{part}{part}</components></object>'
    model = '<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
    model += f'<resources>{inner}</resources><build><item objectid="39"/></build></model>'
    with pytest.raises(MeshError):
        read_mesh(threemf(model), "3mf")


@pytest.mark.parametrize("at", [60, 200, 400])
def test_a_3mf_whose_packed_stream_is_damaged_is_refused(at):
    data = bytearray(GOOD["3mf"])
    data[at : at + 40] = bytes(40)
    with pytest.raises(MeshError, match="3MF"):
        read_mesh(bytes(data), "3mf")


def test_names_that_nothing_can_keep_are_made_so():
    solid = f"solid a\0b\n{_facets()}endsolid a\0b\n".encode()
    assert read_mesh(solid, "stl").names == ("a\N{REPLACEMENT CHARACTER}b",)
    document, rest = described(GOOD["glb"])
    document["nodes"][0]["name"] = "\0"
    for node in document["nodes"]:
        node["name"] = "half \ud83d"
    assert read_mesh(glb(document, rest), "glb").names == ("half \N{REPLACEMENT CHARACTER}",)


def _facets():
    lines = []
    for corners in BALL.corners:
        points = "".join(f"vertex {x} {y} {z}\n" for x, y, z in corners)
        lines.append(f"facet normal 0 0 0\nouter loop\n{points}endloop\nendfacet\n")
    return "".join(lines)


@pytest.mark.parametrize("compression", [zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2])
@pytest.mark.parametrize("at", [0.1, 0.5, 0.9])
def test_a_pack_whose_streams_are_damaged_is_refused_in_words(compression, at):
    sha256, data = asset_bytes(BALL)
    whole = piece_pack(PieceFile(piece({"id": "m", "mesh": {"asset": sha256}}), {sha256: data}))
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as good, zipfile.ZipFile(out, "w", compression) as bad:
        for name in good.namelist():
            bad.writestr(name, good.read(name))
    spoilt = bytearray(out.getvalue())
    middle = int(len(spoilt) * at)
    spoilt[middle : middle + 30] = b"\xff" * 30
    try:
        read_piece_file(bytes(spoilt))
    except ClayError as error:
        assert isinstance(error, PieceError) and in_words(error)


@examples(150)
@given(st.recursive(ODD, lambda inner: st.fixed_dictionaries({"parts": st.lists(inner)}), max_leaves=5), ODD)
def test_piece_files_of_any_values_are_refused_in_words(parts, name):
    document = {"format": "noble-clay-piece", "version": 1, "name": name, "parts": [parts, {"id": "a", "join": parts}]}
    with pytest.raises(PieceError) as refused:
        read_piece_file(json.dumps(document).encode())
    assert in_words(refused.value)
