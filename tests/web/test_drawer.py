"""The parts drawer: what is kept is used in other pieces, changed, followed, taken away as a file, and put away."""

import uuid

import pytest

from noble_clay.core.formats.stl import stl_bytes
from tests.building import box, part
from tests.damage import primitive
from tests.web.conftest import Maker
from tests.web.test_jobs import brought


def asked(maker, path, **body):
    body = {"base_revision": maker.state["revision"], "request_id": str(uuid.uuid4()), **body}
    return maker.client.post(f"{maker.url}/{path}", json=body)


def keep(maker, ids, name="Shell", **fields):
    """Keeps parts; answers the id in the drawer."""
    before = {c["id"] for c in drawer(maker.client)}
    maker.take(asked(maker, "keep", ids=ids, fields={"name": name, **fields}))
    (new,) = {c["id"] for c in drawer(maker.client)} - before
    return new


def drawer(client):
    return client.get("/api/drawer").raise_for_status().json()


def card(client, kept):
    return next(c for c in drawer(client) if c["id"] == kept)


def told(card):
    return card["name"], card["tags"], card["notes"], card["fixed"]


def put(maker, kept, **where):
    return maker.take(asked(maker, "put-ready", kept=kept, **where))["chosen"][0]


def notes_of(maker):
    return {n["id"]: n for n in maker.client.get(f"{maker.url}/drawer").raise_for_status().json()}


def volume(maker):
    return maker.counted()["scene"]["soundness"]["volume_mm3"]


def changed_in_drawer(api, kept, **edit):
    lying = Maker(api)
    lying.state = api.get(f"/api/pieces/{kept}").json()
    lying.edit(**edit)
    return lying


@pytest.fixture
def kept(maker):
    """A drilled cube in the drawer; the maker's own piece has it as a copy from then on."""
    group = maker.drilled()["piece"]["parts"][0]["id"]
    return keep(maker, [group], tags=["sea", "round"], notes="of two")


def test_what_is_kept_is_listed_and_not_among_the_pieces(api, maker, kept):
    found = card(api, kept)
    assert told(found) == ("Shell", ["sea", "round"], "of two", False)
    assert found["used"] == [
        {"piece_id": maker.state["id"], "name": "Test piece", "parts": 1, "behind": 0, "changed": 0}
    ]
    assert kept not in {c["id"] for c in api.get("/api/pieces").json()}
    assert maker.state["undo"].startswith("Noted what the drawer has of")


def test_it_is_put_into_another_piece_beside_on_a_spot_and_on_a_face(api, maker, kept):
    other = Maker(api)
    first, second = put(other, kept), put(other, kept)
    assert first != second
    assert other.counted()["scene"]["soundness"]["bodies"] == 2, "never inside another"
    put(other, kept, at=[100, 50])
    placed = other.state["piece"]["parts"][-1]["place"]["position"]
    assert placed[:2] == pytest.approx([100, 50])
    low, high = other.counted()["scene"]["soundness"]["bounds"]
    assert low[2] == pytest.approx(0) and high == pytest.approx([110, 60, 20])
    put(other, kept, on={"point": [200, 0, 30], "normal": [1, 0, 0]})
    low, high = other.counted()["scene"]["soundness"]["bounds"]
    assert high[0] == pytest.approx(220), "on its foot on the face, which looks to the right"
    assert volume(other) == pytest.approx(4 * volume(maker), rel=1e-6)


def test_a_preset_is_put_the_same_way(api, maker):
    state = maker.take(asked(maker, "put-ready", preset="tree", at=[30, 0]))
    assert state["piece"]["parts"][0]["name"] == "Tree" and state["chosen"] == [state["piece"]["parts"][0]["id"]]
    assert asked(maker, "put-ready", preset="none-such").status_code == 422
    assert asked(maker, "put-ready").status_code == 422


def test_pieces_follow_what_is_changed_if_the_maker_says_so(api, maker, kept):
    others = [Maker(api) for _ in range(3)]
    copies = [put(other, kept) for other in others]
    put(others[0], kept)
    flat = [{"kind": "flatten", "depth": 5, "side": "z+"}]
    others[1].edit(kind="set_changes", id=copies[1], stack=flat)  # has a form of its own there
    changed_in_drawer(
        api, kept, kind="set_primitive", id="rod", primitive={"kind": "cylinder", "radius": 6, "height": 30}
    )

    used = {u["piece_id"]: (u["parts"], u["behind"], u["changed"]) for u in card(api, kept)["used"]}
    assert [used[o.state["id"]] for o in others] == [(2, 2, 0), (1, 0, 1), (1, 1, 0)]
    assert all(n["behind"] and not n["changed"] for n in notes_of(others[0]).values())
    before = [volume(o) for o in others]
    body = {"request_id": str(uuid.uuid4()), "pieces": [o.state["id"] for o in others[:2]] + ["0" * 16]}
    for _ in range(2):  # sent twice it is done once
        found = api.post(f"/api/drawer/{kept}/follow", json=body).raise_for_status().json()
    assert [f["parts"] for f in found] == [0, 0, 0] and "not here" in found[2]["problem"]

    others = [o for o in others if o.fresh()]
    after = [volume(o) for o in others]
    assert after[0] < before[0] and after[1:] == before[1:]
    assert others[0].state["undo"].startswith("Let ")
    assert volume_of(others[0].step("undo")) == pytest.approx(before[0])
    # The one that was changed there follows by itself, and then it is as the drawer has it.
    state = others[1].take(asked(others[1], "follow", id=copies[1]))
    assert not next(p for p in state["piece"]["parts"] if p["id"] == copies[1]).get("changes")
    assert not notes_of(others[1])[copies[1]]["behind"]


def volume_of(state):
    return state["scene"]["soundness"]["volume_mm3"]


def test_what_was_changed_in_a_piece_is_put_back_into_the_drawer(api, maker, kept):
    other = Maker(api)
    copy = put(other, kept)
    other.edit(kind="set_changes", id=copy, stack=[{"kind": "flatten", "depth": 5, "side": "z+"}])
    assert notes_of(other)[copy]["changed"]
    other.take(asked(other, "put-back", id=copy))
    note = notes_of(other)[copy]
    assert (note["name"], note["behind"], note["changed"]) == ("Shell", False, False)
    assert notes_of(maker)[maker.state["piece"]["parts"][0]["id"]]["behind"], "the piece it came from may follow"
    lying = Maker(api)
    lying.state = api.get(f"/api/pieces/{kept}").json()
    assert volume(lying) == pytest.approx(volume(other))
    assert lying.state["undo"].startswith("Put Shell")
    lying.step("undo")
    assert notes_of(other)[copy]["behind"], "undone in the drawer"


def test_a_fixed_size_stays_until_it_is_freed(api, maker):
    maker.edit(kind="add_parts", parts=[part("peg", "cylinder", (0, 0, 3), radius=2.6, height=6)])
    kept = keep(maker, ["peg"], "Magnet", fixed=True)
    refused = maker.post({"kind": "resize", "id": "peg", "size": [9, 9, 9], "was": [5.2, 5.2, 6]})
    assert refused.status_code == 422 and "fixed in the drawer" in refused.json()["message"]
    other = Maker(api)
    copy = put(other, kept)
    assert notes_of(other)[copy]["fixed"]
    api.put(
        f"/api/drawer/{kept}", json={"request_id": str(uuid.uuid4()), "fields": {"name": "Magnet", "tags": ["5 mm"]}}
    )
    assert card(api, kept)["fixed"] is False
    assert not notes_of(Maker(api)), "what is not from the drawer is not told"
    free = put(other, kept)
    assert not notes_of(other)[free]["fixed"] and notes_of(other)[copy]["fixed"], "only what is taken out from then on"


def test_it_is_taken_away_as_a_file_and_taken_in_again_also_with_a_mesh(api, maker):
    mesh = brought(maker, primitive("sphere", radius=7, facets=24))
    kept = keep(maker, [mesh], "Pebble", tags=["found"], notes="from a beach", fixed=True)
    pack = api.get(f"/api/pieces/{kept}/export", params={"format": "claypack"}).content
    api.delete(f"/api/pieces/{kept}")
    again = api.post("/api/drawer/take-in", content=pack)
    assert again.status_code == 201
    found = again.json()
    assert told(found) == ("Pebble", ["found"], "from a beach", True)
    other = Maker(api)
    put(other, found["id"])
    assert volume(other) == pytest.approx(volume(maker), rel=1e-6)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{}", "format"),
        (b"no piece at all", "JSON"),
        (b'{"format": "noble-clay-piece", "version": 1, "name": "Empty", "parts": []}', "no parts to take out"),
        (stl_bytes(primitive("sphere", radius=2, facets=8), "m"), "UTF-8|JSON"),
    ],
)
def test_a_file_that_is_none_is_refused_in_words(api, data, words):
    before = drawer(api)
    answer = api.post("/api/drawer/take-in", content=data)
    assert answer.status_code == 422
    assert any(word in answer.json()["message"] for word in words.split("|"))
    assert drawer(api) == before


def test_what_is_put_away_harms_no_piece_and_comes_back(api, maker, kept):
    other = Maker(api)
    copy = put(other, kept)
    before = volume(other)
    api.delete(f"/api/pieces/{kept}").raise_for_status()
    assert kept not in {c["id"] for c in drawer(api)}
    assert kept in {c["id"] for c in api.get("/api/pieces", params={"binned": True}).json()}
    assert volume(other) == before and notes_of(other)[copy]["name"] is None
    for path in ("follow", "put-back"):
        assert asked(other, path, id=copy).status_code == 404
    other.edit(kind="move", ids=[copy], by=[1, 0, 0])
    api.post(f"/api/pieces/{kept}/restore").raise_for_status()
    assert notes_of(other)[copy]["name"] == "Shell"


def test_what_cannot_be_kept_is_refused_and_nothing_is_kept(api, maker):
    maker.edit(kind="add_parts", parts=[box("a"), {**box("r", (9, 0, 0)), "reference": True}])
    before = drawer(api)
    for ids, fields, words in (
        (["r"], {"name": "R"}, "only for reference"),
        (["gone"], {"name": "R"}, "not in the piece"),
        (["a"], {"name": ""}, "at least 1"),
        (["a"], {"name": "A", "tags": ["x" * 41]}, "at most 40"),
        (["a"], {"name": "A", "tags": [str(n) for n in range(21)]}, "at most 20"),
    ):
        answer = asked(maker, "keep", ids=ids, fields=fields)
        assert answer.status_code == 422 and words in answer.json()["message"], answer.text
    assert drawer(api) == before
    body = {
        "base_revision": maker.state["revision"],
        "request_id": "keep-it-just-once",
        "ids": ["a"],
        "fields": {"name": "A"},
    }
    for _ in range(2):
        maker.client.post(f"{maker.url}/keep", json=body).raise_for_status()
    assert len(drawer(api)) == len(before) + 1


@pytest.mark.parametrize("emptied", ["removed", "reference"])
def test_one_with_nothing_to_take_out_hides_no_other(api, maker, kept, emptied):
    copy = maker.state["piece"]["parts"][0]["id"]
    lying = Maker(api)
    lying.state = api.get(f"/api/pieces/{kept}").json()
    ids = [p["id"] for p in lying.state["piece"]["parts"]]
    if emptied == "removed":
        lying.edit(kind="remove_parts", ids=ids)
    else:
        lying.edit(kind="set_part", ids=ids, fields={"reference": True})
    other = keep(maker, [copy], "Another")
    assert {kept, other} <= {c["id"] for c in drawer(api)}
    assert "no parts to take out" in asked(maker, "put-ready", kept=kept).json()["message"]
    maker.edit(kind="set_part", ids=[copy], fields={"drawer": None})
    assert not notes_of(maker), "let go of"


def test_a_changed_copy_fills_one_that_was_emptied(api, maker, kept):
    other = Maker(api)
    copy = put(other, kept)
    (whole,) = api.get(f"/api/pieces/{kept}").json()["piece"]["parts"]
    changed_in_drawer(api, kept, kind="remove_parts", ids=[whole["id"]])
    other.edit(kind="set_changes", id=copy, stack=[{"kind": "flatten", "depth": 5, "side": "z+"}])
    other.take(asked(other, "put-back", id=copy))
    assert (note := notes_of(other)[copy])["name"] == "Shell" and not note["behind"] and not note["changed"]


def test_favourites_are_kept(api):
    now = api.get("/api/preferences").json()
    kept = api.put("/api/preferences", json={**now, "favourites": ["primitive sphere", "preset tree"]}).json()
    assert api.get("/api/preferences").json()["favourites"] == kept["favourites"] == ["primitive sphere", "preset tree"]
    assert api.put("/api/preferences", json={**now, "favourites": ["what?"]}).status_code == 422
    api.put("/api/preferences", json=now)
