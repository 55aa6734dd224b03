"""Adjustments, marks and faces over HTTP."""

import uuid

import pytest

from tests.building import box, part


@pytest.fixture
def table(maker):
    maker.edit(kind="add_parts", parts=[box("table", (0, 0, 5), (30, 20, 10)), box("peg", (60, 0, 3), (4, 4, 6))])
    return maker


def ask(maker, path, **body):
    return maker.client.post(f"{maker.url}/{path}", json=body)


def places(state):
    return {p["id"]: p["place"]["position"] for p in state["piece"]["parts"]}


SEAT = {"kind": "seat", "ids": ["peg"], "eye": [5, 4, 99], "direction": [0, 0, -1], "depth": 0.5}


def test_a_preview_changes_nothing_and_says_what_the_adjustment_does(table):
    revision = table.state["revision"]
    (carried,) = ask(table, "adjust/preview", adjust=SEAT).raise_for_status().json()
    assert carried["id"] == "peg"
    assert [carried["matrix"][i] for i in (3, 7, 11)] == [-60, 0, 9.5]
    assert table.client.get(table.url).json()["revision"] == revision
    body = {"base_revision": revision, "request_id": str(uuid.uuid4()), "adjust": SEAT}
    state = ask(table, "adjust", **body).raise_for_status().json()
    assert places(state)["peg"] == [0, 0, 12.5]
    assert state["undo"] == "Seated Box 2"
    assert ask(table, "adjust", **body).json()["revision"] == state["revision"], "sent twice, done once"


def test_lining_up_asked_twice_under_one_id_is_answered_twice(table):
    adjust = {"kind": "line_up", "ids": ["peg"], "anchor": "table", "x": "middle"}
    body = {"base_revision": table.state["revision"], "request_id": str(uuid.uuid4()), "adjust": adjust}
    first, again = (ask(table, "adjust", **body).raise_for_status().json() for _ in range(2))
    assert again["revision"] == first["revision"]
    assert again["piece"] == first["piece"]
    assert places(first)["peg"][0] == 0


def test_what_cannot_be_adjusted_is_told(table):
    for adjust, words in (
        ({**SEAT, "eye": [500, 500, 500]}, "no face"),
        ({**SEAT, "direction": [0, 0, 0]}, "direction"),
        ({"kind": "line_up", "ids": ["peg"], "anchor": "ghost"}, "not in the piece"),
        ({"kind": "line_up", "ids": ["peg"], "anchor": "table"}, "already"),
        ({"kind": "seat", "ids": ["peg"]}, "required"),
        ({"kind": "shove", "ids": ["peg"]}, "shove"),
    ):
        answer = ask(table, "adjust/preview", adjust=adjust)
        assert answer.status_code == 422
        assert words in answer.json()["message"]


def test_a_face_is_told_and_a_primitive_lands_on_it(table):
    face = ask(table, "face", eye=[5, -99, 4], direction=[0, 1, 0]).raise_for_status().json()
    assert face == {"point": [5, -10, 4], "normal": [0, -1, 0], "middle": pytest.approx([0, -10, 5])}
    body = {
        "base_revision": table.state["revision"],
        "request_id": str(uuid.uuid4()),
        "primitive": {"kind": "cone", "bottom_radius": 3, "height": 8},
        "on": {"point": face["point"], "normal": face["normal"]},
    }
    state = ask(table, "put-down", **body).raise_for_status().json()
    cone = next(p for p in state["scene"]["parts"] if p["id"] == "cone")
    assert cone["box"][0] == pytest.approx([2, -18, 1], abs=1e-9)
    assert cone["box"][1] == pytest.approx([8, -10, 7], abs=1e-9)


def marks(maker):
    answer = maker.client.get(f"{maker.url}/marks").raise_for_status().json()
    while not answer["complete"]:
        answer = maker.client.get(f"{maker.url}/marks").raise_for_status().json()
    return {(m["part"], m["state"], m["other"]): m for m in answer["marks"]}


def test_marks_and_the_movement_that_mends_them(maker):
    maker.edit(
        kind="add_parts",
        parts=[
            box("body", (0, 0, 10), (40, 20, 20)),
            box("seed", (0, 0, 10), (2, 2, 2)),
            box("cap", (23, 13, 10), (6, 6, 4)),
            box("moon", (0, 60, 10), (4, 4, 4)),
            part("needle", "cylinder", (10, 1, 10), (90, 0, 0), radius=1, height=26),
            part("bore", "cylinder", (90, 0, 10), op="difference", radius=1, height=26),
        ],
    )
    found = marks(maker)
    assert set(found) == {
        ("seed", "inside", "body"),
        ("cap", "touches", "body"),
        ("moon", "floats", "body"),
        ("needle", "pokes_through", "body"),
        ("bore", "cuts_nothing", None),
    }
    for (name, state, _), mark in found.items():
        if mark["by"]:
            maker.edit(kind="move", ids=[name], by=mark["by"])
            assert not any(n == name for n, *_ in marks(maker)), f"{state} is not mended"
    assert maker.state["scene"]["soundness"]["bodies"] == 1
