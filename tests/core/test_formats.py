"""Files: STL in and out, piece files and packs, float32."""

import hashlib
import io
import zipfile

import numpy as np
import pytest

from noble_clay.core.errors import MeshError, PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.pieces import PieceFile, asset_bytes, asset_mesh, piece_pack, read_piece_file
from noble_clay.core.formats.rounding import rounded
from noble_clay.core.formats.stl import stl_bytes, stl_mesh
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, evaluated, part, piece

BALL = evaluated(part("b", "sphere", radius=9)).mesh
ASCII = b"""solid corner
facet normal 0 0 1\n outer loop\n  vertex 0 0 0\n  vertex 1 0 0\n  vertex 0 1e0 0\n endloop\nendfacet
endsolid corner"""


def test_binary_stl_there_and_back():
    again = stl_mesh(stl_bytes(BALL, "Bällchen"))
    assert len(again.triangles) == len(BALL.triangles)
    assert inspect_mesh(again).sound
    assert inspect_mesh(again).volume == pytest.approx(inspect_mesh(BALL).volume, rel=1e-6)


def test_ascii_stl_is_read():
    np.testing.assert_allclose(stl_mesh(ASCII).bounds, [[0, 0, 0], [1, 1, 0]])


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"hello", "not an STL"),
        (stl_bytes(BALL, "x")[:-1], "not a whole STL"),
        (stl_bytes(BALL, "x") + b"more", "not a whole STL"),
        (b"\0" * 80 + (4_000_000_000).to_bytes(4, "little") + b"\0" * 50, "4,000,000,000"),
        (b"\0" * 84, "no triangles"),
        (ASCII.replace(b"1e0", b"one"), "triangle 1"),
        (ASCII.replace(b"vertex 0 1e0 0", b""), "stops within"),
        (ASCII.replace(b"endfacet", b""), "facet ends"),
        (ASCII.replace(b"1e0", b"nan"), "finite"),
        (stl_bytes(BALL, "x")[:96] + np.float32(np.inf).tobytes() + stl_bytes(BALL, "x")[100:], "triangle 1 .*finite"),
    ],
)
def test_a_bad_stl_is_refused_with_what_is_wrong(data, words):
    with pytest.raises(MeshError, match=words):
        stl_mesh(data)


def pack_of(mesh):
    sha256, data = asset_bytes(mesh)
    document = piece({"id": "m", "mesh": {"asset": sha256}}, box("c", (0, 0, 9), (4, 4, 4), op="difference"))
    return PieceFile(document, {sha256: data})


def test_a_pack_there_and_back_builds_with_its_mesh():
    file = read_piece_file(piece_pack(pack_of(BALL)))
    result = Evaluator(assets=file.loader()).evaluate(file.piece)
    assert result.inspection.sound
    assert 0 < inspect_mesh(BALL).volume - result.inspection.volume < 64


def test_a_mesh_that_is_not_closed_is_left_out_with_the_reason():
    file = pack_of(Mesh(BALL.vertices, BALL.triangles[5:]))
    result = Evaluator(assets=file.loader()).evaluate(file.piece)
    assert "not a closed manifold" in result.left_out["m"]


def test_a_piece_without_its_mesh_says_so():
    file = pack_of(BALL)
    result = Evaluator(assets=PieceFile(file.piece).loader()).evaluate(file.piece)
    assert "did not come" in result.left_out["m"]


def rezipped(data, change):
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name, content in change({n: old.read(n) for n in old.namelist()}).items():
            new.writestr(name, content)
    return out.getvalue()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda f: {k: v for k, v in f.items() if k != "piece.json"}, "no piece.json"),
        (lambda f: {k: v for k, v in f.items() if not k.startswith("assets")}, "not in the pack"),
        (lambda f: {k: v + b" " if k.startswith("assets") else v for k, v in f.items()}, "SHA-256 differs"),
        (lambda f: {**f, "piece.json": b"{"}, "not valid JSON"),
    ],
)
def test_a_bad_pack_is_refused(change, words):
    with pytest.raises(PieceError, match=words):
        read_piece_file(rezipped(piece_pack(pack_of(BALL)), change))


def test_a_broken_zip_is_refused():
    with pytest.raises(PieceError, match="not a whole ZIP"):
        read_piece_file(piece_pack(pack_of(BALL))[:200])


def test_an_asset_is_named_by_its_bytes():
    sha256, data = asset_bytes(BALL)
    assert sha256 == hashlib.sha256(data).hexdigest()
    np.testing.assert_allclose(asset_mesh(data).bounds, BALL.bounds, atol=1e-6)
    with pytest.raises(MeshError):
        asset_mesh(b"glTF rubbish")


def test_rounding_to_float32_keeps_a_fine_piece_far_out_closed():
    mesh = evaluated(
        part("s", "sphere", (90_000, 0, 0), radius=0.5), box("b", (90_000, 0.2, 0.3), (0.3, 1, 1))
    ).written.mesh
    assert np.array_equal(mesh.vertices, mesh.vertices.astype(np.float32))
    assert inspect_mesh(rounded(mesh)).manifold
