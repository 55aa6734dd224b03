"""Odd requests get the right refusal, in our form, and nothing of them is kept."""

import contextlib
import json
import socket
import uuid

import httpx
import pytest

from tests.building import box, part


def raw(server, head, body=b""):
    """The status line and body of what is answered to bytes as they are."""
    with socket.create_connection(("127.0.0.1", server.port), timeout=10) as link:
        link.sendall(head.encode() + b"\r\nConnection: close\r\n\r\n" + body)
        answer = b""
        with contextlib.suppress(ConnectionResetError):
            while chunk := link.recv(65536):
                answer += chunk
    return int(answer.split(b" ", 2)[1]), answer.split(b"\r\n\r\n", 1)[1]


@pytest.mark.parametrize(
    "host",
    ["[::1", "127.0.0.1:{port}.evil.com", "127.0.0.1:{port}@evil.com", "localhost.", "127.0.0.1:123456", "[::1]x"],
)
def test_a_host_that_only_looks_like_ours_is_refused(server, host):
    status, body = raw(server, f"GET /api/pieces HTTP/1.1\r\nHost: {host.format(port=server.port)}")
    assert status == 403
    assert json.loads(body)["message"]


@pytest.mark.parametrize("path", ["/%00", "/" + "a" * 300, "/" + "b/" * 3000, "/assets/%00.js"])
def test_paths_that_can_be_no_file_are_not_found(server, path):
    status, body = raw(server, f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{server.port}")
    assert status in (404, 200)
    if status == 404:
        assert json.loads(body)["message"] == "there is nothing here"
    else:
        assert b"<title>" in body


def test_a_chunked_body_of_300_megabytes_is_refused_as_too_large(api, maker):
    def endless():
        for _ in range(300):
            yield b" " * 1_000_000

    with contextlib.suppress(httpx.WriteError, httpx.RemoteProtocolError):
        answer = api.post(f"{maker.url}/edits", content=endless(), headers={"content-type": "application/json"})
        assert answer.status_code == 413 and "20 MB" in answer.json()["message"]
    assert api.get("/api/health").status_code == 200


@pytest.mark.parametrize(
    ("method", "path", "status", "words"),
    [
        ("GET", "/api/pieces/nothing", 422, "16 hexadecimal digits"),
        ("GET", f"/api/jobs/{'g' * 16}", 422, "16 hexadecimal digits"),
        ("PATCH", "/api/pieces", 405, "cannot be done"),
        ("GET", "/api/nothing/at/all", 404, "nothing here"),
    ],
)
def test_refusals_have_one_form_and_say_why(api, method, path, status, words):
    answer = api.request(method, path)
    assert answer.status_code == status
    assert words in answer.json()["message"]


TEXTS = ["a\0b", "\0", "half \ud83d", "\udc00"]


@pytest.mark.parametrize("words", TEXTS)
def test_characters_that_nothing_can_keep_are_refused_with_their_field(api, maker, words):
    maker.edit(kind="add_parts", parts=[box("a"), box("b", (0.5, 0, 0))])
    before = maker.client.get(maker.url).json()

    def sent(method, path, body):
        content = json.dumps(body).encode()
        return api.request(method, path, content=content, headers={"content-type": "application/json"})

    def edit(**values):
        body = {"base_revision": maker.state["revision"], "request_id": str(uuid.uuid4()), "edit": values}
        return sent("POST", f"{maker.url}/edits", body)

    tried = {
        "new piece": sent("POST", "/api/pieces", {"name": words}),
        "piece": edit(kind="set_piece", name=words),
        "notes": edit(kind="set_piece", notes=words),
        "part": edit(kind="set_part", ids=["a"], fields={"name": words}),
        "join": edit(kind="join", ids=["a", "b"], op="union", name=words),
        "added": edit(kind="add_parts", parts=[{**box("c"), "name": words}]),
        "id": edit(kind="add_parts", parts=[{**box("c"), "id": words}]),
        "colour": edit(kind="set_part", ids=["a"], fields={"colour": words}),
        "taken back": edit(kind="restore", steps=[], notes=words),
        "shortcut": sent("PUT", "/api/preferences", {"shortcuts": {"undo": words}}),
        "skip": sent("POST", f"{maker.url}/mend", {"parts": ["a"], "options": {"skip": [words]}}),
        "list": edit(kind="add_parts", parts=[box("c")], parent=words),
    }
    for what, answer in tried.items():
        assert answer.status_code == 422, (what, answer.text)
        assert answer.json()["problems"][0]["field"] or what in ("skip",), (what, answer.text)
        assert "database" not in answer.json()["message"]
    assert maker.client.get(maker.url).json()["revision"] == before["revision"]


def test_a_file_name_with_nul_is_refused(api, maker):
    answer = api.post(f"{maker.url}/bring-in?name=a%00b.stl", content=b"x")
    assert answer.status_code == 422 and "U+0000" in answer.json()["message"]


@pytest.mark.parametrize("number", [2**31, 2**63, 10**30, -(2**40), 1e300])
def test_numbers_beyond_the_databases_are_refused_or_stale_never_called_its_absence(api, maker, number):
    maker.edit(kind="add_parts", parts=[box("a")])
    picture = api.put(f"{maker.url}/thumbnail?revision={int(number)}", content=b"\x89PNG\r\n\x1a\n")
    assert picture.status_code == 422
    stale = api.post(f"{maker.url}/undo", json={"base_revision": number})
    assert stale.status_code in (409, 422)
    placed = maker.post({"kind": "arrange", "ids": ["a"], "index": int(number)})
    assert placed.status_code in (200, 422)
    flaw = api.post(f"{maker.url}/mend-flaw", json={"part": "a", "kind": "open_edges", "number": int(number)})
    assert flaw.status_code == 422
    assert api.get(maker.url).status_code == 200


@pytest.mark.parametrize(
    "primitive",
    [
        {"kind": "box", "size": [200_000, 200_000, 200_000]},
        {"kind": "box", "size": [300_000, 1, 1]},
        {"kind": "pyramid", "sides": 5, "radius": 163_224, "height": 9},
        {"kind": "sphere", "radius": 1e9},
    ],
)
def test_what_is_larger_than_the_world_is_put_down_in_no_place(api, maker, primitive):
    maker.edit(kind="add_parts", parts=[part("here", "sphere", (0, 0, 0), radius=90_000, facets=8)])
    body = {"base_revision": 1, "request_id": str(uuid.uuid4()), "primitive": primitive}
    answer = api.post(f"{maker.url}/put-down", json=body)
    assert answer.status_code in (200, 422), answer.text
    assert answer.status_code == 200 or answer.json()["problems"]
    assert api.get(maker.url).raise_for_status().json()["revision"] in (1, 2)
