"""The history of a piece: a list in words, going to any step, ways that part, versions, comparing, copying."""

import io
import random
from importlib import import_module

import pytest
from PIL import Image
from sqlalchemy import text

from noble_clay.core.piece.edits import edit_from_values
from noble_clay.store.database import open_database, sessions
from noble_clay.store.history import History, copy_of, document_at, go_to
from noble_clay.store.pieces import KEPT_EVERY, apply_edit, redo, row_of, undo
from tests.building import box, part


@pytest.fixture
def history(maker):
    return lambda **asked: maker.client.get(f"{maker.url}/history", params=asked).raise_for_status().json()


def go(maker, step, base=None):
    body = {"base_revision": maker.state["revision"] if base is None else base, "step": step}
    return maker.client.post(f"{maker.url}/history/go", json=body)


def rename(maker, name):
    return maker.edit(kind="set_part", ids=["a"], fields={"name": name})


def test_the_steps_are_told_in_words_the_last_first(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    rename(maker, "Shell")
    told = history()
    assert [s["number"] for s in told["steps"]] == [2, 1] and told["position"] == told["length"] == 2
    assert told["here"] == told["steps"][0]["id"] and told["ways"] == told["versions"] == []
    assert told["steps"][0]["words"] == "Renamed Box to Shell"
    below = history(below=2, count=1)
    assert [s["number"] for s in below["steps"]] == [1]


def test_far_back_and_forth_is_one_revision_each_and_loses_nothing(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    documents = [maker.state["piece"]]
    for i in range(20):
        documents.append(rename(maker, f"Name {i}")["piece"])
    steps = history()["steps"][::-1]
    for number in (1, 21, 7):
        before = maker.state["revision"]
        maker.take(go(maker, steps[number - 1]["id"]))
        assert maker.state["revision"] == before + 1 and maker.state["piece"] == documents[number - 1]
    assert maker.state["undo"] == steps[6]["words"] and maker.state["redo"] == steps[7]["words"]
    maker.take(go(maker, 0))
    assert maker.state["piece"]["parts"] == [] and maker.state["undo"] is None


def test_what_is_worked_on_after_going_back_leaves_the_other_way_as_it_was(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    fork = history()["here"]
    rename(maker, "One")
    one = rename(maker, "One more")["piece"]
    end = history()["here"]
    maker.take(go(maker, fork))
    other = rename(maker, "Other")["piece"]
    told = history()
    assert [(w["after"], w["end"]["id"], w["steps"]) for w in told["ways"]] == [(fork, end, 2)]
    there = told["here"]
    maker.take(go(maker, end))
    assert maker.state["piece"] == one
    assert [(w["end"]["id"], w["steps"]) for w in history()["ways"]] == [(there, 1)]
    maker.take(maker.client.post(f"{maker.url}/undo", json={"base_revision": maker.state["revision"]}))
    maker.take(maker.client.post(f"{maker.url}/redo", json={"base_revision": maker.state["revision"]}))
    assert maker.state["piece"] == one, "undo and redo go along the way that was gone to"
    maker.take(go(maker, there))
    assert maker.state["piece"] == other


def test_steps_keep_their_order_whatever_the_clock_says(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    for name in ("One", "Two", "Three"):
        rename(maker, name)
    with sessions(open_database()).begin() as session:
        back = "update edits set at = now() + interval '2 days' - number * interval '1 day' where piece_id = :piece"
        session.execute(text(back), {"piece": maker.state["id"]})
    told = history()
    assert [s["number"] for s in told["steps"]] == [4, 3, 2, 1]
    maker.take(go(maker, told["steps"][2]["id"]))
    assert maker.state["piece"]["parts"][0]["name"] == "One"


def test_any_two_steps_are_compared(maker, history):
    maker.edit(kind="add_parts", parts=[box("a", size=(5, 5, 5))])
    first = history()["here"]
    rename(maker, "One")
    fork = history()["here"]
    maker.edit(kind="add_parts", parts=[box("b", (20, 0, 0), (5, 5, 5))])
    end = history()["here"]
    maker.take(go(maker, fork))
    rename(maker, "Other")

    def compared(step, later):
        answer = maker.client.get(f"{maker.url}/history/{step}/compare", params={"later": later})
        return answer.raise_for_status().json()

    found = compared(first, end)
    assert [(d["part"], d["words"]) for d in found["differences"]] == [("a", ['called "Box" before']), ("b", ["new"])]
    assert (found["skin"]["parts"], found["later"]["parts"]) == (["a"], ["a", "b"])
    assert [d["words"] for d in compared(end, first)["differences"]] == [['called "One" before'], ["gone"]]
    assert compared(end, end)["differences"] == []
    assert compared(0, end)["skin"]["triangles"] == 0
    missing = maker.client.get(f"{maker.url}/history/{end}/compare", params={"later": 2**31 - 1})
    assert missing.status_code == 404 and "not in the piece's history" in missing.json()["message"]


def test_a_way_gone_to_in_its_middle_is_redone_to_its_end(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    rename(maker, "One")
    middle = history()["here"]
    one = rename(maker, "One more")["piece"]
    maker.take(go(maker, 0))
    maker.edit(kind="add_parts", parts=[part("b", "sphere", (9, 0, 0), radius=3)])
    maker.take(go(maker, middle))
    assert maker.state["piece"]["parts"][0]["name"] == "One"
    maker.take(maker.client.post(f"{maker.url}/redo", json={"base_revision": maker.state["revision"]}))
    assert maker.state["piece"] == one


def test_refusals(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    here = history()["here"]
    assert go(maker, here, base=0).status_code == 409
    assert go(maker, here + 100_000).status_code == 404
    assert go(maker, -1).status_code == 422
    other = maker.client.post("/api/pieces", json={"name": "Other"}).json()
    url = f"/api/pieces/{other['id']}/history"
    assert maker.client.put(f"{url}/{here}/version", json={"name": "x"}).status_code == 404, "a step of another piece"
    assert maker.client.get(f"{url}/{here}/picture").status_code == 404
    assert maker.client.put(f"{maker.url}/history/{here}/version", json={"name": ""}).status_code == 422
    assert history()["versions"] == [] and history()["position"] == 1


def test_a_hundred_named_versions_on_whatever_way(maker, history):
    maker.until_counted = False
    maker.edit(kind="add_parts", parts=[box("a")])
    for i in range(100):
        rename(maker, f"Name {i}")
        if i == 50:
            maker.take(go(maker, 0))
            maker.edit(kind="add_parts", parts=[box("a")])
        maker.client.put(f"{maker.url}/history/{history()['here']}/version", json={"name": f"Version {i}"})
    told = history()
    assert [v["version"] for v in told["versions"]] == [f"Version {i}" for i in reversed(range(100))]
    first = told["versions"][-1]
    maker.take(go(maker, first["id"]))
    assert maker.state["piece"]["parts"][0]["name"] == "Name 0", "of the way that was left"
    maker.client.put(f"{maker.url}/history/{first['id']}/version", json={"name": None})
    assert len(history()["versions"]) == 99


def test_a_step_has_its_picture_and_one_that_makes_nothing_a_blank_one(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    rename(maker, "Only a name")
    steps = history()["steps"]
    pictures = [maker.client.get(f"{maker.url}/history/{s['id']}/picture").raise_for_status() for s in steps]
    small = Image.open(io.BytesIO(pictures[0].content))
    assert small.format == "PNG" and small.size == (192, 132)
    assert len(small.convert("RGB").getcolors(100_000)) > 3, "a box has three sides to see"
    assert pictures[0].content == pictures[1].content
    maker.edit(kind="add_parts", parts=[box("b", (500, 0, 0), op="intersection")])
    nothing = f"{maker.url}/history/{history()['here']}/picture"
    blank = Image.open(io.BytesIO(maker.client.get(nothing).raise_for_status().content))
    assert len(blank.convert("RGB").getcolors()) == 1


def test_compared_in_words_and_with_the_skin_it_had(maker, history):
    maker.edit(kind="add_parts", parts=[box("a"), box("b", (30, 0, 0))])
    early = history()["here"]
    skin = maker.state["scene"]["result"]["key"]
    maker.edit(kind="move", ids=["a"], by=[0, 0, 5])
    maker.edit(kind="remove_parts", ids=["b"])
    maker.edit(kind="add_parts", parts=[part("c", "sphere", (60, 0, 0), radius=3)])
    told = maker.client.get(f"{maker.url}/history/{early}/compare").raise_for_status().json()
    assert {d["part"]: (d["present"], d["words"]) for d in told["differences"]} == {
        "a": (True, ["moved by 0, 0, 5 mm"]),
        "b": (False, ["gone"]),
        "c": (True, ["new"]),
    }
    assert told["skin"]["key"] == skin
    assert maker.client.get(f"/api/meshes/{skin}").status_code == 200


def test_a_copy_begins_from_a_step_and_has_a_history_of_its_own(maker, history):
    maker.edit(kind="add_parts", parts=[box("a")])
    early = history()["here"]
    was = maker.state["piece"]["parts"]
    rename(maker, "Later")
    copied = (
        maker.client.post(f"{maker.url}/history/{early}/copy", json={"name": "From then"}).raise_for_status().json()
    )
    assert copied["piece"]["parts"] == was and copied["piece"]["name"] == "From then" and copied["undo"] is None


def made_of(steps, create, seed=11):
    """A piece after so many random steps, undone and redone, gone to and fro; and each step's document as it was."""
    rng = random.Random(seed)
    known = {0: create.document()}
    for i in range(steps):
        edit = {"kind": "set_part", "ids": ["a"], "fields": {"name": f"Name {i}"}}
        if rng.random() < 0.3:
            edit = {"kind": "move", "ids": ["a"], "by": [rng.randrange(-5, 6), 0, 1]}
        create.edit(edit)
        known[create.here()] = create.document()
        if rng.random() < 0.03:
            create.go(rng.choice(list(known)[1:]))
    return known


class Stored:
    """A piece in the store, without a server."""

    def __init__(self, maker):
        self.id, self.sessions = maker.state["id"], sessions(open_database())
        self.revision = maker.state["revision"]
        self.requests = 0

    def _did(self, work):
        with self.sessions.begin() as session:
            self.revision = work(session).revision

    def edit(self, values):
        self.requests += 1
        name = f"request-{self.requests}"
        self._did(lambda s: apply_edit(s, self.id, self.revision, name, edit_from_values(values)))

    def undo(self):
        self._did(lambda s: undo(s, self.id, self.revision))

    def redo(self):
        self._did(lambda s: redo(s, self.id, self.revision))

    def go(self, step):
        self._did(lambda s: go_to(s, self.id, self.revision, step))

    def read(self, work):
        with self.sessions.begin() as session:
            return work(session, row_of(session, self.id))

    def here(self):
        return self.read(lambda session, row: History(session, row).here)

    def document(self):
        return self.read(lambda _, row: row.document)


def test_every_step_of_a_tree_of_ways_is_reached_byte_for_byte(maker):
    maker.edit(kind="add_parts", parts=[box("a")])
    stored = Stored(maker)
    known = made_of(4 * KEPT_EVERY, stored)
    del known[0]
    tree = stored.read(History)
    numbers = [s.number for s in tree.line]
    assert numbers == list(range(1, len(numbers) + 1)), "the line has every number once"
    assert max(numbers) > KEPT_EVERY, "deep enough for a document to be kept on the way"
    for step, document in known.items():
        assert stored.read(lambda session, _, step=step: document_at(session, stored.id, step)) == document
    rng = random.Random(12)
    for step in rng.sample(list(known), 25):
        stored.go(step)
        assert stored.document() == known[step] and stored.here() == step
        line = stored.read(History).line
        assert [s.number for s in line] == list(range(1, len(line) + 1))
        for a, b in zip(line, line[1:], strict=False):
            assert b.before == a.id
    with stored.sessions.begin() as session:
        a_while_ago = next(iter(known))
        copy = copy_of(session, stored.id, a_while_ago, "Copy")
        assert {**copy.piece.dump(), "name": known[a_while_ago]["name"]} == known[a_while_ago]


def test_undo_and_redo_after_going_to_another_way(maker):
    maker.edit(kind="add_parts", parts=[box("a")])
    stored = Stored(maker)
    known = made_of(80, stored, seed=3)
    tree = stored.read(History)
    away = next(s for s in tree.steps.values() if not s.live)
    stored.go(away.id)
    stored.undo()
    assert stored.here() == away.before
    stored.redo()
    assert stored.document() == known[away.id]


def test_steps_that_were_kept_before_there_were_ways_know_what_they_came_after(maker):
    """Then the only way to part from a line was to undo and work on."""
    maker.edit(kind="add_parts", parts=[box("a")])
    stored = Stored(maker)
    rng = random.Random(5)
    for i in range(60):
        for _ in range(rng.choice((0, 0, 0, 1, 2, 5))):
            if stored.here():
                stored.undo()
        if rng.random() < 0.2 and stored.read(History).position < len(stored.read(History).line):
            stored.redo()
        stored.edit({"kind": "add_parts", "parts": [box(f"b{i}", (3 * i, 0, 9))]})
    migration = import_module("noble_clay.store.migrations.versions.0009_history")
    with stored.sessions.begin() as session:
        of_it = text("select id, before_id from edits where piece_id = :id").bindparams(id=stored.id)
        was = dict(session.execute(of_it).all())
        assert len(set(was.values())) < len(was), "some part from the same step"
        session.execute(text("update edits set before_id = null where piece_id = :id"), {"id": stored.id})
        session.execute(text(migration.BEFORE))
        assert dict(session.execute(of_it).all()) == was
