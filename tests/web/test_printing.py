"""The Print stage over HTTP: the bed is kept, a piece lies on it, and is looked over by a job with maps and layers."""

import io
import json
import struct
import zipfile

import numpy as np
import pytest
from PIL import Image
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import connect

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mass import volume
from tests.building import box, part
from tests.web.conftest import Maker
from tests.web.test_jobs import until_ended


def with_box(maker, at=(0, 0, 5), **fields):
    maker.edit(kind="add_parts", parts=[box(f"slab{at[2]}", at, (40, 20, 10), **fields)])


def lie(maker, **bed):
    kept = maker.client.put(f"{maker.url}/bed", json=bed)
    kept.raise_for_status()
    return maker.client.post(f"{maker.url}/lie").raise_for_status().json()


def checked(maker):
    job = maker.client.post(f"{maker.url}/print-check").raise_for_status().json()
    return until_ended(maker.client, job)


def test_a_piece_lies_as_it_was_said_and_stands(maker):
    with_box(maker)
    assert maker.client.get(f"{maker.url}/bed").json()["bed"]["printer"] == "Workbench"
    found = lie(maker)
    assert found["size"] == pytest.approx([40, 20, 10])
    assert found["fits"]
    assert found["stands"]
    # Over the long side, half of 20 away from a middle 5 up.
    assert found["tip_angle"] == pytest.approx(np.degrees(np.arctan2(10, 5)))
    on_end = lie(maker, down=[-1, 0, 0], scale=2, copies=3)
    assert sorted(on_end["size"]) == pytest.approx([20, 40, 80])
    assert on_end["size"][2] == pytest.approx(80)
    assert len(on_end["spots"]) == 3
    assert maker.client.get(f"{maker.url}/bed").json()["bed"]["copies"] == 3


def test_copies_keep_their_distance_and_those_without_room_are_left_out(maker):
    with_box(maker)
    found = lie(maker, printer="Shelf", copies=200, scale=3, gap=10)
    assert found["beds"] == 12
    assert len(found["spots"]) == 12 * 2, "180 mm hold two slabs of 120 by 60 with their gap"
    for bed in range(12):
        here = [s for s in found["spots"] if s[3] == bed]
        spots = np.array([s[:2] for s in here])
        half = np.array([[30, 60] if turned else [60, 30] for _, _, turned, _ in here])
        assert np.all(np.abs(spots) + half <= 90 + 1e-6)
        for i in range(len(spots)):
            between = np.maximum(np.abs(spots - spots[i]) - half - half[i], 0)
            apart = np.hypot(*between.T)
            apart[i] = np.inf
            assert apart.min() >= 10 - 1e-6


@pytest.mark.parametrize(
    ("bed", "field"),
    [
        ({"settings": {"layer": 0}}, "layer"),
        ({"settings": {"layer": 1e-6}}, "layer"),
        ({"settings": {"layer": 0.5}}, "layer"),
        ({"scale": 0}, "scale"),
        ({"copies": 10_000}, "copies"),
        ({"down": [0, 0, 0]}, "down"),
        ({"printer": "Barn"}, "printer"),
    ],
)
def test_what_cannot_be_is_refused_with_its_field_and_nothing_is_lost(maker, bed, field):
    maker.client.put(f"{maker.url}/bed", json={"copies": 2}).raise_for_status()
    answer = maker.client.put(f"{maker.url}/bed", json=bed)
    assert answer.status_code in (400, 409, 422)
    assert field in answer.text
    assert maker.client.get(f"{maker.url}/bed").json()["bed"]["copies"] == 2


def test_a_check_tells_figures_draws_maps_and_layers_and_is_not_done_twice(maker):
    with_box(maker)
    job = checked(maker)
    assert job["state"] == "done", job["error"]
    assert job["result"]["layers"] == 50
    assert job["result"]["islands"] == 0
    assert job["result"]["thinnest_mm"] == pytest.approx(10, abs=1e-4)
    assert checked(maker)["id"] == job["id"]
    details = maker.client.get(f"/api/jobs/{job['id']}/print").raise_for_status().json()
    assert details["size"] == pytest.approx([40, 20, 10])

    maps = maker.client.get(f"/api/jobs/{job['id']}/print/maps").raise_for_status().content
    assert maps[:4] == b"NCM1"
    vertices, triangles, parts = struct.unpack_from("<III", maps, 4)
    assert parts == 0
    assert len(maps) == 16 + 12 * vertices + 12 * triangles + 8 * triangles
    leans, thick = np.frombuffer(maps[-8 * triangles :], "<f4").reshape(2, -1)
    assert leans.max() == pytest.approx(0, abs=1e-9), "nothing of a slab that lies flat leans out"
    assert set(np.round(thick).tolist()) == {10, 20, 40}

    layer = maker.client.get(f"/api/jobs/{job['id']}/print/layers/20").raise_for_status().content
    (count,) = struct.unpack_from("<I", layer)
    lines = np.frombuffer(layer[4 : 4 + 16 * count], "<f4").reshape(-1, 4)
    kinds = np.frombuffer(layer[4 + 16 * count :], np.uint8)
    assert len(kinds) == count
    outer = lines[kinds == 0]
    assert np.hypot(*(outer[:, 2:] - outer[:, :2]).T).sum() == pytest.approx(2 * (40 + 20) - 8 * 0.21, abs=0.01)
    assert {0, 1, 3} == set(kinds.tolist()), "walls and infill: nothing in the middle is skin, or held up"
    assert maker.client.get(f"/api/jobs/{job['id']}/print/layers/999").status_code == 422


def test_a_changed_piece_is_looked_over_anew_and_what_came_before_is_thrown_away(maker):
    with_box(maker)
    first = checked(maker)
    with_box(maker, at=(0, 0, 15))
    second = checked(maker)
    assert second["id"] != first["id"]
    assert second["result"]["layers"] == 100
    assert maker.client.get(f"/api/jobs/{first['id']}").status_code == 404


def test_ways_to_lie_name_the_best_of_each(maker):
    with_box(maker, turn=(30, 0, 0))
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/orient").raise_for_status().json())
    assert job["state"] == "done", job["error"]
    ways = {name: way for way in job["result"]["ways"] for name in way["best_for"]}
    assert ways["flattest"]["height"] == pytest.approx(10, abs=0.02)
    assert ways["flattest"]["rests_on"] == pytest.approx(800, rel=1e-3)
    assert ways["least support"]["support"] == pytest.approx(0, abs=0.1)


def test_an_empty_piece_is_told_so(maker):
    answer = maker.client.post(f"{maker.url}/lie")
    assert answer.status_code == 422
    assert "nothing to print" in answer.text
    assert "nothing to show or print" in checked(maker)["error"]


def test_profiles_are_kept_and_a_bed_whose_printer_is_gone_has_the_first(maker):
    likes = maker.client.get("/api/preferences").json()
    big = {**likes["printers"][0], "name": "Barn", "bed": [500, 500, 500]}
    maker.client.put("/api/preferences", json={**likes, "printers": [*likes["printers"], big]}).raise_for_status()
    try:
        maker.client.put(f"{maker.url}/bed", json={"printer": "Barn"}).raise_for_status()
        assert maker.client.get(f"{maker.url}/bed").json()["bed"]["printer"] == "Barn"
        for wrong in ({"speed": -1}, {"bed": [0, 10, 10]}, {"name": "workbench"}):
            answer = maker.client.put(
                "/api/preferences", json={**likes, "printers": [likes["printers"][0], {**big, **wrong}]}
            )
            assert answer.status_code in (400, 422), wrong
    finally:
        maker.client.put("/api/preferences", json=likes).raise_for_status()
    assert maker.client.get(f"{maker.url}/bed").json()["bed"]["printer"] == "Workbench"


def test_a_piece_is_cut_into_parts_that_plug_together_and_stays_as_it_is(maker):
    with_box(maker)
    before = maker.state["revision"]
    answer = maker.client.post(f"{maker.url}/cut").raise_for_status().json()
    assert "say where to cut" in until_ended(maker.client, answer)["error"]
    cut = {"planes": [{"axis": "x", "at": 0}], "peg": "round", "clearance": 0.15}
    maker.client.put(f"{maker.url}/bed", json={"cut": cut}).raise_for_status()
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/cut").raise_for_status().json())
    assert job["state"] == "done", job["error"]
    found = job["result"]
    assert [(p["bodies"], p["sound"]) for p in found["parts"]] == [(1, True)] * 2
    assert found["parts"][0]["pegs"] == found["parts"][1]["sockets"] == 2
    assert found["least_gap_mm"] == pytest.approx(0.15, abs=1e-3)
    assert found["goes_together"]

    archive = zipfile.ZipFile(io.BytesIO(maker.client.get(f"/api/jobs/{job['id']}/cut/parts.zip").content))
    assert archive.namelist() == ["Test-piece-1.3mf", "Test-piece-2.3mf"]
    meshes = [read_mesh(archive.read(name), ".3mf").in_mm() for name in archive.namelist()]
    assert [volume(m) for m in meshes] == pytest.approx([p["volume_mm3"] for p in found["parts"]], rel=1e-5)
    shown = maker.client.get(f"/api/jobs/{job['id']}/cut/2").raise_for_status().content
    assert shown[:4] == b"NCM1"
    assert maker.client.get(f"/api/jobs/{job['id']}/cut/3").status_code == 422
    assert maker.fresh()["revision"] == before


@pytest.mark.parametrize("at", [-40, 20, 1e5])
def test_a_cut_that_misses_or_only_touches_says_how_far_the_piece_reaches(maker, at):
    with_box(maker)
    maker.client.put(f"{maker.url}/bed", json={"cut": {"planes": [{"axis": "x", "at": at}]}}).raise_for_status()
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/cut").raise_for_status().json())
    assert job["state"] == "failed"
    assert "from -20 to 20 mm" in job["error"]


def test_a_ball_is_made_to_stand_as_one_step_that_can_be_undone(maker):
    maker.edit(kind="add_parts", parts=[part("ball", "sphere", (0, 0, 10), radius=10)])
    assert maker.counted()["scene"]["soundness"]["tip_angle"] == 0
    found = maker.client.get(f"{maker.url}/steadyings").raise_for_status().json()
    flatten = next(s for s in found if s["how"] == "flatten")
    maker.edit(**flatten["edit"])
    assert maker.counted()["scene"]["soundness"]["tip_angle"] == pytest.approx(flatten["tip_angle"], abs=0.05)
    assert maker.state["undo"] == "Made it stand"
    assert len(maker.step("undo")["piece"]["parts"]) == 1


def run_of(maker, job):
    url = str(maker.client.base_url).rstrip("/")
    return connect(f"{url.replace('http', 'ws', 1)}/api/jobs/{job}/print/run", origin=url)


def until_told(socket, wanted):
    """The first thing told that is so."""
    for _ in range(600):
        told = json.loads(socket.recv(10))
        if wanted(told):
            return told
    raise AssertionError(told)


def test_a_simulated_print_goes_on_is_paused_and_stopped(maker):
    with_box(maker)
    job = checked(maker)
    with run_of(maker, job["id"]) as socket:
        begun = until_told(socket, lambda t: t["share"] > 0)
        assert begun["state"] == "printing"
        assert begun["printed"] + begun["left"] == pytest.approx(job["result"]["seconds"], rel=1e-6)
        socket.send("nonsense")
        socket.send("pause")
        paused = until_told(socket, lambda t: t["state"] == "paused")
        assert json.loads(socket.recv(10))["printed"] == paused["printed"], "time stands still"
        socket.send("resume")
        later = until_told(socket, lambda t: t["printed"] > paused["printed"])
        assert 0 <= later["layer"] < 50
        socket.send("stop")
        until_told(socket, lambda t: t["state"] == "stopped")
        with pytest.raises(ConnectionClosed):
            socket.recv(10)


def test_what_checked_no_print_cannot_be_run(maker):
    with run_of(maker, "0" * 16) as socket:
        told = json.loads(socket.recv(10))
    assert told["state"] == "failed"
    assert told["message"]


def test_a_making_of_sheet_is_a_page_and_a_pdf(maker):
    with_box(maker, _name="Slab – à la carte")
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/making-of").raise_for_status().json())
    assert job["state"] == "done", job["error"]
    assert job["result"]["steps"] == 1
    page = maker.client.get(f"/api/jobs/{job['id']}/making-of.html").raise_for_status()
    assert "Slab – à la carte" in page.text
    assert "50 of 0.2 mm" in page.text, "how it was rehearsed"
    policy = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
    assert page.headers.get_list("content-security-policy") == [policy], "its own only: another would take its style"
    pdf = maker.client.get(f"/api/jobs/{job['id']}/making-of.pdf").raise_for_status()
    assert pdf.content.startswith(b"%PDF-")
    assert "Test-piece-making-of.pdf" in pdf.headers["content-disposition"]


def test_a_turntable_is_a_gif_and_a_webp(maker):
    with_box(maker)
    asked = {"pictures": 9, "width": 96, "seconds": 1.8}
    begun = maker.client.post(f"{maker.url}/turntable", json=asked).raise_for_status().json()
    job = until_ended(maker.client, begun)
    assert job["state"] == "done", job["error"]
    assert job["result"]["pictures"] == 9
    for kind in ("gif", "webp"):
        answer = maker.client.get(f"/api/jobs/{job['id']}/turntable.{kind}").raise_for_status()
        assert answer.headers["content-type"] == f"image/{kind}"
        picture = Image.open(io.BytesIO(answer.content))
        assert (picture.n_frames, picture.size) == (9, (96, 72))
    again = maker.client.post(f"{maker.url}/turntable", json=asked).raise_for_status().json()
    assert again["id"] == job["id"], "the same is not drawn twice"
    for wrong in ({"pictures": 1}, {"width": 1e9}, {"seconds": 0}, {"pictures": "many"}):
        refused = maker.client.post(f"{maker.url}/turntable", json={**asked, **wrong})
        assert refused.status_code == 422 and refused.json()["message"], wrong


def test_of_nothing_there_is_no_turntable(maker):
    begun = maker.client.post(f"{maker.url}/turntable", json={}).raise_for_status().json()
    job = until_ended(maker.client, begun)
    assert job["state"] == "failed" and "nothing is left" in job["error"]


def test_the_kinds_of_long_work_have_words(maker):
    kinds = {k["kind"]: k for k in maker.client.get("/api/jobs/kinds").raise_for_status().json()}
    assert {"print", "orient", "cut", "making_of"} <= set(kinds)
    assert kinds["cut"]["label"] == "Cut into parts"
    refused = maker.client.post(f"{maker.url}/jobs", json={"kind": "cut", "params": {}})
    assert refused.status_code == 422, "only as its bed says"


def test_what_would_make_it_stand_is_tried_out_and_nothing_is_changed(maker):
    maker.edit(kind="add_parts", parts=[part("ball", "sphere", (0, 0, 10), radius=10)])
    kept = lie(maker)
    assert kept["result"] is None
    for found in maker.client.get(f"{maker.url}/steadyings").raise_for_status().json():
        tried = maker.client.post(f"{maker.url}/lie", json={"edit": found["edit"]}).raise_for_status().json()
        assert tried["tip_angle"] == pytest.approx(found["tip_angle"], abs=0.05)
        assert maker.client.get(f"/api/meshes/{tried['result']['key']}").status_code == 200
        assert tried["result"]["key"] != maker.state["scene"]["result"]["key"]
        assert set(tried["result"]["parts"]) == set(tried["colours"])
    assert lie(maker) == kept
    assert maker.fresh()["revision"] == maker.state["revision"]
    wrong = {"kind": "move", "ids": ["nobody"], "by": [0, 0, 1]}
    assert maker.client.post(f"{maker.url}/lie", json={"edit": wrong}).status_code == 422


def test_a_file_is_as_coarse_as_it_is_asked_to_be(maker):
    maker.edit(kind="add_parts", parts=[part("ball", "sphere", (0, 0, 10), radius=10, facets=128)])

    def taken(**params):
        return maker.client.get(f"{maker.url}/export", params={"format": "stl", **params})

    fine, coarse = (read_mesh(taken(**p).raise_for_status().content, "stl").mesh for p in ({}, {"coarser": 0.1}))
    assert len(coarse.triangles) < 0.5 * len(fine.triangles)
    assert volume(coarse) == pytest.approx(volume(fine), rel=0.03)
    assert inspect_mesh(coarse).sound
    for wrong in ("-1", "1000", "much"):
        assert taken(coarser=wrong).status_code in (400, 422)


def test_a_file_holds_one_body_or_one_for_each_line_of_the_recipe(maker):
    head = part("head", "sphere", (0, 0, 10), radius=10, _colour="#c03030", _name="Head")
    eyes = [part(f"eye{x}", "sphere", (x, -8, 14), radius=3, _colour="#3030c0", _name=f"Eye {x}") for x in (-4, 4)]
    maker.edit(kind="add_parts", parts=[head, *eyes])

    def taken(file_format, **params):
        return maker.client.get(f"{maker.url}/export", params={"format": file_format, **params})

    whole = volume(read_mesh(taken("stl").content, "stl").mesh)
    packed = taken("stl", apart=True).raise_for_status()
    assert packed.headers["content-type"] == "application/zip"
    assert "apart.stl.zip" in packed.headers["content-disposition"]
    with zipfile.ZipFile(io.BytesIO(packed.content)) as archive:
        meshes = [read_mesh(archive.read(name), "stl").mesh for name in archive.namelist()]
    assert len(meshes) == 3 and all(inspect_mesh(mesh).sound for mesh in meshes)
    assert sum(volume(mesh) for mesh in meshes) == pytest.approx(whole, rel=1e-5)
    with zipfile.ZipFile(io.BytesIO(taken("3mf", apart=True).raise_for_status().content)) as archive:
        assert archive.read("3D/3dmodel.model").count(b"<mesh>") == 3
    with zipfile.ZipFile(io.BytesIO(taken("obj.zip", apart=True).content)) as archive:
        assert sorted(archive.namelist())[:2] == ["01-Head.mtl", "01-Head.obj"]
    refused = taken("stl", apart=True, coarser=0.1)
    assert refused.status_code == 422 and "as fine as they are" in refused.json()["message"]
    maker.edit(kind="remove_parts", ids=["eye-4", "eye4"])
    refused = taken("stl", apart=True)
    assert refused.status_code == 422 and "only one part" in refused.json()["message"]


def test_a_piece_is_divided_by_glaze(maker):
    blue = box("a", (0, 0, 5), (10, 10, 10), _colour="#123456")
    red = box("b", (10, 0, 5), (10, 10, 10), _colour="#a33d2a")
    maker.edit(kind="add_parts", parts=[blue, red])
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/by-glaze").raise_for_status().json())
    assert (job["state"], job["outcome"]) == ("done", "2 glazes")
    with zipfile.ZipFile(io.BytesIO(maker.client.get(f"/api/jobs/{job['id']}/by-glaze.3mf").content)) as archive:
        model = archive.read("3D/3dmodel.model")
    assert model.count(b"<mesh>") == 2 and b"#123456" in model.lower() and b"#a33d2a" in model.lower()
    packed = maker.client.get(f"/api/jobs/{job['id']}/by-glaze.zip").raise_for_status()
    with zipfile.ZipFile(io.BytesIO(packed.content)) as archive:
        meshes = [read_mesh(archive.read(name), "stl").mesh for name in archive.namelist()]
    assert sorted(volume(mesh) for mesh in meshes) == pytest.approx([1000, 1000], rel=1e-3)
    maker.edit(kind="remove_parts", ids=["b"])
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/by-glaze").raise_for_status().json())
    assert job["state"] == "failed" and "one glaze" in job["error"]


def another(maker, name, **fields):
    """A second piece on the shelf: a cube of 10 mm."""
    other = Maker(maker.client)
    other.edit(kind="add_parts", parts=[box(name, (0, 0, 5), (10, 10, 10), **fields)])
    return other


def test_several_pieces_on_one_bed_are_shown_arranged_and_written_as_one(maker):
    with_box(maker)
    other = another(maker, "cube", _colour="#0a1b2c")
    other.client.put(f"{other.url}/bed", json={"scale": 2, "copies": 7}).raise_for_status()
    beside = {"piece": other.state["id"], "copies": 3}
    found = lie(maker, copies=2, beside=[beside])
    (shown,) = found["beside"]
    assert (shown["problem"], shown["copies"], len(shown["lies"]["spots"])) == (None, 3, 3)
    assert shown["lies"]["size"] == pytest.approx([20, 20, 20]), "as its own bed says"
    assert shown["colours"]["cube"] == "#0a1b2c"
    assert maker.client.get(f"/api/meshes/{shown['result']['key']}").status_code == 200

    job = until_ended(maker.client, maker.client.post(f"{maker.url}/plate").raise_for_status().json())
    assert job["state"] == "done", job["error"]
    assert (job["result"]["bodies"], job["result"]["left_out"]) == (5, 0)
    for ending in ("3mf", "stl"):
        data = maker.client.get(f"/api/jobs/{job['id']}/plate.{ending}").raise_for_status().content
        whole = read_mesh(data, ending).mesh
        assert inspect_mesh(whole).bodies == 5
        assert volume(whole) == pytest.approx(2 * 40 * 20 * 10 + 3 * 20**3, rel=1e-5)
        assert whole.bounds[0][2] == pytest.approx(0, abs=1e-5)
    assert maker.client.post(f"{maker.url}/plate").json()["id"] == job["id"], "asked again it is the same"
    other.edit(kind="move", ids=["cube"], by=[0, 0, 1])
    assert maker.client.post(f"{maker.url}/plate").json()["id"] != job["id"], "what lies beside has changed"


def test_what_has_no_room_on_one_bed_takes_more_and_each_has_its_file(maker):
    with_box(maker)
    found = lie(maker, copies=7, scale=4)  # of 160 by 80 mm, on a bed of 220 by 220
    assert found["beds"] == 4
    assert sorted(spot[3] for spot in found["spots"]) == [0, 0, 1, 1, 2, 2, 3]
    job = until_ended(maker.client, maker.client.post(f"{maker.url}/plate").raise_for_status().json())
    assert job["outcome"] == "7 on 4 beds", job["error"]
    for ending in ("3mf", "stl"):
        answer = maker.client.get(f"/api/jobs/{job['id']}/plate.{ending}").raise_for_status()
        assert f"beds.{ending}.zip" in answer.headers["content-disposition"]
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            beds = [read_mesh(archive.read(name), ending).mesh for name in archive.namelist()]
        assert [inspect_mesh(mesh).bodies for mesh in beds] == [2, 2, 2, 1]
        assert max(np.abs(mesh.vertices[:, :2]).max() for mesh in beds) <= 110, "each in its own bed's middle"


def test_what_lies_beside_may_go_or_be_empty_and_the_rest_lies_all_the_same(maker):
    with_box(maker)
    gone, empty = another(maker, "cube"), Maker(maker.client)
    beside = [{"piece": m.state["id"], "copies": 1} for m in (gone, empty)]
    maker.client.delete(gone.url).raise_for_status()
    found = lie(maker, beside=beside)
    assert len(found["spots"]) == 1
    assert "bin" in found["beside"][0]["problem"]
    assert "nothing" in found["beside"][1]["problem"]
    refused = maker.client.post(f"{maker.url}/plate")
    assert refused.status_code == 422
    assert "bin" in refused.json()["message"]


def test_no_piece_lies_beside_itself_or_twice(maker):
    own, other = maker.state["id"], another(maker, "cube").state["id"]
    for beside in ([own], [other, other]):
        answer = maker.client.put(f"{maker.url}/bed", json={"beside": [{"piece": p} for p in beside]})
        assert answer.status_code in (400, 422)
        assert "beside" in answer.text
    assert maker.client.get(f"{maker.url}/bed").json()["bed"]["beside"] == []
