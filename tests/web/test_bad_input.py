"""Bad input: refused within a second in words that name the field, nothing stored, the server alive."""

import contextlib
import json
import time

import httpx
import pytest
from tools.machine import ROOT

from tests.core.test_read import nested


def piece_with(**primitive):
    return json.dumps(
        {"format": "noble-clay-piece", "version": 1, "name": "bad", "parts": [{"id": "p", "primitive": primitive}]}
    )


ROW = {"kind": "row", "count": 10**9, "step": [1, 0, 0]}
TWICE = {
    "format": "noble-clay-piece",
    "version": 1,
    "name": "bad",
    "parts": [{"id": "p", "primitive": {"kind": "sphere", "radius": 1}}] * 2,
}
COPIES = {
    "format": "noble-clay-piece",
    "version": 1,
    "name": "bad",
    "parts": [{"id": "p", "primitive": {"kind": "sphere", "radius": 1}, "copies": ROW}],
}


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (piece_with(kind="blob", radius=1), "unknown kind 'blob'"),
        (piece_with(kind="sphere", radius=-1), "primitive.radius"),
        (piece_with(kind="tube", radius=3, wall=5, height=1), "primitive.wall"),
        (piece_with(kind="sphere", radius=float("nan")), "primitive.radius"),
        (json.dumps(TWICE), "id"),
        (json.dumps(COPIES), "copies.count"),
        (nested(10_000), "32 levels"),
        ("[" * 100_000, "levels"),
        ("\x00\x01", "not valid JSON"),
    ],
)
def test_a_bad_piece_file_is_refused_fast_and_stored_nowhere(api, body, words):
    before = len(api.get("/api/pieces").json())
    started = time.perf_counter()
    refused = api.post("/api/pieces/open", content=body)
    assert time.perf_counter() - started < 3  # a second on an idle machine
    assert refused.status_code == 422
    assert words in refused.json()["message"]
    assert len(api.get("/api/pieces").json()) == before


def test_200_megabytes_are_refused_before_they_are_read(api):
    started = time.perf_counter()
    try:
        refused = api.post("/api/pieces/open", content=b"\0" * 200_000_000)
        assert refused.status_code == 413
        assert "60 MB" in refused.json()["message"]
    except httpx.WriteError:
        pass  # the server answered and closed before it had taken the body
    assert time.perf_counter() - started < 5  # well under a second on an idle machine
    assert api.get("/api/health").status_code == 200


def test_a_body_that_grows_beyond_the_limit_without_saying_so(api):
    def endless():
        for _ in range(90):
            yield b"\0" * 1_000_000

    with contextlib.suppress(httpx.WriteError, httpx.RemoteProtocolError):
        assert api.post("/api/pieces/open", content=endless()).status_code == 413
    assert api.get("/api/health").status_code == 200


@pytest.mark.parametrize(
    ("body", "status"),
    [
        (b"{", 400),
        (b"\xff\xfe", 400),
        (b"[" * 100_000, 400),
        (b"[]", 422),
        (b'{"base_revision":0}', 422),
        (b'{"base_revision":0,"request_id":"short","edit":{"kind":"move"}}', 422),
    ],
)
def test_a_bad_request_is_refused_in_words(maker, body, status):
    refused = maker.client.post(f"{maker.url}/edits", content=body, headers={"content-type": "application/json"})
    assert refused.status_code == status
    assert refused.json()["message"]


def test_a_piece_too_heavy_for_the_kernel_is_kept_and_told(maker):
    """Coordinates out of bounds come to light only when it is built: the edit is safe, the scene is not there."""
    wide = {"id": "w", "primitive": {"kind": "sphere", "radius": 5}, "place": {"position": [99_999, 0, 0]}}
    state = maker.edit(kind="add_parts", parts=[wide])
    assert (state["scene"]["result"]["triangles"], state["scene"]["soundness"]) == (0, None), "the skin before it"
    assert [p["id"] for p in state["scene"]["parts"]] == ["w"], "and the part where it stands"
    assert "100,000" in state["problem"]["message"]
    assert [p["part"] for p in state["problem"]["problems"]] == ["w"]
    assert maker.step("undo")["scene"]["soundness"]["triangles"] == 0


@pytest.mark.parametrize(
    "headers",
    [
        {"host": "evil.example"},
        {"host": "127.0.0.1.evil.example"},
        {"origin": "http://evil.example"},
        {"sec-fetch-site": "cross-site"},
    ],
)
def test_strangers_are_refused(api, headers):
    assert api.get("/api/pieces", headers=headers).status_code == 403


def test_our_own_page_is_let_in_under_a_strict_policy(server, api):
    page = api.get("/", headers={"origin": server.url})
    assert page.status_code == 200
    policy = page.headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert page.headers["x-content-type-options"] == "nosniff"


def test_only_the_worker_that_makes_coarser_skins_may_run_web_assembly(api):
    page = api.get("/").text
    folder = ROOT / "frontend/dist/assets"
    scripts = {f.name for f in folder.glob("*.js")}
    runs = {name for name in scripts if "WebAssembly.instantiate" in (folder / name).read_text()}
    policies = {name: api.get(f"/assets/{name}").headers.get_list("content-security-policy") for name in scripts}
    lax = {name for name, found in policies.items() if any("unsafe" in p for p in found)}
    assert runs == lax, "the page itself would run it, and is not let"
    assert len(lax) == 1 and lax.pop().startswith("shaping.worker-")
    assert all(len(found) == 1 for found in policies.values())
    assert "shaping.worker" not in page
    for path in ("/shaping.worker-1.js", "/assets/shaping.worker-1.js/../x", "/api/pieces"):
        assert "unsafe" not in api.get(path).headers["content-security-policy"], path


@pytest.mark.parametrize(
    "path", ["/..%2f..%2fpyproject.toml", "/%2e%2e/%2e%2e/etc/passwd", "/assets/../../package.json"]
)
def test_files_outside_the_page_are_not_served(api, path):
    assert "<title>Noble Clay</title>" in api.get(path).text


def test_an_unknown_route_of_the_api_is_404(api):
    assert api.get("/api/nothing").status_code == 404


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        ({"kind": "resize", "id": "cube", "size": [0, 1, 1], "was": [20, 20, 20]}, "size"),
        ({"kind": "resize", "id": "cube", "size": [1e6, 1, 1], "was": [20, 20, 20]}, "size"),
        ({"kind": "resize", "id": "join", "size": [9, 9, 9], "was": [9, 9, 9], "hold": [0, 0, 0]}, "where its box is"),
        ({"kind": "move", "ids": ["cube"], "by": [1e6, 0, 0]}, "by"),
        ({"kind": "carry", "moves": [{"id": "cube", "turn": {"axis": [0, 0, 0], "angle": 5}}]}, "direction"),
        ({"kind": "carry", "moves": [{"id": "cube", "turn": {"axis": [0, 0, 1], "angle": 1e12}}]}, "angle"),
        ({"kind": "carry", "moves": []}, "moves"),
        ({"kind": "arrange", "ids": ["join"], "parent": "join", "index": 0}, "cannot go into itself"),
        ({"kind": "again", "ids": ["cube", "rod"], "before": ["cube"]}, "each duplicate"),
        ({"kind": "break_copies", "ids": ["cube"]}, "no copies"),
        ({"kind": "add_parts", "parts": [{"rubbish": 1}]}, "is required"),
        ({"kind": "set_part", "ids": ["cube"], "fields": {"copies": {"kind": "ring", "count": 1}}}, "copies"),
    ],
)
def test_a_wrong_gesture_is_refused_in_words_and_changes_nothing(maker, edit, words):
    maker.drilled()
    answer = maker.post(edit)
    assert answer.status_code == 422
    assert words in answer.json()["message"]
    now = maker.client.get(maker.url).json()
    assert (now["revision"], now["piece"]) == (maker.state["revision"], maker.state["piece"])


def test_an_angle_of_a_billion_degrees_is_an_angle_like_any_other(maker):
    maker.drilled()
    edit = {"kind": "carry", "moves": [{"id": "rod", "turn": {"axis": [0, 1, 0], "angle": 1e9, "centre": [0, 0, 10]}}]}
    state = maker.edit(**edit)
    assert state["scene"]["soundness"]["sound"]
    turned = next(p for p in state["piece"]["parts"][0]["join"]["parts"] if p["id"] == "rod")["place"]["rotation"]
    assert all(-180 <= angle <= 180 for angle in turned)
    assert maker.step("undo")["piece"]["parts"][0]["join"]["parts"][1]["place"].get("rotation", [0, 0, 0]) == [0, 0, 0]


def test_the_body_of_a_difference_can_be_deleted_and_comes_back(maker):
    before = maker.drilled()["piece"]
    join = before["parts"][0]["id"]
    after = maker.edit(kind="remove_parts", ids=["cube"])
    (left,) = after["piece"]["parts"][0]["join"]["parts"]
    assert (left["id"], left["op"]) == ("rod", "union")
    assert after["scene"]["soundness"]["bodies"] == 1
    assert maker.step("undo")["piece"] == before
    assert before["parts"][0]["id"] == join
