"""`noble-clay check`: what it says of pieces and meshes, and what it refuses."""

import json
import math

import pytest

from noble_clay.cli import main
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.demo.loader import demo_pieces
from tests.building import box, part, piece
from tests.damage import damaged, holed, primitive

KEYS = {
    "stands",
    "tip_angle_deg",
    "tip_towards_deg",
    "centre_of_mass",
    "printed_tip_angle_deg",
    "printed_centre_of_mass",
    "floor_area_mm2",
    "fits",
    "overhang_mm2",
    "islands",
    "thinnest_mm",
    "thin_mm2",
    "layers",
    "filament_mm",
    "mass_g",
    "seconds",
    "uncertainty",
}


@pytest.fixture
def cube(tmp_path):
    path = tmp_path / "cube.clay.json"
    path.write_text(piece(box("a", (0, 0, 40), (20, 20, 20))).text())
    return path


def said(capsys, *arguments):
    status = main(["check", *map(str, arguments), "--json"])
    return status, json.loads(capsys.readouterr().out)


def test_a_cube_is_set_down_and_told_of(cube, capsys):
    status, found = said(capsys, cube)
    assert status == 0 and set(found) == KEYS
    assert (found["stands"], found["fits"], found["islands"], found["layers"]) == (True, True, 0, 100)
    assert found["tip_angle_deg"] == pytest.approx(45) and found["centre_of_mass"] == pytest.approx([0, 0, 10])
    assert (found["floor_area_mm2"], found["overhang_mm2"], found["thin_mm2"]) == (pytest.approx(400), 0, 0)
    assert found["thinnest_mm"] == pytest.approx(20)


def test_layers_infill_filament_and_printer_are_taken(cube, capsys):
    _, plain = said(capsys, cube)
    _, full = said(capsys, cube, "--layer", "0.1", "--infill", "100", "--filament", "petg", "--printer", "shelf")
    assert full["layers"] == 200 and full["mass_g"] == pytest.approx(8 * 1.27, rel=1e-6)
    assert full["filament_mm"] > plain["filament_mm"]


def test_what_does_not_stand_or_fit_is_told(tmp_path, capsys):
    path = tmp_path / "rod.stl"
    path.write_bytes(stl_bytes(primitive("sphere", radius=130, facets=32), "m"))
    status, found = said(capsys, path)
    assert (status, found["stands"], found["fits"], found["tip_angle_deg"]) == (0, False, False, 0)
    assert math.isfinite(found["tip_towards_deg"])


def test_an_open_mesh_is_named_and_not_measured(tmp_path, capsys):
    path = tmp_path / "open.stl"
    path.write_bytes(stl_bytes(damaged(primitive("sphere", radius=10, facets=32), [holed]), "m"))
    assert main(["check", str(path)]) == 1
    assert "open edges: 9" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--printer", "none"], 'no printer "none"; there are Workbench'),
        (["--filament", "wood"], 'no filament "wood"; there are PLA'),
        (["--layer", "0"], "layer: must be at least 0.02"),
        (["--layer", "1e-6"], "layer: must be at least 0.02"),
        (["--layer", "nan"], "layer"),
        (["--layer", "0.5"], "at most 0.32 mm with a nozzle of 0.4 mm"),
        (["--infill", "120"], "infill: must be at most 1"),
        (["--infill", "-1"], "infill: must be at least 0"),
    ],
)
def test_what_cannot_be_is_refused_in_words(cube, capsys, arguments, words):
    assert main(["check", str(cube), *arguments]) == 2
    assert words in capsys.readouterr().err


def test_a_house_has_too_many_layers(tmp_path, capsys):
    path = tmp_path / "house.clay.json"
    path.write_text(piece(box("a", (0, 0, 0), (9000, 9000, 9000))).text())
    assert main(["check", str(path)]) == 2
    assert "45,000 layers" in capsys.readouterr().err


def test_nothing_left_is_told(tmp_path, capsys):
    path = tmp_path / "none.clay.json"
    path.write_text(piece(box("a"), box("b", (9, 0, 0), op="intersection")).text())
    assert main(["check", str(path)]) == 1
    assert "nothing is left" in capsys.readouterr().err


def test_the_crab_of_the_demo_stands_fits_and_is_thick_enough(tmp_path, capsys):
    crab = next(p for p in demo_pieces() if p.name == "Fiddler crab")
    path = tmp_path / "crab.clay.json"
    path.write_text(crab.text())
    status, found = said(capsys, path, "--layer", "0.3")
    assert status == 0 and found["stands"] and found["fits"]
    assert found["tip_angle_deg"] > 20 and found["thinnest_mm"] > 0.8
    lifted = apply(
        crab, edit_from_values({"kind": "add_parts", "parts": [part("ball", "sphere", (0, 0, -9), radius=2)]})
    )
    path.write_text(lifted.piece.text())
    assert not said(capsys, path, "--layer", "0.3")[1]["stands"], "on a ball"
