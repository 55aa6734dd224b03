"""Drafts over the socket: the newest question wins, and nothing that is asked stops it."""

import json
import struct
import uuid

import numpy as np
import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import connect

from tests.building import box


@pytest.fixture
def socket(maker, server):
    maker.edit(
        kind="add_parts",
        parts=[
            box("slab", (0, 0, 5), (40, 30, 10)),
            box("knob", (0, 0, 12), (6, 6, 8)),
            box("slot", (0, 0, 9), (4, 50, 6), op="difference"),
        ],
    )
    address = f"ws://127.0.0.1:{server.port}/api/pieces/{maker.state['id']}/drafts"
    with connect(address, origin=server.url, max_size=None) as found:
        yield found


def question(maker, n, **edit):
    return json.dumps({"n": n, "revision": maker.state["revision"], "edit": edit})


def read(data):
    """The number of an answer, its head, and the bounds of the moving mesh."""
    n, length = struct.unpack_from("<II", data)
    head = json.loads(data[8 : 8 + length])
    mesh = data[8 + length :]
    assert mesh[:4] == b"NCM1"
    vertices, triangles, parted = struct.unpack_from("<III", mesh, 4)
    points = np.frombuffer(mesh, "<f4", 3 * vertices, 16).reshape(-1, 3)
    assert len(mesh) == 16 + 12 * vertices + 12 * triangles + 4 * triangles * parted
    return n, head, np.array([points.min(axis=0), points.max(axis=0)])


def test_a_draft_follows_the_hand(maker, socket):
    on = maker.state["scene"]["result"]["key"]
    for n, by in enumerate((1, 2, 3)):
        socket.send(question(maker, n, kind="move", ids=["knob"], by=[by, 0, 0]))
        number, head, bounds = read(socket.recv(20))
        assert number == n
        assert head["on"] == on
        np.testing.assert_allclose(head["box"], [(-3.05, -3.05, 7.95), (by + 3.05, 3.05, 16.05)], atol=1e-5)
        assert bounds[1][2] == pytest.approx(16) and bounds[1][0] >= by + 3
        assert "knob" in head["parts"]
    assert maker.client.get(maker.url).json()["revision"] == maker.state["revision"], "drafts are not kept"


def test_the_newest_question_wins(maker, socket):
    for n in range(200):
        socket.send(question(maker, n, kind="move", ids=["slab"], by=[n, 0, 0]))
    answered = []
    while not answered or answered[-1] != 199:
        answered.append(read(socket.recv(20))[0])
    assert answered == sorted(answered)
    assert len(answered) < 200


def test_a_draft_that_makes_no_sense_is_told_and_the_next_is_answered(maker, socket):
    socket.send("rubbish")
    assert "no question" in json.loads(socket.recv(20))["message"]
    for n, (edit, words) in enumerate(
        [
            ({"kind": "move", "ids": ["ghost"], "by": [0, 0, 0]}, "not in the piece"),
            ({"kind": "fly", "ids": ["knob"]}, "fly"),
            ({"kind": "move", "ids": ["knob"], "by": [1e9, 0, 0]}, "by"),
        ]
    ):
        socket.send(question(maker, n, **edit))
        answer = json.loads(socket.recv(20))
        assert answer["n"] == n
        assert words in answer["message"]
    socket.send(json.dumps({"n": 7, "revision": 99, "edit": {"kind": "move", "ids": ["knob"], "by": [0, 0, 1]}}))
    assert "changed since" in json.loads(socket.recv(20))["message"]
    socket.send(question(maker, 8, kind="move", ids=["slot"], by=[0, 0, 1]))
    assert read(socket.recv(20))[0] == 8


def test_a_socket_that_drops_in_the_middle_harms_nothing(maker, server, socket):
    for n in range(5):
        socket.send(question(maker, n, kind="move", ids=["slab"], by=[n, 0, 0]))
    socket.close_socket()
    state = maker.edit(kind="move", ids=["knob"], by=[0, 0, 2])
    assert state["scene"]["soundness"]["bodies"] >= 1


@pytest.mark.parametrize("origin", ["http://example.com", None])
def test_other_pages_do_not_get_in(maker, server, origin):
    address = f"ws://127.0.0.1:{server.port}/api/pieces/{maker.state['id']}/drafts"
    with pytest.raises((InvalidStatus, ConnectionClosed)), connect(address, origin=origin) as socket:
        socket.send(question(maker, 0, kind="move", ids=["knob"], by=[0, 0, 0]))
        socket.recv(10)


def test_an_unknown_piece_is_told(server, api):
    address = f"ws://127.0.0.1:{server.port}/api/pieces/{uuid.uuid4().hex[:16]}/drafts"
    with connect(address, origin=server.url) as socket:
        socket.send(json.dumps({"n": 1, "revision": 0, "edit": {"kind": "move", "ids": ["a"], "by": [0, 0, 0]}}))
        assert "bin" in json.loads(socket.recv(20))["message"]
