"""Bringing in, looking over and mending as jobs: their ends, their cancelling, and workers and databases that die."""

import json
import os
import signal
import tempfile
import time
import uuid
from pathlib import Path

import numpy as np
import psutil
import pytest
from sqlalchemy import text
from websockets.sync.client import connect

from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.jobs.folders import PREFIX
from noble_clay.store.database import open_database
from tests.building import box
from tests.damage import crumbed, damaged, holed, primitive, together
from tests.serving import end, launch_worker
from tests.waiting import wait_until

OWN_SERVER = True

BALL = primitive("sphere", radius=10, facets=32)
RNG = np.random.default_rng(2)


def until_ended(client, job, patience=60):
    end = time.monotonic() + patience
    while time.monotonic() < end:
        found = client.get(f"/api/jobs/{job['id']}").json()
        if found["state"] in ("done", "failed", "cancelled"):
            return found
        time.sleep(0.1)
    raise AssertionError(f"still {found['state']}: {found}")


def bring(maker, data, name="found.stl"):
    return maker.client.post(f"{maker.url}/bring-in", params={"name": name}, content=data)


def put(maker, job, unit="millimeter"):
    body = {"base_revision": maker.state["revision"], "request_id": str(uuid.uuid4()), "unit": unit}
    return maker.take(maker.client.post(f"{maker.url}/bring-in/{job['id']}/put", json=body))["chosen"][0]


def brought(maker, mesh, unit="millimeter"):
    job = until_ended(maker.client, bring(maker, stl_bytes(mesh, "m")).raise_for_status().json())
    assert job["state"] == "done", job["error"]
    return put(maker, job, unit)


def mend(maker, part, **options):
    answer = maker.client.post(f"{maker.url}/mend", json={"parts": [part], "options": options})
    return answer.raise_for_status().json()


def part_of(state, part):
    return next(p for p in state["piece"]["parts"] if p["id"] == part)


def test_a_file_is_read_and_becomes_a_part_in_the_unit_that_is_said(maker):
    job = until_ended(maker.client, bring(maker, stl_bytes(BALL, "m")).raise_for_status().json())
    assert job["state"] == "done"
    assert job["result"]["unit"] is None
    assert job["result"]["size"] == pytest.approx([20, 20, 20], rel=1e-3)
    part = put(maker, job, "inch")
    assert maker.state["chosen"] == [part]
    assert part_of(maker.state, part)["place"]["scale"] == [25.4] * 3
    assert maker.state["scene"]["soundness"]["sound"]
    low, high = maker.state["scene"]["soundness"]["bounds"]
    assert low[2] == pytest.approx(0, abs=1e-3)
    assert high[2] == pytest.approx(508, rel=1e-3)


def test_a_file_that_knows_its_unit_needs_no_word(maker):
    job = until_ended(maker.client, bring(maker, mesh_bytes(BALL, "ball", "3mf"), "ball.3mf").json())
    assert job["result"]["unit"] == "millimeter"
    assert put(maker, job, None) == "mesh"


def test_a_broken_mesh_is_shown_found_out_and_mended_as_one_step(maker):
    broken = damaged(BALL, [holed])
    part = brought(maker, broken)
    soundness = maker.state["scene"]["soundness"]
    assert not soundness["sound"]
    assert [left["part"] for left in soundness["left_out"]] == [part]
    (found,) = maker.client.get(f"{maker.url}/mesh-findings").json()
    assert {f["kind"]: f["count"] for f in found["findings"]} == {"open_edges": 9}
    assert len(found["flaws"]) == 3
    assert all(len(f["lines"]) == 3 * 2 * 3 and f["length_mm"] > 0 for f in found["flaws"])

    job = until_ended(maker.client, mend(maker, part))
    assert job["state"] == "done"
    state = maker.fresh()
    assert state["undo"] == "Mended found"
    assert state["scene"]["soundness"]["sound"]
    report = job["result"][part]["report"]
    assert [s["step"] for s in report["steps"]] == ["close_holes"]

    (pair,) = maker.client.get(f"/api/jobs/{job['id']}/compare").json()
    sizes = [maker.client.get(f"/api/meshes/{pair[k]}").content for k in ("before", "after")]
    triangles = int.from_bytes(sizes[1][8:12], "little")
    moved = np.frombuffer(maker.client.get(pair["moved"]).content, "<f4")
    assert len(moved) == triangles
    assert 1e-3 < moved.max() < 0.5, "only the patches are new, and near where the ball was"
    assert json.loads(maker.client.get(f"/api/jobs/{job['id']}/report.json").content)["parts"][part]["steps"]
    page = maker.client.get(f"/api/jobs/{job['id']}/report.html").text
    for said in (
        "<h1>Mending of found",
        "in Test piece",
        "Cracks",
        "A slicer cannot tell",
        "Close holes: 3",
        "<td>Closed",
    ):
        assert said in page

    undone = maker.step("undo")
    assert not undone["scene"]["soundness"]["sound"]
    assert maker.step("redo")["scene"]["soundness"]["sound"]

    cut = maker.edit(kind="add_parts", parts=[box("slot", (0, 0, 20), (2, 30, 8), op="difference")])
    assert cut["scene"]["soundness"]["sound"], "once mended it is cut like any other part"
    pack = maker.client.get(f"{maker.url}/export?format=claypack").content
    opened = maker.client.post("/api/pieces/open", content=pack).raise_for_status().json()
    assert opened["scene"]["soundness"]["volume_mm3"] == pytest.approx(cut["scene"]["soundness"]["volume_mm3"])


def test_wishes_are_in_millimetres_however_the_part_is_scaled(maker):
    sheet = Mesh(np.array([[0.0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0]]), np.array([[0, 1, 2], [0, 2, 3]]))
    part = brought(maker, sheet, "inch")
    job = until_ended(maker.client, mend(maker, part))
    report = job["result"][part]["report"]
    assert "encloses nothing" in report["proposal"]["why"]
    assert report["area_mm2"] == pytest.approx(50.8**2, rel=1e-6), "as large as it is shown"
    assert report["proposal"]["wall_mm"] == pytest.approx(0.006 * 50.8 * 2**0.5, rel=1e-6)
    assert maker.client.get(maker.url).json()["revision"] == maker.state["revision"], "nothing was changed"
    job = until_ended(maker.client, mend(maker, part, wall_mm=1.5))
    state = maker.fresh()
    assert state["scene"]["soundness"]["sound"]
    assert state["scene"]["soundness"]["volume_mm3"] == pytest.approx(50.8**2 * 1.5, rel=1e-3)


def test_measures_are_those_on_the_wheel_also_inside_a_join_that_is_scaled(maker):
    part = brought(maker, damaged(BALL, [holed]), "inch")
    maker.edit(kind="add_parts", parts=[box("b", (300, 0, 0), (9, 9, 9))])
    maker.edit(kind="join", ids=[part, "b"], op="union")
    maker.edit(kind="set_part", ids=maker.state["chosen"], fields={"place": {"scale": [0.5, 0.5, 0.5]}})
    job = until_ended(maker.client, mend(maker, part))
    report = job["result"][part]["report"]
    assert report["volume_mm3"] == pytest.approx(4 / 3 * np.pi * 127**3, rel=0.03)
    (pair,) = maker.client.get(f"/api/jobs/{job['id']}/compare").json()
    moved = np.frombuffer(maker.client.get(pair["moved"]).content, "<f4")
    assert pair["largest_mm"] == report["deviation_mm"]
    assert 0.5 * pair["largest_mm"] < moved.max() <= pair["largest_mm"] * 1.001


@pytest.mark.parametrize(
    ("name", "data", "status", "words"),
    [
        ("list.doc", b"milk", 422, "meshes are read from"),
        ("empty.stl", b"", 422, "empty"),
    ],
)
def test_a_file_that_cannot_be_one_is_refused_at_once(maker, name, data, status, words):
    answer = bring(maker, data, name)
    assert answer.status_code == status
    assert words in answer.json()["message"]
    assert maker.client.get("/api/jobs").json() == [] or all(
        j["piece_id"] != maker.state["id"] for j in maker.client.get("/api/jobs").json()
    )


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("note.stl", b"a shopping list: milk, eggs, and bread", "not an STL"),
        ("half.stl", stl_bytes(BALL, "m")[:-99], "promises"),
        ("other.3mf", b"PK\x03\x04nothing", "not a whole 3MF"),
        ("holes.obj", b"v 0 0 0\nf 1 2 3\n", "not there"),
    ],
)
def test_a_file_that_is_something_else_fails_in_words(maker, name, data, words):
    job = until_ended(maker.client, bring(maker, data, name).json())
    assert job["state"] == "failed"
    assert words in job["error"]


def test_an_upload_that_breaks_off_leaves_nothing(maker):
    def broken_off():
        yield b"\0" * 5_000_000
        raise ConnectionError("pulled out")

    with pytest.raises(ConnectionError):
        bring(maker, broken_off())
    jobs = maker.client.get("/api/jobs").json()
    assert all(j["piece_id"] != maker.state["id"] for j in jobs)


def heavy(count=10):
    """A mesh whose mending takes some seconds: noise all over, so that triangles cross everywhere."""
    ball = primitive("sphere", radius=20, facets=96)
    points = ball.vertices + np.random.default_rng(count).normal(0, 0.25, ball.vertices.shape)
    return Mesh(points, ball.triangles)


def running(client, job, patience=30):
    end = time.monotonic() + patience
    while time.monotonic() < end:
        found = client.get(f"/api/jobs/{job['id']}").json()
        if found["state"] != "waiting":
            return found
        time.sleep(0.05)
    raise AssertionError("no worker took it")


@pytest.mark.parametrize("share", [0.0, 0.2, 0.5, 0.8])
def test_a_job_cancelled_at_any_moment_ends_and_changes_nothing(maker, share):
    part = brought(maker, heavy())
    job = mend(maker, part)
    running(maker.client, job)

    def far_enough():
        now = maker.client.get(f"/api/jobs/{job['id']}").json()
        return now["state"] != "running" or now["progress"] >= share

    wait_until(far_enough)
    maker.client.post(f"/api/jobs/{job['id']}/cancel").raise_for_status()
    ended = until_ended(maker.client, job)
    now = maker.client.get(maker.url).json()["revision"]
    told = {"cancelled": maker.state["revision"], "done": maker.state["revision"] + 1}
    assert now == told.get(ended["state"]), f"{ended['state']} after {share:.0%}"
    again = maker.client.post(f"/api/jobs/{job['id']}/cancel").json()
    assert again["state"] == ended["state"], "what has ended stays ended"


def test_what_mending_would_do_is_told_and_changes_nothing(maker):
    part = brought(maker, damaged(BALL, [holed, crumbed]))
    ask = {"parts": [part], "options": {}}
    first = maker.client.post(f"{maker.url}/rehearse", json=ask).raise_for_status().json()
    told = until_ended(maker.client, first)["result"][part]["report"]
    assert told["manifold"]
    assert maker.client.get(maker.url).json()["revision"] == maker.state["revision"], "nothing was changed"
    again = maker.client.post(f"{maker.url}/rehearse", json=ask).json()
    assert again["id"] == first["id"], "it is not worked out twice"
    other = {"parts": [part], "options": {"skip": ["drop_crumbs"]}}
    less = until_ended(maker.client, maker.client.post(f"{maker.url}/rehearse", json=other).json())
    assert less["result"][part]["report"]["bodies"] == told["bodies"] + 4
    done = until_ended(maker.client, mend(maker, part))["result"][part]["report"]
    assert done["steps"] == told["steps"], "what was told is what is done"


def test_mending_stops_a_rehearsal_that_is_under_way(maker):
    part = brought(maker, heavy(13))
    rehearsal = maker.client.post(f"{maker.url}/rehearse", json={"parts": [part]}).json()
    running(maker.client, rehearsal)
    job = mend(maker, part)
    assert until_ended(maker.client, rehearsal)["state"] == "cancelled"
    assert until_ended(maker.client, job, 90)["state"] == "done"


def test_one_flaw_is_mended_by_itself_as_one_step(maker):
    part = brought(maker, damaged(BALL, [holed, crumbed]))

    def found():
        (answer,) = maker.client.get(f"{maker.url}/mesh-findings").json()
        return answer["flaws"]

    kinds = [flaw["kind"] for flaw in found()]
    assert sorted(set(kinds)) == ["loose_bodies", "open_edges"]
    assert {f["severity"] for f in found() if f["kind"] == "open_edges"} == {"breaks"}
    one = {"part": part, "kind": "open_edges", "number": kinds.index("open_edges")}
    ended = until_ended(maker.client, maker.client.post(f"{maker.url}/mend-flaw", json=one).raise_for_status().json())
    assert ended["state"] == "done", ended["error"]
    assert [f["kind"] for f in found()].count("open_edges") == kinds.count("open_edges") - 1
    every = {"part": part, "kind": "open_edges"}
    until_ended(maker.client, maker.client.post(f"{maker.url}/mend-flaw", json=every).json())
    assert {f["kind"] for f in found()} == {"loose_bodies"}
    gone = until_ended(maker.client, maker.client.post(f"{maker.url}/mend-flaw", json=one).json())
    assert gone["state"] == "failed"
    assert "not there any more" in gone["error"]
    assert maker.fresh()["undo"] == "Mended found"
    maker.step("undo")
    maker.step("undo")
    assert [f["kind"] for f in found()] == kinds, "two steps, and both undone"


def test_a_mesh_whose_findings_are_lost_is_looked_over_again(maker):
    part = brought(maker, damaged(BALL, [holed]))
    with open_database().begin() as connection:
        connection.execute(text("DELETE FROM findings"))
    for _ in range(2):  # also when it was looked over once before
        (told,) = maker.client.get(f"{maker.url}/mesh-findings").json()
        assert (told["part"], told["job"]) == (part, None), "to ask begins nothing"
        (told,) = maker.client.post(f"{maker.url}/inspect-meshes").json()
        assert until_ended(maker.client, told["job"])["state"] == "done"
        (found,) = maker.client.get(f"{maker.url}/mesh-findings").json()
        assert [f["kind"] for f in found["flaws"]] == ["open_edges"] * 3
        with open_database().begin() as connection:
            connection.execute(text("DELETE FROM findings"))


def test_a_locked_mesh_is_looked_at_but_not_mended(maker):
    part = brought(maker, damaged(BALL, [holed]))
    maker.edit(kind="set_part", ids=[part], fields={"locked": True})
    tried = maker.client.post(f"{maker.url}/rehearse", json={"parts": [part]})
    assert tried.status_code == 202
    for path, body in (("mend", {"parts": [part]}), ("mend-flaw", {"part": part, "kind": "open_edges"})):
        refused = maker.client.post(f"{maker.url}/{path}", json=body)
        assert refused.status_code == 422
        assert "locked" in refused.json()["message"]


def test_a_mesh_stands_beside_what_is_there(maker):
    maker.edit(kind="add_parts", parts=[box("b", (0, 0, 10), (40, 40, 20))])
    part = brought(maker, BALL)
    x, y, z = part_of(maker.state, part)["place"]["position"]
    assert max(abs(x), abs(y)) >= 20 + 10
    assert z == pytest.approx(10, abs=0.01)


def test_a_file_that_promises_too_much_is_refused_at_once(maker):
    count = 3_000_000
    answer = maker.client.post(
        f"{maker.url}/bring-in",
        params={"name": "huge.stl"},
        content=bytes(80) + count.to_bytes(4, "little") + bytes(50 * count),
    )
    assert answer.status_code == 422
    assert "3,000,000 triangles" in answer.json()["message"]
    assert all(j["piece_id"] != maker.state["id"] for j in maker.client.get("/api/jobs").json())


def test_a_killed_workers_job_is_done_by_another_once(server, maker):
    part = brought(maker, heavy(11))
    job = mend(maker, part)
    running(maker.client, job)
    wait_until(lambda: folders_of(server.worker))
    for process in psutil.Process(server.worker.pid).children(recursive=True):
        process.kill()
    os.kill(server.worker.pid, signal.SIGKILL)
    abandoned = folders_of(server.worker)
    server.worker.wait()
    assert abandoned, "it died in the middle of its work"
    assert maker.client.get(f"/api/jobs/{job['id']}").json()["state"] == "running"
    server.worker = launch_worker()
    ended = until_ended(maker.client, job, 90)
    assert ended["state"] == "done"
    before = maker.state
    maker.fresh()
    state = maker.counted()
    assert state["revision"] == before["revision"] + 1
    assert state["scene"]["soundness"]["sound"]
    assert not any(folder.exists() for folder in abandoned), "nothing is left behind"


def folders_of(worker):
    return list(Path(tempfile.gettempdir()).glob(f"{PREFIX}{worker.pid}-*"))


def test_a_job_outlives_a_restart_of_the_database(cluster, maker):
    part = brought(maker, heavy(12))
    job = mend(maker, part)
    running(maker.client, job)
    cluster.stop()
    cluster.start()
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline and maker.client.get("/api/health").status_code != 200:
        time.sleep(0.2)
    ended = until_ended(maker.client, job, 90)
    assert ended["state"] == "done"
    assert maker.client.get(maker.url).json()["revision"] == maker.state["revision"] + 1


def test_a_socket_tells_of_every_change(server, maker):
    origin = f"http://127.0.0.1:{server.port}"
    with connect(f"ws://127.0.0.1:{server.port}/api/jobs/socket", origin=origin) as socket:
        assert json.loads(socket.recv(timeout=10)) == {}, "look at all of them first"
        job = bring(maker, stl_bytes(BALL, "m")).json()
        states = []
        while "done" not in states:
            told = json.loads(socket.recv(timeout=30))
            if told.get("id") == job["id"]:
                states.append(told["state"])
    assert states[0] in ("waiting", "running")


def test_whoever_comes_later_is_told_to_look_first(server, maker):
    """What changed between the page's first list of jobs and its socket is not missed."""
    address, origin = f"ws://127.0.0.1:{server.port}/api/jobs/socket", f"http://127.0.0.1:{server.port}"
    with connect(address, origin=origin) as first:
        assert json.loads(first.recv(timeout=10)) == {}
        until_ended(maker.client, bring(maker, stl_bytes(BALL, "m")).json())
        with connect(address, origin=origin) as later:
            assert json.loads(later.recv(timeout=10)) == {}


def test_two_workers_share_the_work(server, maker):
    second = launch_worker()
    try:
        sent = [bring(maker, stl_bytes(together(BALL, BALL), "m")).json() for _ in range(6)]
        ended = [until_ended(maker.client, job, 90) for job in sent]
    finally:
        end(second)
    assert [job["state"] for job in ended] == ["done"] * 6
    assert inspect_mesh(BALL).sound
