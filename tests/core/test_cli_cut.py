"""`noble-clay cut`: parts that are whole, that plug together with the room that was asked for, and what is refused."""

import json
import math

import igl
import numpy as np
import pytest
import trimesh

from noble_clay.cli import main
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from noble_clay.core.piece.read import piece_from_json
from noble_clay.core.printing.cutting import SIDES
from noble_clay.core.printing.labels import letter
from tests.building import box, part, piece
from tests.damage import damaged, holed, primitive
from tests.drawn import drawn_join

SIZE = (40, 30, 50)


@pytest.fixture
def block(tmp_path):
    path = tmp_path / "block.clay.json"
    path.write_text(piece(box("a", (0, 0, 25), SIZE)).text())
    return path


def cut(capsys, file, *arguments):
    """The parts' meshes and what was said."""
    folder = file.parent / "out"
    assert main(["cut", str(file), *arguments, "-o", str(folder), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    meshes = [read_mesh((folder / p["file"].split("/")[-1]).read_bytes(), ".3mf").in_mm() for p in said["parts"]]
    for mesh, told in zip(meshes, said["parts"], strict=True):
        found = inspect_mesh(mesh)
        assert found.manifold and not found.findings, "read back it is sound"
        assert volume(mesh) == pytest.approx(told["volume_mm3"], rel=1e-5)
    return meshes, said


def gap(one, other):
    """Between two parts, above the cut at z = 20, as libigl has it at 20,000 points."""
    inner = trimesh.Trimesh(one.vertices, one.triangles)
    points, _ = trimesh.sample.sample_surface(inner, 20_000, seed=1)
    stands = points[points[:, 2] > 20 + 1e-3]
    return np.sqrt(igl.point_mesh_squared_distance(stands, other.vertices, other.triangles)[0])


def test_without_pegs_the_parts_are_the_whole(block, capsys):
    meshes, said = cut(capsys, block, "--at", "z=20", "--peg", "none")
    assert [p["volume_mm3"] for p in said["parts"]] == pytest.approx([40 * 30 * 20, 40 * 30 * 30])
    assert said["least_gap_mm"] is None and all(
        (p["pegs"], p["sockets"], p["bodies"]) == (0, 0, 1) for p in said["parts"]
    )
    assert [m.bounds[:, 2].tolist() for m in meshes] == [[0, 20], [20, 50]]


@pytest.mark.parametrize("clearance", [0, 0.1, 0.35])
@pytest.mark.parametrize("peg", ["round", "square", "dovetail"])
def test_pegs_go_into_their_sockets_with_the_room_that_was_asked_for(block, capsys, peg, clearance):
    (lower, upper), said = cut(capsys, block, "--at", "z=20", "--peg", peg, "--clearance", str(clearance))
    assert said["least_gap_mm"] == pytest.approx(clearance, abs=1e-4)
    assert gap(lower, upper).min() == pytest.approx(clearance, abs=2e-3)
    assert clearance <= said["greatest_gap_mm"] < clearance * 2 + 0.05, "nowhere is there much more room"
    assert said["goes_together"]
    first, second = said["parts"]
    assert (first["pegs"], second["sockets"]) == ((1, 1) if peg == "dovetail" else (2, 2))
    assert lower.bounds[1, 2] > 21 and upper.bounds[0, 2] == pytest.approx(20)


def test_a_round_peg_and_its_socket_measure_what_they_should(block, capsys):
    _, said = cut(capsys, block, "--at", "z=20")
    ring = SIDES / 2 * math.sin(2 * math.pi / SIDES)  # of a polygon for the circle, over its radius squared
    peg = 2 * ring * 4**2 * 10
    hole = 2 * ring * (4 + 0.2 / math.cos(math.pi / SIDES)) ** 2 * 10.2
    assert said["parts"][0]["volume_mm3"] == pytest.approx(40 * 30 * 20 + peg, rel=1e-6)
    assert said["parts"][1]["volume_mm3"] == pytest.approx(40 * 30 * 30 - hole, rel=1e-6)


def test_under_a_thin_lid_pegs_are_thinner_instead_of_none(tmp_path, capsys):
    path = tmp_path / "lid.clay.json"
    path.write_text(piece(box("a", (0, 0, 12), (40, 30, 24))).text())
    _, said = cut(capsys, path, "--at", "z=20")
    assert said["parts"][0]["pegs"] == said["parts"][1]["sockets"] == 2
    assert said["least_gap_mm"] == pytest.approx(0.2, abs=1e-3)


def test_letters_on_hidden_faces_are_taken_from_both_sides_and_mirror_each_other(block, capsys):
    plain, _ = cut(capsys, block, "--at", "z=20")
    (lower, upper), said = cut(capsys, block, "--at", "z=20", "--labels")
    assert [p["bodies"] for p in said["parts"]] == [1, 1]
    assert said["least_gap_mm"] == pytest.approx(0.2, abs=1e-3)
    taken = [volume(p) - volume(m) for p, m in zip(plain, (lower, upper), strict=True)]
    assert taken[0] == pytest.approx(taken[1], rel=1e-4)
    assert taken[0] > 0.6 * 5, "a letter of some size"
    floors = [m.vertices[np.abs(m.vertices[:, 2] - at) < 1e-4][:, :2] for m, at in ((lower, 19.4), (upper, 20.6))]
    middle = floors[0].mean(axis=0)
    mirrored = floors[1] * [-1, 1] + [2 * middle[0], 0]
    mirrored += (floors[0].min(axis=0) - mirrored.min(axis=0)) * [1, 0]
    far = np.linalg.norm(floors[0][:, None] - mirrored, axis=2).min(axis=1)
    assert far.max() < 0.01
    assert [letter(n) for n in (0, 25, 26, 53)] == ["A", "Z", "A2", "B3"]


def test_magnets_have_a_pocket_on_both_sides(block, capsys):
    _, said = cut(capsys, block, "--at", "z=20", "--peg", "magnet", "--clearance", "0.1")
    ring = SIDES / 2 * math.sin(2 * math.pi / SIDES)
    pocket = 2 * ring * 3.1**2 * 1.1
    for told, whole in zip(said["parts"], (40 * 30 * 20, 40 * 30 * 30), strict=True):
        assert (told["pegs"], told["sockets"], told["bodies"]) == (0, 2, 1)
        assert told["volume_mm3"] == pytest.approx(whole - pocket, rel=1e-6)


def test_a_dovetail_is_wider_at_its_top_and_slides_in(block, capsys):
    (lower, _), _ = cut(capsys, block, "--at", "z=20", "--peg", "dovetail")
    rail = lower.vertices[lower.vertices[:, 2] > 20.01]
    foot = lower.vertices[np.abs(lower.vertices[:, 2] - 20) < 1e-6]
    inside = foot[np.abs(foot[:, 1]) < 14.9]
    assert np.abs(rail[:, 1]).max() > np.abs(inside[:, 1]).max() + 0.5
    assert np.ptp(rail[:, 0]) == pytest.approx(40), "all the way through, along the longer side"


def test_dovetails_along_two_planes_skip_the_parts_that_stand_across_from_each_other(block, capsys):
    """Of four parts the upper left and the lower right end at the same plane, and share no ground there."""
    meshes, said = cut(capsys, block, "--at", "z=20", "--at", "x=3", "--peg", "dovetail")
    assert len(meshes) == 4 and all(p["bodies"] == 1 for p in said["parts"])
    assert sum(p["pegs"] for p in said["parts"]) == sum(p["sockets"] for p in said["parts"]) > 0


def shared(one, other, moved=(0, 0, 0)):
    """mm³ that two parts have in common once the second is moved."""
    both = Solid.from_mesh(one, "one").manifold ^ Solid.from_mesh(other, "other").manifold.translate(moved)
    return both.volume()


def test_rails_of_cuts_that_cross_all_run_one_way_along_which_every_part_comes_off(block, capsys):
    meshes, said = cut(capsys, block, "--at", "z=20", "--at", "x=3", "--peg", "dovetail")
    assert said["goes_together"] and said["least_gap_mm"] == pytest.approx(0.2, abs=1e-3)
    assert [(p["pegs"], p["sockets"]) for p in said["parts"]] == [(2, 0), (1, 1), (1, 1), (0, 2)]
    last, others = meshes[3], meshes[:3]
    assert all(shared(other, last, (0, far, 0)) < 1e-6 for other in others for far in (0, 0.5, 5, 20))
    assert sum(shared(other, last, (0, 0, 1)) for other in others) > 1, "held by its rails any other way"
    assert sum(shared(other, last, (1, 0, 0)) for other in others) > 1


def test_where_cuts_cross_three_ways_those_square_to_the_rails_have_round_pegs(block, capsys):
    meshes, said = cut(capsys, block, "--at", "z=20", "--at", "x=3", "--at", "y=1", "--peg", "dovetail")
    assert len(meshes) == 8 and said["goes_together"]
    assert said["least_gap_mm"] == pytest.approx(0.2, abs=1e-3)


@pytest.mark.parametrize("clearance", [0, 0.3])
def test_a_rail_into_what_widens_above_it_and_hangs_over_comes_off_all_the_same(tmp_path, capsys, clearance):
    path = tmp_path / "lamp.clay.json"
    shade = part("shade", "cone", (2, 1, 20), (0, 8, 0), bottom_radius=8, top_radius=22, height=20)
    arm = box("arm", (30, 0, 19), (9, 9, 11))  # it hangs where the rail would come by
    path.write_text(piece(box("foot", (0, 0, 6), (16, 12, 12)), shade, box("bar", (20, 0, 22), (26, 9, 4)), arm).text())
    (lower, upper), said = cut(capsys, path, "--at", "z=13", "--peg", "dovetail", "--clearance", str(clearance))
    assert said["goes_together"] and said["parts"][0]["pegs"] >= 1
    assert said["least_gap_mm"] == pytest.approx(clearance, abs=2e-3)
    assert shared(lower, upper) < 1e-3
    whole = Evaluator().evaluate(piece_from_json(path.read_text())).solid.volume
    assert volume(lower) + volume(upper) == pytest.approx(whole, rel=0.02)


@pytest.mark.parametrize("seed", [0, 1])
def test_a_rail_through_a_piece_at_any_angle_leaves_no_crumbs(seed, tmp_path, capsys):
    path = tmp_path / "turned.clay.json"
    path.write_text(piece({**drawn_join(seed), "place": {"scale": [4, 4, 4]}}).text())
    assert main(["inspect", str(path), "--json"]) == 0
    low, high = (corner[1] for corner in json.loads(capsys.readouterr().out)["bounds"])
    _, said = cut(capsys, path, "--at", f"y={(low + high) / 2:.1f}", "--peg", "dovetail")  # each part is inspected
    assert sum(p["pegs"] for p in said["parts"]) > 0


def test_several_planes_and_axes(block, capsys):
    meshes, said = cut(capsys, block, "--at", "z=20", "--at", "x=-3.5", "--at", "y=2")
    assert len(meshes) == 8 and all(p["bodies"] == 1 for p in said["parts"])
    assert sum(p["pegs"] for p in said["parts"]) == sum(p["sockets"] for p in said["parts"]) >= 12
    assert said["least_gap_mm"] == pytest.approx(0.2, abs=1e-3)


def test_colours_and_names_stay(tmp_path, capsys):
    path = tmp_path / "two.clay.json"
    low = {**box("low", (0, 0, 10), (30, 30, 20)), "colour": "#c9683f", "name": "Foot"}
    path.write_text(piece(low, {**box("high", (0, 0, 30), (30, 30, 20)), "colour": "#8f9a5b", "name": "Head"}).text())
    cut(capsys, path, "--at", "z=28")
    files = [read_mesh((tmp_path / "out" / f"two-{n}.3mf").read_bytes(), ".3mf") for n in (1, 2)]
    assert {c.lower() for c in files[0].colours} >= {"#c9683f", "#8f9a5b"}
    assert {c.lower() for c in files[1].colours} == {"#8f9a5b"}, "the cut is of the colour around it"
    assert {"Foot", "Head"} <= set(files[0].names)


def test_where_there_is_no_room_there_is_no_peg(tmp_path, capsys):
    path = tmp_path / "thin.clay.json"
    path.write_text(piece(box("a", (0, 0, 0), (40, 3, 50))).text())
    for peg in ("round", "square", "dovetail"):
        _, said = cut(capsys, path, "--at", "z=0", "--peg", peg)
        assert all(p["pegs"] == p["sockets"] == 0 for p in said["parts"])


def test_a_turned_hollow_mesh_is_cut_too(tmp_path, capsys):
    path = tmp_path / "ring.stl"
    path.write_bytes(stl_bytes(primitive("torus", ring_radius=30, tube_radius=9, facets=48), "m"))
    _, said = cut(capsys, path, "--at", "x=0")
    assert [p["bodies"] for p in said["parts"]] == [1, 1], "each half of the ring hangs together"
    assert said["parts"][0]["pegs"] == 2 and said["least_gap_mm"] == pytest.approx(0.2, abs=1e-3)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--at", "z=90"], "z=90 cuts nothing off: along z this reaches from 0 to 50 mm"),
        (["--at", "z=50"], "cuts nothing off"),
        (["--at", "z=20", "--at", "z=20"], "z=20 cuts nothing off: another plane cuts there already"),
        (["--at", "w=3"], '"w=3" is no plane'),
        (["--at", "z=nan"], '"z=nan" is no plane'),
        (["--at", "z"], '"z" is no plane'),
        (["--at", "z=20", "--clearance", "-1"], "clearance: between 0 and 5 mm, not -1"),
    ],
)
def test_what_cannot_be_cut_is_refused_and_nothing_is_written(block, capsys, arguments, words):
    assert main(["cut", str(block), *arguments, "-o", str(block.parent / "out")]) == 2
    assert words in capsys.readouterr().err
    assert not (block.parent / "out").exists()


def test_an_open_mesh_is_not_cut(tmp_path, capsys):
    path = tmp_path / "open.stl"
    path.write_bytes(stl_bytes(damaged(primitive("sphere", radius=10, facets=32), [holed]), "m"))
    assert main(["cut", str(path), "--at", "z=0", "-o", str(tmp_path / "out")]) == 1
    assert "open edges" in capsys.readouterr().err and not (tmp_path / "out").exists()


def test_a_folder_that_cannot_be_written_is_told(block, capsys):
    (block.parent / "out").write_text("a file")
    assert main(["cut", str(block), "--at", "z=20", "-o", str(block.parent / "out")]) == 2
    assert "out" in capsys.readouterr().err
