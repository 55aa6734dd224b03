"""One of everything, registered by an extension, is found wherever the page, the API and the documents look."""

import json
import os
import subprocess
import sys

import pytest
from tools.machine import ROOT

from tests.serving import serving
from tests.waiting import wait_until

OWN_SERVER = True
TOY = {"NOBLE_CLAY_EXTENSIONS": "tests.toy"}


@pytest.fixture(scope="module")
def server(own_database):
    os.environ.update(TOY)
    try:
        with serving() as running:
            yield running
    finally:
        del os.environ["NOBLE_CLAY_EXTENSIONS"]


def said(expression, module):
    """What an expression comes to in a process of its own that has the extension."""
    code = f"import json; from {module} import *; print(json.dumps({expression}))"
    done = subprocess.run(
        [sys.executable, "-c", code], cwd=ROOT, env={**os.environ, **TOY}, capture_output=True, text=True, check=True
    )
    return json.loads(done.stdout)


def test_they_are_in_the_schema_the_openapi_document_and_the_reference():
    schema = json.loads(said("schema_text()", "noble_clay.web.catalogue"))
    assert {"Gadget", "Nudge"} <= set(schema["$defs"])
    document = said("create_app().openapi()", "noble_clay.web.app")
    assert {"Gadget", "Nudge"} <= {name.removesuffix("-Input") for name in document["components"]["schemas"]}
    export = document["paths"]["/api/pieces/{piece_id}/export"]["get"]["parameters"]
    assert "pts" in next(p for p in export if p["name"] == "format")["schema"]["enum"]
    reference = said("reference_text()", "tools.reference")
    for words in ("### Gadget (`gadget`)", "### Nudge (`nudge`)", "- `weigh`, Weigh: ", "- `.pts`, Points: "):
        assert words in reference


def test_without_the_extension_they_are_not_there(monkeypatch):
    monkeypatch.setitem(TOY, "NOBLE_CLAY_EXTENSIONS", "")
    assert "Gadget" not in said("schema_text()", "noble_clay.web.catalogue")


def test_an_extension_that_is_not_there_is_told_at_once(monkeypatch):
    monkeypatch.setitem(TOY, "NOBLE_CLAY_EXTENSIONS", "no.such.thing")
    with pytest.raises(subprocess.CalledProcessError) as error:
        said("1", "noble_clay.core.primitives.registry")
    assert "No module named" in error.value.stderr


def test_the_catalogue_has_them_with_all_their_fields(api):
    gadget = next(p for p in api.get("/api/primitives").json() if p["kind"] == "gadget")
    assert (gadget["family"], gadget["round"]) == ("Curious", True)
    kinds = {f["name"]: f["field"]["kind"] for f in gadget["fields"]}
    assert kinds == {
        "width": "number",
        "count": "count",
        "turn": "angle",
        "step": "vector",
        "holes": "plane_loops",
        "weights": "numbers",
        "words": "text",
        "side": "choice",
        "open": "flag",
        "outline": "plane_points",
        "spine": "space_points",
        "drawing": "file",
        "knob": "record",
        "facets": "count",
    }
    nudge = next(c for c in api.get("/api/changes").json() if c["kind"] == "nudge")
    assert nudge["either"]["starts"] == {"by": 2.0, "times": 3}
    assert {f["field"]["kind"] for f in nudge["fields"]} >= {"form", "choice"}
    assert api.get("/api/primitives/gadget/tile.svg").text.startswith("<svg")


def test_a_form_and_a_change_are_put_set_shown_and_undone(maker):
    sample = next(p for p in maker.client.get("/api/primitives").json() if p["kind"] == "gadget")["sample"]
    body = {"base_revision": 0, "request_id": "put-down-1", "primitive": sample}
    state = maker.take(maker.client.post(f"{maker.url}/put-down", json=body))
    assert (part := state["piece"]["parts"][0])["name"] == "Gadget"
    (view,) = state["scene"]["parts"]
    assert [h["field"] for h in view["handles"]] == ["width"] and view["chord_error"] > 0
    changed = {
        **sample,
        "words": "well",
        "knob": {"shape": "domed"},
        "spine": [[0, 0, 0, 1], [1, 0, 5, 2], [2, 0, 9, 1]],
    }
    state = maker.edit(kind="set_primitive", id=part["id"], primitive=changed)
    assert state["piece"]["parts"][0]["primitive"]["spine"][2] == [2, 0, 9, 1]
    stack = [{"kind": "nudge", "times": 3, "like": {"kind": "sphere", "radius": 1}}]
    state = maker.edit(kind="set_changes", id=part["id"], stack=stack)
    moved = state["scene"]["parts"][0]["box"][0][0]
    assert moved == pytest.approx(view["box"][0][0] + 3)
    refused = maker.post({"kind": "set_changes", "id": part["id"], "stack": [{"kind": "nudge", "by": 1, "times": 2}]})
    assert refused.status_code == 422 and "by or times" in refused.json()["message"]
    for _ in range(2):
        maker.step("undo")
    assert maker.made()["piece"]["parts"][0].get("changes", []) == []
    assert maker.state["piece"]["parts"][0]["primitive"]["words"] == "hello"


def test_a_job_about_a_whole_piece_is_begun_done_and_told_of(maker):
    maker.edit(kind="add_parts", parts=[{"id": "b", "name": "b", "primitive": {"kind": "box", "size": [2, 3, 4]}}])
    kinds = {k["kind"]: k for k in maker.client.get("/api/jobs/kinds").json()}
    assert kinds["weigh"]["of_piece"] and [f["name"] for f in kinds["weigh"]["fields"]] == ["times"]
    job = (
        maker.client.post(f"{maker.url}/jobs", json={"kind": "weigh", "params": {"times": 2}}).raise_for_status().json()
    )
    done = wait_until(
        lambda: (now := maker.client.get(f"/api/jobs/{job['id']}").json())["state"] in ("done", "failed") and now,
        "it never ends",
        60,
    )
    assert done["state"] == "done", done["error"]
    assert done["result"]["volume"] == pytest.approx(48) and done["outcome"] == "48 mm³"
    wrong = maker.client.post(f"{maker.url}/jobs", json={"kind": "weigh", "params": {"times": 0}})
    assert wrong.status_code == 422 and "times" in wrong.text
    other = maker.client.post(f"{maker.url}/jobs", json={"kind": "mend"})
    assert other.status_code == 422, "mending is asked for with meshes, not about a whole piece"


def test_a_writer_is_offered_and_writes(maker):
    maker.edit(kind="add_parts", parts=[{"id": "b", "name": "b", "primitive": {"kind": "box", "size": [2, 2, 2]}}])
    points = next(f for f in maker.client.get("/api/formats").json() if f["ending"] == "pts")
    assert points["offered"] and points["writes"] and not points["reads"]
    answer = maker.client.get(f"{maker.url}/export", params={"format": "pts"}).raise_for_status()
    assert answer.headers["content-type"].startswith("text/plain")
    assert sorted(answer.text.split("\n"))[1:] == sorted(
        f"{x} {y} {z}" for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)
    )
