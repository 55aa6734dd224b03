"""The command line as the format describes it: outputs, JSON, exit statuses, one line on standard error."""

import json
import subprocess
import sys

import numpy as np
import pytest

from noble_clay.cli import main
from noble_clay.core.formats.stl import stl_bytes, stl_mesh
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, evaluated, part, piece


@pytest.fixture
def write(tmp_path):
    def to(name, content):
        path = tmp_path / name
        path.write_bytes(content if isinstance(content, bytes) else json.dumps(content.dump()).encode())
        return path

    return to


DRILLED = piece(box("a", size=(20, 20, 20)), part("b", "cylinder", radius=2, height=30, op="difference"))
KEYS = {"triangles", "vertices", "volume_mm3", "area_mm2", "bounds", "bodies", "voids", "genus", "manifold", "findings"}


@pytest.mark.parametrize("suffix", ["stl", "3mf", "obj", "ply", "glb"])
def test_build_writes_every_format_and_says_what_it_made(write, tmp_path, capsys, suffix):
    out = tmp_path / f"out.{suffix}"
    assert main(["build", str(write("p.clay.json", DRILLED)), "-o", str(out), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert set(said) == KEYS
    assert (said["bodies"], said["voids"], said["genus"], said["manifold"]) == (1, 0, 1, True)
    assert said["bounds"] == [[-10, -10, -10], [10, 10, 10]]
    assert out.stat().st_size > 1000


def test_a_result_that_is_no_manifold_is_written_with_status_1(write, tmp_path, capsys):
    out = tmp_path / "out.stl"
    path = write("p.clay.json", piece(box("a"), box("b", (1, 1, 0))))
    assert main(["build", str(path), "-o", str(out), "--json"]) == 1
    assert {"kind": "overshared_edges", "count": 1} in json.loads(capsys.readouterr().out)["findings"]
    assert out.exists()


def test_nothing_left_is_status_1_without_a_file(write, tmp_path, capsys):
    out = tmp_path / "out.stl"
    path = write("p.clay.json", piece(box("a"), box("b", size=(2, 2, 2), op="difference")))
    assert main(["build", str(path), "-o", str(out), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["bounds"] is None
    assert not out.exists()


def test_two_bodies_are_a_finding_but_a_manifold(write, capsys):
    assert main(["inspect", str(write("p.clay.json", piece(box("a"), box("b", (5, 0, 0))))), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["findings"] == [{"kind": "loose_bodies", "count": 1}]


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("p.clay.json", b'{"format":"noble-clay-piece","version":1,"name":"x","parts":[{"id":"a"}]}', "exactly one"),
        ("p.clay.json", b"not json", "not valid JSON"),
        ("m.stl", b"not a mesh", "not an STL"),
        ("m.xyz", b"1 2 3", "not valid JSON"),
    ],
)
def test_bad_input_is_status_2_with_one_line(write, capsys, name, content, words):
    assert main(["inspect", str(write(name, content)), "--json"]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert said.err.count("\n") == 1
    assert words in said.err


def test_a_missing_file_and_an_unknown_format_are_status_2(write, tmp_path, capsys):
    assert main(["inspect", str(tmp_path / "none.stl")]) == 2
    assert main(["build", str(write("p.clay.json", DRILLED)), "-o", str(tmp_path / "out.doc")]) == 2
    assert "must end in" in capsys.readouterr().err


def test_repair_mends_and_reports(write, tmp_path, capsys):
    ball = evaluated(part("b", "sphere", radius=9)).mesh
    broken = Mesh(ball.vertices, np.delete(ball.triangles, [10, 900], axis=0))
    out = tmp_path / "mended.stl"
    assert main(["repair", str(write("m.stl", stl_bytes(broken, "m"))), "-o", str(out), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert KEYS | {"steps", "deviation_mm"} <= set(said)
    assert said["steps"] == [{"step": "close_holes", "count": 2, "triangles_added": 2, "smooth": 0, "left_open": 0}]
    assert said["deviation_mm"] < 0.3
    assert len(stl_mesh(out.read_bytes()).triangles) == len(ball.triangles)


def test_the_installed_command_answers():
    done = subprocess.run(
        [sys.executable, "-m", "noble_clay.cli", "--version"], capture_output=True, text=True, check=True
    )
    assert done.stdout.startswith("noble-clay ")
