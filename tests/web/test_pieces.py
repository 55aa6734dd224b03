"""Pieces over HTTP: edits, undo, conflicts, meshes, export, the bin."""

import io
import json
import struct
import uuid

import numpy as np
import pytest
import trimesh

from tests.building import box, part
from tests.web.conftest import Maker


def test_the_demo_is_there_once(api):
    cards = api.get("/api/pieces").json()
    demo = sorted(c["name"] for c in cards if c["demo"])
    assert demo == ["Bandstand rock", "Barnacle bell", "Drumming octopus", "Fiddler crab", "Lantern snail"]


def test_an_edit_answers_with_revision_meshes_and_soundness(maker):
    state = maker.drilled()
    assert (state["revision"], state["undo"], state["redo"]) == (2, "Cut Box, Cylinder", None)
    assert state["chosen"] == ["join"]
    sound = state["scene"]["soundness"]
    assert (sound["sound"], sound["bodies"], sound["genus"]) == (True, 1, 1)
    assert sound["bounds"] == [[-10, -10, 0], [10, 10, 20]]
    rod = next(p for p in state["scene"]["parts"] if p["id"] == "rod")
    assert rod["size"] == [8, 8, 30]
    assert rod["box"] == [[-4, -4, -5], [4, 4, 25]]


def mesh_of(api, key):
    answer = api.get(f"/api/meshes/{key}").raise_for_status()
    assert "immutable" in answer.headers["cache-control"]
    data = answer.content
    assert data[:4] == b"NCM1"
    vertices, triangles, parts = struct.unpack_from("<III", data, 4)
    points = np.frombuffer(data, "<f4", vertices * 3, 16).reshape(-1, 3)
    faces = np.frombuffer(data, "<u4", triangles * 3, 16 + points.nbytes).reshape(-1, 3)
    part_of = np.frombuffer(data, "<u4", triangles, 16 + points.nbytes + faces.nbytes) if parts else None
    return points, faces, part_of


def test_meshes_are_binary_whole_and_tell_their_parts(api, maker):
    scene = maker.drilled()["scene"]
    points, faces, part_of = mesh_of(api, scene["result"]["key"])
    assert trimesh.Trimesh(points, faces, process=False).volume == pytest.approx(
        scene["soundness"]["volume_mm3"], rel=1e-5
    )
    assert len(part_of) == scene["result"]["triangles"]
    radius = np.hypot(*points[faces[part_of == scene["result"]["parts"].index("rod")]].reshape(-1, 3)[:, :2].T)
    np.testing.assert_allclose(radius, 4, atol=1e-5)
    cube = next(p for p in scene["parts"] if p["id"] == "cube")
    assert len(mesh_of(api, cube["key"])[1]) == 12


@pytest.mark.parametrize("key", ["0" * 64, "nonsense", "..%2f..%2fetc%2fpasswd"])
def test_an_unknown_mesh_is_404(api, key):
    assert api.get(f"/api/meshes/{key}").status_code == 404


def test_undo_and_redo_walk_all_edits_and_a_new_one_cuts_the_rest_off(maker):
    maker.drilled()
    documents = [maker.state["piece"]]
    for _ in range(2):
        documents.append(maker.step("undo")["piece"])
    assert documents[-1]["parts"] == []
    assert maker.state["undo"] is None
    assert maker.step("redo")["piece"] == documents[1]
    assert maker.step("redo")["piece"] == documents[0]
    maker.step("undo")
    state = maker.edit(kind="move", ids=["rod"], by=[1, 0, 0])
    assert (state["undo"], state["redo"]) == ("Moved Cylinder", None)
    assert maker.step("undo")["piece"] == documents[1]


def test_undoing_nothing_says_so(maker):
    answer = maker.client.post(f"{maker.url}/undo", json={"base_revision": 0})
    assert (answer.status_code, answer.json()["message"]) == (422, "there is nothing to undo")


def test_a_request_sent_twice_is_done_once(maker):
    edit = {"kind": "add_parts", "parts": [box("a")]}
    request_id = str(uuid.uuid4())
    first, second = (maker.post(edit, 0, request_id).json() for _ in range(2))
    assert first["revision"] == second["revision"] == 1
    assert len(second["piece"]["parts"]) == 1
    assert second["chosen"] == ["a"]


def test_a_stale_edit_is_rebased_where_it_still_makes_sense(maker):
    maker.drilled()
    state = maker.post({"kind": "move", "ids": ["rod"], "by": [1, 0, 0]}, base=1).json()
    assert state["revision"] == 3
    maker.state = state
    maker.edit(kind="remove_parts", ids=["rod"])
    refused = maker.post({"kind": "move", "ids": ["rod"], "by": [1, 0, 0]}, base=3)
    assert refused.status_code == 409
    assert "changed since" in refused.json()["message"]


def test_a_refused_edit_names_part_and_field_and_stores_nothing(maker):
    refused = maker.post({"kind": "add_parts", "parts": [part("t", "tube", radius=3, wall=5, height=4)]})
    assert refused.status_code == 422
    (problem,) = refused.json()["problems"]
    assert (problem["part"], problem["field"]) == ("t", "primitive.wall")
    assert maker.client.get(maker.url).json()["revision"] == 0


def test_a_join_that_leaves_nothing_is_kept_and_undoable(maker):
    maker.edit(kind="add_parts", parts=[box("a"), box("b", (5, 0, 0))])
    state = maker.edit(kind="join", ids=["a", "b"], op="intersection")
    assert state["scene"]["soundness"]["triangles"] == 0
    assert not state["scene"]["soundness"]["sound"]
    assert maker.step("undo")["scene"]["soundness"]["bodies"] == 2


def test_put_down_lands_beside_and_on_the_wheel(maker):
    for _ in range(3):
        body = {"base_revision": 0, "request_id": str(uuid.uuid4()), "primitive": {"kind": "sphere", "radius": 9}}
        maker.take(maker.client.post(f"{maker.url}/put-down", json=body))
    sound = maker.state["scene"]["soundness"]
    assert sound["bodies"] == 3
    assert sound["bounds"][0][2] == pytest.approx(0)
    assert len({p["id"] for p in maker.state["piece"]["parts"]}) == 3
    body |= {"request_id": str(uuid.uuid4()), "at": [55, -40]}
    state = maker.client.post(f"{maker.url}/put-down", json=body).json()
    assert state["piece"]["parts"][-1]["place"]["position"] == [55, -40, 9]


def test_facts_tell_what_a_join_would_do(maker):
    maker.edit(
        kind="add_parts",
        parts=[box("a", size=(10, 10, 10)), part("b", "cylinder", radius=2, height=20), box("c", (9, 0, 0))],
    )
    (cut,) = maker.client.post(f"{maker.url}/facts", json={"ids": ["a", "b"], "op": "difference"}).json()
    assert (cut["reach"]["through"], cut["bodies_after"], cut["meets"]["relation"]) == (True, 1, "overlapping")
    (apart,) = maker.client.post(f"{maker.url}/facts", json={"ids": ["a", "c"], "op": "union"}).json()
    assert apart["meets"]["gap"] == pytest.approx(3.5)


def test_needs_offer_the_movement_that_mends(maker):
    maker.edit(
        kind="add_parts", parts=[box("a", size=(10, 10, 10)), box("b", (8, 0, 0), (2, 2, 2)), box("c", (0, 0, 5.5))]
    )
    found = maker.client.get(f"{maker.url}/needs").json()
    kinds = {need["kind"]: need for need in found["needs"]}
    assert set(kinds) == {"loose_body", "touching"}
    loose, touch = kinds["loose_body"], kinds["touching"]
    assert (loose["parts"], touch["parts"], touch["other"], touch["along"]) == (["b"], ["c"], "a", "face")
    assert len(mesh_of(maker.client, loose["key"])[1]) == 12
    for need in (loose, touch):
        maker.edit(**need["remedies"][0]["edit"])
    assert maker.client.get(f"{maker.url}/needs").json()["needs"] == []
    assert maker.state["scene"]["soundness"]["sound"]


def test_export_of_every_kind(maker):
    maker.drilled()
    for file_format in ("stl", "3mf", "clay.json", "claypack"):
        answer = maker.client.get(f"{maker.url}/export", params={"format": file_format}).raise_for_status()
        assert f'filename="Test-piece.{file_format}"' in answer.headers["content-disposition"]
        if file_format == "stl":
            mesh = trimesh.load(io.BytesIO(answer.content), file_type="stl")
            assert mesh.is_watertight
            assert mesh.volume == pytest.approx(maker.state["scene"]["soundness"]["volume_mm3"], rel=1e-5)
        if file_format == "clay.json":
            opened = maker.client.post("/api/pieces/open", content=answer.content).raise_for_status().json()
            assert opened["piece"] == maker.state["piece"]


def test_exporting_nothing_says_so(maker):
    answer = maker.client.get(f"{maker.url}/export", params={"format": "stl"})
    assert (answer.status_code, answer.json()["message"]) == (
        422,
        "nothing is left of this piece, so there is nothing to export",
    )


def test_bin_restore_and_empty(api):
    maker = Maker(api)
    url, name = maker.url, maker.state["id"]
    assert api.delete(url).status_code == 204
    assert api.get(url).status_code == 404
    assert name in [c["id"] for c in api.get("/api/pieces?binned=true").json()]
    assert api.post(f"{url}/restore").status_code == 204
    assert api.get(url).status_code == 200
    api.delete(url)
    assert api.post("/api/pieces/bin/empty").json() >= 1
    assert api.post(f"{url}/restore").status_code == 404


def test_duplicates_and_thumbnails(maker):
    maker.drilled()
    copy = maker.client.post(f"{maker.url}/duplicate").json()
    assert copy["piece"]["parts"] == maker.state["piece"]["parts"]
    assert (copy["undo"], copy["id"] != maker.state["id"]) == (None, True)
    png = b"\x89PNG\r\n\x1a\n" + b"x" * 50
    headers = {"content-type": "image/png"}
    assert maker.client.put(f"{maker.url}/thumbnail?revision=2", content=png, headers=headers).status_code == 204
    assert (
        maker.client.put(f"{maker.url}/thumbnail?revision=1", content=png + b"old", headers=headers).status_code == 204
    )
    assert maker.client.get(f"{maker.url}/thumbnail").content == png
    assert maker.client.put(f"{maker.url}/thumbnail?revision=3", content=b"<svg/>").status_code == 422


def test_sums(api):
    assert api.get("/api/sum", params={"text": "153+4"}).json() == {"value": 157}
    refused = api.get("/api/sum", params={"text": "1+"})
    assert (refused.status_code, "stops too early" in refused.json()["message"]) == (422, True)


def test_the_tray_has_every_primitive_with_fields_and_a_drawing(api):
    for info in api.get("/api/primitives").raise_for_status().json():
        drawn = {"turned": {"profile", "sharp"}, "outline": {"loops", "svg"}, "limb": {"points", "radii"}}
        elsewhere = drawn.get(info["kind"], set())  # drawn, not typed among the fields
        assert {f["name"] for f in info["fields"]} | {"kind"} | elsewhere == set(info["sample"])
        assert bool(info["editor"]) == bool(elsewhere)
        assert api.get(f"/api/primitives/{info['kind']}/tile.svg").text.count("<polygon") >= 2
        moving = api.get(f"/api/primitives/{info['kind']}/moving.svg").text
        assert len(moving) < 3_000_000
        named = [f["title"] for f in info["fields"] if f">{f['title']}</text>" in moving]
        assert named or info["kind"] in ("turned", "limb"), "its fields are seen moving"


def test_the_published_schema_is_served(api):
    assert json.loads(api.get("/api/schema/piece.json").text)["title"] == "Piece"
