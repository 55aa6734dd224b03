"""A piece that takes long to join: shown at once, patched where it changes, counted meanwhile, never wrong."""

import json
import time
import uuid
from io import BytesIO

import pytest
import trimesh
from websockets.sync.client import connect

from noble_clay.core.formats.pieces import asset_bytes
from noble_clay.solvers.operations import showing
from noble_clay.solvers.operations.showing import adopt, count, show
from noble_clay.solvers.solver import Solver
from noble_clay.store.assets import keep_asset
from noble_clay.store.database import open_database, sessions
from tests.building import box, part, piece
from tests.damage import primitive


@pytest.fixture
def large(maker):
    """A slab with a field of 180 overlapping studs, as one edit."""
    maker.until_counted = False
    studs = [part(f"s{i}", "sphere", (5.5 * (i % 15), 5.5 * (i // 15), 4), radius=3, facets=12) for i in range(180)]
    maker.edit(kind="add_parts", parts=[box("slab", (38, 30, 0), (90, 76, 6)), *studs])
    return maker


def counted(maker, patience=120):
    """The answer of `count`, once there is one."""
    until = time.monotonic() + patience
    while time.monotonic() < until:
        answer = maker.client.get(f"{maker.url}/count")
        if answer.json()["soundness"] is not None:
            return answer
        time.sleep(0.1)
    raise AssertionError("it was never counted")


def test_it_is_shown_part_by_part_until_it_is_counted(large):
    scene = large.state["scene"]
    assert (scene["result"], scene["patch"], scene["soundness"]) == (None, None, None)
    assert all(p["key"] for p in scene["parts"])
    found = counted(large).raise_for_status().json()
    assert found["soundness"]["sound"] and found["revision"] == large.state["revision"]
    assert large.client.get(f"/api/meshes/{found['result']['key']}").status_code == 200
    scene = large.client.get(large.url).json()["scene"]
    assert scene["result"]["key"] == found["result"]["key"]
    assert scene["soundness"] == found["soundness"], "known from now on"


def test_an_edit_is_answered_with_a_patch_and_counted_after_it(large):
    first = counted(large).json()
    large.edit(kind="move", ids=["s20"], by=[0, 0, 1])
    scene = large.state["scene"]
    assert scene["result"]["key"] == first["result"]["key"]
    assert scene["soundness"] is None, "not told before it is known"
    low, high = scene["patch"]["box"]
    assert [h - w for h, w in zip(high, low, strict=True)] == pytest.approx([6.1, 6.1, 7.1])
    assert {"slab", "s20"} <= set(scene["patch"]["parts"])
    assert large.client.get(f"/api/meshes/{scene['patch']['key']}").status_code == 200
    # A second edit elsewhere: the patch covers both, unless the first is counted already.
    scene = large.edit(kind="move", ids=["s24"], by=[0, 0, 1])["scene"]
    low, _ = scene["patch"]["box"]
    assert scene["patch"]["box"][1][0] > high[0] + 20
    assert low[0] < high[0] or scene["result"]["key"] != first["result"]["key"]
    second = counted(large).json()
    assert second["soundness"]["volume_mm3"] > first["soundness"]["volume_mm3"]
    undone = large.step("undo")["scene"]
    assert undone["result"]["key"] != second["result"]["key"], "what is known of the former state is shown at once"


def test_colours_and_names_need_no_counting(large):
    first = counted(large).json()
    large.edit(kind="set_part", ids=["s3"], fields={"colour": "#112233"})
    assert large.state["scene"]["soundness"] == first["soundness"]


def test_counts_are_of_the_revision_that_they_name_however_fast_edits_follow(large):
    volumes = {}
    for height in (0.5, -1.0, 0.25):
        large.edit(kind="move", ids=["s2"], by=[0, 0, height])
        answer = large.client.get(f"{large.url}/count").json()
        assert answer["revision"] == large.state["revision"]
        volumes[answer["revision"]] = answer["soundness"] and answer["soundness"]["volume_mm3"]
    latest = counted(large).json()
    assert latest["revision"] == large.state["revision"] and latest["soundness"]["manifold"]
    assert volumes[latest["revision"]] in (None, latest["soundness"]["volume_mm3"])


def test_the_socket_tells_when_it_is_counted(large):
    counted(large)
    with connect(
        f"ws{large.client.base_url}".replace("wshttp", "ws").rstrip("/") + f"{large.url}/socket",
        origin=str(large.client.base_url).rstrip("/"),
    ) as socket:
        assert json.loads(socket.recv(timeout=10))["counted"]
        revision = large.edit(kind="move", ids=["s7"], by=[0, 0, 0.5])["revision"]
        notes = [json.loads(socket.recv(timeout=60))]
        while not (notes[-1]["revision"] == revision and notes[-1]["made"] and notes[-1]["counted"]):
            notes.append(json.loads(socket.recv(timeout=60)))
    assert large.client.get(f"{large.url}/count").json()["soundness"]["sound"]


def test_what_is_exported_is_the_newest_whatever_is_counted(large):
    volume = counted(large).json()["soundness"]["volume_mm3"]
    large.edit(kind="remove_parts", ids=[f"s{i}" for i in range(90)])
    stl = large.client.get(f"{large.url}/export", params={"format": "stl"}, timeout=120)
    exported = trimesh.load(BytesIO(stl.content), file_type="stl")
    now = counted(large).json()["soundness"]
    assert now["volume_mm3"] == pytest.approx(exported.volume, rel=1e-5)
    assert now["tiled"] and len(exported.faces) < now["triangles"] < 1.6 * len(exported.faces)
    assert now["volume_mm3"] < volume


@pytest.fixture
def solver(server, tmp_path, monkeypatch):
    """One to which a mesh of a few hundred triangles is heavy."""
    monkeypatch.setattr(showing, "HEAVY_TRIANGLES", 500)
    return Solver(tmp_path)


def kept_mesh(mesh):
    sha256, data = asset_bytes(mesh)
    with sessions(open_database()).begin() as session:
        keep_asset(session, sha256, data)
    return {"id": "m", "mesh": {"asset": sha256}}


def test_a_heavy_mesh_is_shown_before_it_is_joined_and_edits_are_answered_with_patches(solver):
    heavy = kept_mesh(primitive("sphere", radius=10, facets=48))
    before, name = piece(heavy), uuid.uuid4().hex
    scene = show(solver, name, before.dump())
    assert (scene["result"], scene["soundness"]) == (None, None)
    assert scene["parts"][0]["key"] and scene["parts"][0]["size"] == pytest.approx([20, 20, 20], rel=1e-2)
    found = count(solver, name, before.dump())
    adopt(solver, name, before.dump(), found)
    assert show(solver, name, before.dump())["soundness"]["sound"]
    after = piece(heavy, box("cut", (9, 0, 0), (4, 3, 3), op="difference"))
    scene = show(solver, name, after.dump())
    assert scene["result"]["key"] == found["result"]["key"]
    assert scene["patch"] is not None and scene["soundness"] is None
    assert count(solver, name, after.dump())["soundness"]["volume_mm3"] < found["soundness"]["volume_mm3"]


def test_a_light_mesh_is_joined_at_once_and_one_that_is_not_there_is_told(solver):
    light = kept_mesh(primitive("sphere", radius=10, facets=12))
    assert show(solver, uuid.uuid4().hex, piece(light).dump())["soundness"]["sound"]
    missing = {"id": "m", "mesh": {"asset": "cd" * 32}}
    scene = show(solver, uuid.uuid4().hex, piece(missing, box("b")).dump())
    assert [left["part"] for left in scene["soundness"]["left_out"]] == ["m"]


def test_a_count_of_no_piece_is_refused(api):
    assert api.get(f"/api/pieces/{uuid.uuid4().hex[:16]}/count").status_code == 404
