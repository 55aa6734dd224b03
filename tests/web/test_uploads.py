"""Files that are being sent hold nothing up: no lock, no connection; one that stalls is ended."""

import socket
import time
from contextlib import ExitStack

import pytest

from noble_clay.core.formats.stl import stl_bytes
from noble_clay.web.bring_in import STALL_SECONDS
from tests.building import box
from tests.damage import primitive

OWN_SERVER = True

BALL = stl_bytes(primitive("sphere", radius=8, facets=64), "ball")


@pytest.fixture
def stalled(server, maker):
    """A way to begin an upload that does not go on."""
    with ExitStack() as links:

        def begin():
            link = links.enter_context(socket.create_connection(("127.0.0.1", server.port), timeout=60))
            head = f"POST {maker.url}/bring-in?name=slow.stl HTTP/1.1\r\nHost: 127.0.0.1:{server.port}\r\n"
            link.sendall(f"{head}Content-Length: {len(BALL)}\r\n\r\n".encode() + BALL[:5000])
            return link

        yield begin


def test_edits_of_the_piece_are_as_quick_as_ever_while_thirty_files_stall(api, maker, stalled):
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    links = [stalled() for _ in range(30)]
    for _ in range(5):
        started = time.monotonic()
        maker.edit(kind="move", ids=["a"], by=[1, 0, 0])
        assert api.get("/api/pieces").status_code == 200
        assert time.monotonic() - started < 10
    assert not [j for j in api.get("/api/jobs").json() if j["piece_id"] == maker.state["id"]], (
        "no job before it is whole"
    )
    started = time.monotonic()
    answer = b"".join(iter(lambda: links[0].recv(65536), b""))
    assert b" 408 " in answer.split(b"\r\n", 1)[0] and b"send the file again" in answer
    assert time.monotonic() - started < STALL_SECONDS + 10


def test_a_file_that_comes_in_slow_pieces_is_whole_in_the_end(server, api, maker, stalled):
    link = stalled()
    for at in range(5000, len(BALL), 40_000):
        link.sendall(BALL[at : at + 40_000])
        time.sleep(0.3)
    assert b" 202 " in link.recv(65536).split(b"\r\n", 1)[0]
    (job,) = [j for j in api.get("/api/jobs").json() if j["piece_id"] == maker.state["id"]]
    until = time.monotonic() + 60
    while api.get(f"/api/jobs/{job['id']}").json()["state"] not in ("done", "failed") and time.monotonic() < until:
        time.sleep(0.2)
    done = api.get(f"/api/jobs/{job['id']}").json()
    assert done["state"] == "done" and done["result"]["triangles"] == (len(BALL) - 84) // 50
    assert not done["settled"], "its unit is still to be said"
    assert api.post(f"{maker.url}/bring-in/{job['id']}/leave").status_code == 204
    assert api.get(f"/api/jobs/{job['id']}").json()["settled"]


def test_a_solid_whose_name_nothing_can_keep_is_read_all_the_same(api, maker):
    lines = [f"vertex {x} {y} {z}" for corners in primitive("box", size=[3, 3, 3]).corners for x, y, z in corners]
    facets = "".join(
        "facet normal 0 0 0\nouter loop\n" + "\n".join(lines[i : i + 3]) + "\nendloop\nendfacet\n"
        for i in range(0, 36, 3)
    )
    sent = api.post(
        f"{maker.url}/bring-in", params={"name": "odd.stl"}, content=f"solid a\0b\n{facets}endsolid\n".encode()
    )
    job = sent.raise_for_status().json()
    until = time.monotonic() + 60
    while (now := api.get(f"/api/jobs/{job['id']}").json())["state"] in ("waiting", "running"):
        assert time.monotonic() < until, "it never ends"
        time.sleep(0.2)
    assert now["state"] == "done" and now["result"]["names"] == ["a\N{REPLACEMENT CHARACTER}b"]
