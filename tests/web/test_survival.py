"""What was accepted survives: kill -9 of the web process, of a solver, of PostgreSQL; the database away for a while."""

import os
import signal

import pytest

from tests.building import box
from tests.serving import relaunched
from tests.waiting import wait_until

OWN_SERVER = True


@pytest.fixture(autouse=True)
def running_again(cluster):
    yield
    cluster.start()


def test_an_accepted_edit_survives_the_web_process(server, maker):
    maker.drilled()
    os.kill(server.process.pid, signal.SIGKILL)
    server.process.wait()
    relaunched(server)
    with server.client() as client:
        before, maker.client = maker.state, client
        state = maker.fresh()
        assert state["piece"] == before["piece"]
        assert state["scene"]["soundness"]["sound"]
        assert state["undo"] == "Cut Box, Cylinder"
        assert client.get(f"/api/meshes/{state['scene']['result']['key']}").status_code == 200


def test_a_killed_solver_is_replaced_and_the_piece_evaluated_anew(server, maker):
    before = maker.drilled()["scene"]["result"]
    killed = server.solvers()
    for solver in killed:
        solver.kill()
    assert len(killed) >= 1
    assert maker.fresh()["scene"]["result"] == before
    state = maker.edit(kind="move", ids=["rod"], by=[1, 0, 0])
    assert state["scene"]["soundness"]["sound"]


def test_an_accepted_edit_survives_postgresql(cluster, maker):
    maker.drilled()
    pid = int((cluster.folder / "postmaster.pid").read_text().splitlines()[0])
    os.kill(pid, signal.SIGKILL)
    wait_until(lambda: not cluster.running())
    away = maker.post({"kind": "move", "ids": ["rod"], "by": [1, 0, 0]})
    assert away.status_code == 503
    assert "database" in away.json()["message"]
    cluster.start()
    wait_until(lambda: maker.client.get("/api/health").status_code == 200)
    assert maker.client.get(maker.url).json()["piece"] == maker.state["piece"]


def test_while_the_database_is_stopped_nothing_is_lost_and_work_goes_on_after(cluster, maker):
    maker.edit(kind="add_parts", parts=[box("a")])
    cluster.stop()
    refused = maker.post({"kind": "move", "ids": ["a"], "by": [1, 0, 0]}, request_id="the-same-gesture")
    assert refused.status_code == 503
    cluster.start()
    wait_until(lambda: maker.client.get("/api/health").status_code == 200)
    state = maker.post({"kind": "move", "ids": ["a"], "by": [1, 0, 0]}, request_id="the-same-gesture").json()
    assert state["revision"] == 2
    assert state["piece"]["parts"][0]["place"]["position"] == [1, 0, 0]
