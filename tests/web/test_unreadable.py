"""Beneath the rule a net: a piece that cannot be read is told on the shelf, taken back, taken away, and put aside."""

import json
import uuid

import pytest
from sqlalchemy import text

from noble_clay.store.database import open_database
from tests.building import box


def spoil(piece_id, change):
    """Change a kept document as no edit could: as a fault of an older version would have left it."""
    with open_database().begin() as connection:
        row = connection.execute(text("select document from pieces where id = :i"), {"i": piece_id}).scalar_one()
        change(row)
        connection.execute(text("update pieces set document = :d where id = :i"), {"i": piece_id, "d": json.dumps(row)})


def far(document):
    document["parts"][0]["place"] = {"position": [250_000, 0, 0]}


def step(api, url, way, revision):
    return api.post(f"{url}/{way}", json={"base_revision": revision})


@pytest.fixture
def broken(maker):
    """A piece of three steps, of which the last left what no reader takes."""
    maker.edit(kind="add_parts", parts=[box("a", size=(4, 4, 4))])
    maker.edit(kind="add_parts", parts=[box("b", (3, 0, 0), (4, 4, 4))])
    maker.edit(kind="move", ids=["a"], by=[1, 0, 0])
    spoil(maker.state["id"], far)
    return maker


def test_it_stands_on_the_shelf_with_the_reason_and_every_other_piece_is_untouched(api, broken):
    other = api.post("/api/pieces", json={"name": "Another"}).json()
    cards = {c["id"]: c for c in api.get("/api/pieces").raise_for_status().json()}
    card = cards[broken.state["id"]]
    assert "place.position" in card["problem"] and card["parts"] == 2
    assert cards[other["id"]]["problem"] is None
    assert sum(1 for c in cards.values() if c["problem"]) == 1


def test_opening_it_says_what_can_be_done(broken):
    refused = broken.client.get(broken.url)
    assert refused.status_code == 422
    told = refused.json()["unreadable"]
    assert (told["revision"], told["steps_back"], told["undo"]) == (3, 1, "Moved Box")
    for method, path in (("get", "needs"), ("get", "marks"), ("get", "count"), ("post", "duplicate")):
        answer = getattr(broken.client, method)(f"{broken.url}/{path}")
        assert answer.status_code == 422 and answer.json()["unreadable"], path
    edit = {"kind": "move", "ids": ["b"], "by": [1, 0, 0]}
    assert broken.post(edit).status_code == 422


def test_it_is_undone_step_by_step(broken):
    state = step(broken.client, broken.url, "undo", 3).raise_for_status().json()
    assert state["revision"] == 4
    assert "place" not in state["piece"]["parts"][0] or state["piece"]["parts"][0]["place"]["position"] == [0, 0, 0]
    assert state["undo"] == "Put down Box" and state["redo"] == "Moved Box"
    assert step(broken.client, broken.url, "redo", 4).json()["piece"]["parts"][0]["place"]["position"] == [1, 0, 0]


def test_it_goes_back_to_the_last_state_that_can_be_read(broken):
    """A fault that an older step left is not mended by undoing the last one; two steps are gone back at once."""

    def wrong_kind(document):
        document["parts"][1]["primitive"]["kind"] = "blob"

    broken.edit_id = broken.state["id"]
    spoil(broken.edit_id, wrong_kind)
    first = step(broken.client, broken.url, "undo", 3)
    assert first.status_code == 422 and first.json()["unreadable"]["steps_back"] == 1
    assert first.json()["unreadable"]["revision"] == 4, "the step was taken back all the same"
    state = step(broken.client, broken.url, "go-back", 4).raise_for_status().json()
    assert [p["id"] for p in state["piece"]["parts"]] == ["a"]
    refused = step(broken.client, broken.url, "go-back", state["revision"])
    assert refused.status_code == 422 and "can be read" in refused.json()["message"]


def test_one_that_never_could_be_read_is_downloaded_and_put_into_the_bin(api, broken):
    def other_version(document):
        document["version"] = 9

    spoil(broken.state["id"], other_version)
    assert broken.client.get(broken.url).json()["unreadable"]["steps_back"] is None
    assert "none of its earlier states" in step(api, broken.url, "go-back", 3).json()["message"]
    kept = api.get(f"{broken.url}/export", params={"format": "clay.json"}).raise_for_status()
    assert kept.json()["version"] == 9 and len(kept.json()["parts"]) == 2
    assert api.get(f"{broken.url}/export", params={"format": "stl"}).status_code == 422
    assert api.delete(broken.url).status_code == 204
    assert broken.state["id"] in [c["id"] for c in api.get("/api/pieces", params={"binned": True}).json()]
    assert api.post("/api/pieces/bin/empty").status_code == 200


def test_soundness_and_edits_of_an_older_form_do_not_take_the_shelf_down(api, broken):
    with open_database().begin() as connection:
        connection.execute(text('update pieces set soundness = \'{"sound": "maybe"}\''))
        connection.execute(text('update edits set inverse = \'{"kind": "restore", "steps": [{"kind": "warp"}]}\''))
    assert all(c["soundness"] is None for c in api.get("/api/pieces").raise_for_status().json())
    told = api.get(broken.url).json()["unreadable"]
    assert told["steps_back"] is None
    refused = step(api, broken.url, "undo", 3)
    assert refused.status_code == 422 and "cannot be taken back" in refused.json()["message"]


@pytest.mark.parametrize("document", [[], "nothing", {"parts": [3, {"join": {"parts": {}}}]}, {"parts": {"a": 1}}])
def test_what_is_no_document_at_all_stands_on_the_shelf_too(api, document):
    state = api.post("/api/pieces", json={"name": f"Odd {uuid.uuid4()}"}).json()
    with open_database().begin() as connection:
        connection.execute(
            text("update pieces set document = :d where id = :i"), {"i": state["id"], "d": json.dumps(document)}
        )
    card = next(c for c in api.get("/api/pieces").raise_for_status().json() if c["id"] == state["id"])
    assert card["problem"]
    assert api.get(f"/api/pieces/{state['id']}").status_code == 422
    assert api.delete(f"/api/pieces/{state['id']}").status_code == 204
