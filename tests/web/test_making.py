"""A step that takes long, or cannot be made, is its piece's own: told once, stopped, undone; nobody else waits."""

import json
import time
from contextlib import suppress
from pathlib import Path

import psutil
import pytest
from websockets.sync.client import connect

from noble_clay.core.errors import Fault, Stopped
from noble_clay.machine import own_bytes
from noble_clay.solvers.pool import Pool
from noble_clay.solvers.seat import Question, SolverFailed
from tests.building import box, join, part, piece, soft_worm
from tests.waiting import wait_until
from tests.web.conftest import Maker

OWN_SERVER = True

LONG = 36
"""Parts of a list that is still being made when others have been edited a dozen times."""


@pytest.fixture
def long_one(maker):
    """A piece with a small box, to which a step was added that is still being made."""
    maker.edit(kind="add_parts", parts=[box("base", (0, -20, 2), (4, 4, 4))])
    started = time.monotonic()
    maker.state = maker.post({"kind": "add_parts", "parts": [soft_worm(LONG)]}).raise_for_status().json()
    assert time.monotonic() - started < 15, "the answer does not wait for it"
    assert maker.state["making"], "it takes long"
    yield maker
    maker.client.post(f"{maker.url}/stop")
    maker.state = {**maker.state, "making": True}
    maker.made(20)


def test_meanwhile_the_piece_before_it_is_shown_with_its_parts_and_undo_answers_at_once(long_one):
    scene = long_one.state["scene"]
    assert scene["result"]["triangles"] == 12 and scene["soundness"] is None, "the skin before the step"

    def stand():
        shown = long_one.client.get(long_one.url).raise_for_status().json()["scene"]["parts"]
        return {p["id"] for p in shown} >= {"base", "worm", "s0", f"s{LONG - 1}"}

    wait_until(stand, "and every part where it stands")
    started = time.monotonic()
    undone = long_one.client.post(f"{long_one.url}/undo", json={"base_revision": 2}).raise_for_status().json()
    assert time.monotonic() - started < 8
    assert undone["making"] is None
    long_one.state = undone
    assert long_one.counted()["scene"]["soundness"]["sound"]


def test_nobody_else_waits(api, long_one):
    others = [Maker(api) for _ in range(4)]
    for other in others:  # some of them share a solver with it
        other.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    for _ in range(3):
        for other in others:
            started = time.monotonic()
            state = other.post({"kind": "move", "ids": ["a"], "by": [1, 0, 0]}).raise_for_status().json()
            assert time.monotonic() - started < 10
            other.state = state
            assert other.counted(10)["scene"]["soundness"]["sound"]
    assert api.get(long_one.url).json()["making"], "while the long one goes on"
    assert long_one.counted()["scene"]["soundness"]["bodies"] == 2, "and comes to its end"


def test_drafts_go_on_while_it_is_being_made(server, long_one):
    edit = {"kind": "move", "ids": ["base"], "by": [0, -3, 0]}
    with connect(f"ws://127.0.0.1:{server.port}{long_one.url}/drafts", origin=server.url, max_size=None) as socket:
        started = time.monotonic()
        socket.send(json.dumps({"n": 1, "revision": 1, "edit": edit}))
        told = json.loads(socket.recv(timeout=20))
        assert (told["n"], "changed since" in told["message"]) == (1, True), "of an older revision it is said so"
        for n, values in ((2**40, {}), (-1, {}), (2, {"edit": {"kind": "melt"}})):
            socket.send(json.dumps({"n": n, "revision": 2, "edit": edit, **values}))
            assert json.loads(socket.recv(timeout=20))["message"]
        socket.send(json.dumps({"n": 3, "revision": 2, "edit": {"kind": "remove_parts", "ids": ["worm"]}}))
        answer = socket.recv(timeout=20)
        assert isinstance(answer, bytes) and answer[:4] == b"\3\0\0\0"
        assert time.monotonic() - started < 30
    assert long_one.client.get(long_one.url).json()["making"], "it goes on beside them"


def goes_on(maker):
    """Whether a try has come some way since it was asked for."""
    now = maker.client.get(maker.url).raise_for_status().json()
    assert now["problem"] is None
    return now["scene"]["soundness"] or now["making"]["share"] > 0


def test_its_progress_is_told_and_it_can_be_stopped_and_tried_again(server, long_one):
    with connect(f"ws://127.0.0.1:{server.port}{long_one.url}/socket", origin=server.url) as socket:
        notes = [json.loads(socket.recv(timeout=20))]
        while notes[-1]["share"] <= notes[0]["share"]:
            notes.append(json.loads(socket.recv(timeout=20)))
        assert not notes[-1]["made"] and 0 < notes[-1]["share"] <= 1
        assert notes[-1]["part"] in {"worm", *(f"s{i}" for i in range(LONG))}
        assert long_one.client.post(f"{long_one.url}/stop").status_code == 204
        while not notes[-1]["made"]:
            notes.append(json.loads(socket.recv(timeout=20)))
    told = long_one.client.get(long_one.url).json()
    assert told["making"] is None and "stopped" in told["problem"]["message"]
    assert told["revision"] == 2 and len(told["piece"]["parts"]) == 2, "the step is kept"
    assert long_one.client.get(long_one.url).json()["problem"], "nothing tries it again by itself"
    for _ in range(2):  # also when it is asked for before the last one has come to a stop
        again = long_one.client.post(f"{long_one.url}/again").raise_for_status().json()
        assert again["problem"] is None and (again["making"] or again["scene"]["soundness"])
        wait_until(lambda: goes_on(long_one), "it does not go on, whatever became of the one before")
        long_one.client.post(f"{long_one.url}/stop")


def test_a_solver_that_dies_over_a_step_is_told_once_and_the_step_is_not_tried_again(server, long_one):
    for solver in server.solvers():  # those that have nothing to do are replaced, and nobody hears of it
        with suppress(psutil.NoSuchProcess):
            solver.kill()
    state = long_one.made(20)
    assert "ended before it was done" in state["problem"]["message"]
    started = time.monotonic()
    for _ in range(3):
        assert long_one.client.get(long_one.url).json()["problem"] == state["problem"]
    assert time.monotonic() - started < 8, "it is remembered, not computed"
    # The piece goes on: a step that takes the cause away is made at once.
    long_one.state = state
    gone = long_one.edit(kind="remove_parts", ids=["worm"])
    assert gone["problem"] is None and gone["scene"]["soundness"]["sound"]


def test_a_step_that_cannot_be_made_is_told_with_its_part_and_goes_on_being_edited(maker):
    maker.edit(kind="add_parts", parts=[box("a", size=(10, 10, 10)), box("b", (30, 0, 0), (4, 4, 4))])
    maker.edit(kind="set_changes", id="a", stack=[{"kind": "hollow", "wall": 4}])
    good = maker.state["scene"]["result"]
    state = maker.edit(kind="set_primitive", id="a", primitive={"kind": "box", "size": [6, 6, 6]})
    assert [p["part"] for p in state["problem"]["problems"]] == ["a"]
    assert state["scene"]["result"] == good, "the last good skin is shown"
    moved = maker.edit(kind="move", ids=["b"], by=[5, 0, 0])
    assert moved["problem"] and moved["scene"]["result"] == good
    assert next(p for p in moved["scene"]["parts"] if p["id"] == "b")["box"][0][0] == pytest.approx(33)
    mended = maker.edit(kind="set_changes", id="a", stack=[{"kind": "hollow", "wall": 1}])
    assert mended["problem"] is None and mended["scene"]["soundness"]["voids"] == 1


@pytest.mark.parametrize("op", ["union", "difference", "intersection"])
@pytest.mark.parametrize(
    "other",
    [
        part("other", "sphere", radius=2),
        part("other", "sphere", (0, 0, 0), radius=60),
        part("other", "torus", ring_radius=30, tube_radius=2),
        part("other", "sphere", (14, 14, 14), radius=4),
    ],
)
def test_a_blend_with_nothing_to_round_is_a_plain_join(maker, op, other):
    body = part("body", "sphere", radius=15, facets=32)
    blended = join("j", body, {**other, "op": op})
    blended["join"]["blend"] = 1.5
    state = maker.edit(kind="add_parts", parts=[blended])
    assert state["problem"] is None
    sharp = {**blended, "id": "sharp", "join": {**blended["join"], "blend": 0}}
    plain = Maker(maker.client).edit(kind="add_parts", parts=[sharp])
    volumes = [s["scene"]["soundness"]["volume_mm3"] for s in (state, plain)]
    assert volumes[0] == pytest.approx(volumes[1], rel=0.05)


@pytest.fixture
def pool(tmp_path):
    """Solvers that may have a third of a gigabyte beyond what they begin with, all together."""
    found = Pool(tmp_path, size=1, budget=10**12)
    yield found
    found.close()


def document(*parts):
    return piece(*parts).dump()


def test_a_fault_in_a_solver_is_an_answer_and_no_death(pool):
    question = pool.ask("p", "no_such_question")
    with pytest.raises(Fault, match="fault of Noble Clay"):
        question.answer.result(30)
    pid = question.seat.pid
    assert pool.ask("p", "show", "p", document(box("a"))).answer.result(30)["soundness"]["sound"]
    assert question.seat.pid == pid, "the process lives on"


def test_what_somebody_waits_for_does_not_stay_behind_what_takes_long_of_the_same_piece(pool):
    long = document(soft_worm(LONG))
    for _ in range(2):  # in a shared process, and in the one that is the piece's own by then
        making = pool.ask("p", "show", "p", long)
        outline = pool.ask_now("p", "outline", long)
        assert outline.seat is making.seat, "asked before it is known to take long"
        assert {"worm", "s0"} <= {part["id"] for part in outline.answer.result(60)}
        assert not making.answer.done()
        making.stop()
        with pytest.raises(Stopped):
            making.answer.result(30)


def test_memory_has_a_total_and_only_the_largest_is_refused(pool):
    small = pool.ask("small", "show", "small", document(box("a")))
    assert small.answer.result(30)["soundness"]["sound"]
    held = sum(
        psutil.Process(s.pid).memory_info().rss - psutil.Process(s.pid).memory_info().shared for s in pool._seats()
    )
    pool.budget = held + 250_000_000
    bead = {"kind": "grid", "counts": [25, 25, 3], "step": [3, 3, 3]}
    greedy = pool.ask("greedy", "show", "greedy", document(part("bead", "sphere", radius=1.8, facets=48, _copies=bead)))
    with pytest.raises(SolverFailed, match="more memory than there is here"):
        greedy.answer.result(120)
    assert pool.ask("small", "show", "small", document(box("a", (1, 0, 0)))).answer.result(60)["soundness"]["sound"]


def test_what_is_only_kept_goes_before_what_is_being_made(pool, monkeypatch):
    worm = document(soft_worm(12))
    made = pool.ask("p", "show", "p", document(box("a")))
    made.answer.result(30)
    idle = pool._spare
    monkeypatch.setattr("noble_clay.solvers.pool.MUCH", 1_000_000)
    at_work = pool.ask("p", "show", "p", worm, patience=300)
    wait_until(lambda: at_work.share > 0)
    before = idle.pid
    pool.budget = sum(own_bytes(s.pid) for s in pool._seats()) - 10_000_000
    wait_until(lambda: not Path(f"/proc/{before}").exists())
    pool.budget = 10**12
    assert at_work.answer.result(200)["soundness"]["bodies"] == 1
    question = Question("q", "show", ("q", document(box("a"))), 60)
    idle.ask(question)
    assert question.answer.result(60)["soundness"]["sound"], "it begins anew with the next question"


def test_a_waiting_question_that_is_given_up_is_never_asked(pool):
    first = pool.ask("p", "show", "p", document(soft_worm(12)), patience=300)
    second = pool.ask("p", "show", "p", document(box("a")))
    second.stop()
    with pytest.raises(Exception, match="stopped"):
        second.answer.result(1)
    assert first.answer.result(200)["soundness"]["bodies"] == 1


def test_a_piece_that_takes_long_leaves_with_its_caches_when_another_comes(pool):
    worm = document(soft_worm(14))
    long = pool.ask("long", "show", "long", worm, patience=300)
    wait_until(lambda: long.share > 0)
    seat = long.seat
    started = time.monotonic()
    assert pool.ask("short", "show", "short", document(box("a"))).answer.result(30)["soundness"]["sound"]
    assert time.monotonic() - started < 15
    long.answer.result(200)
    again = pool.ask("long", "show", "long", worm, patience=300)
    assert again.seat is seat, "the long one keeps its process"
    started = time.monotonic()
    again.answer.result(60)
    assert time.monotonic() - started < 6, "and all that it knows"
    assert Path(f"/proc/{seat.pid}").exists()
