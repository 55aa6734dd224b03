"""Several windows on one piece: each hears of what another did, whichever process kept it."""

import json

from websockets.sync.client import connect

from noble_clay.core.piece.edits import edit_from_values
from noble_clay.store.database import open_database, sessions
from noble_clay.store.pieces import apply_edit, undo
from tests.building import box


def heard(socket, true, patience=20):
    """The first note of which something is true."""
    while True:
        note = json.loads(socket.recv(timeout=patience))
        if true(note):
            return note


def test_every_window_hears_of_an_edit_and_of_one_by_another_process(maker, server):
    url = f"ws://127.0.0.1:{server.port}{maker.url}/socket"
    with connect(url, origin=server.url) as one, connect(url, origin=server.url) as other:
        maker.edit(kind="add_parts", parts=[box("a")])
        assert [heard(s, lambda n: n["kept"] == 1)["kept"] for s in (one, other)] == [1, 1]
        edit = edit_from_values({"kind": "add_parts", "parts": [box("b", (9, 0, 0))]})
        maker_of = sessions(open_database())
        with maker_of.begin() as session:
            apply_edit(session, maker.state["id"], 1, "by-a-worker", edit)
        told = heard(one, lambda n: n["kept"] == 2)
        assert told["revision"] < 2, "the server itself has not looked at it yet"
        with maker_of.begin() as session:
            undo(session, maker.state["id"], 2)
        assert heard(other, lambda n: n["kept"] == 3)


def test_a_window_that_comes_later_hears_what_is_kept_by_then(maker, server):
    maker.edit(kind="add_parts", parts=[box("a")])
    with connect(f"ws://127.0.0.1:{server.port}{maker.url}/socket", origin=server.url) as socket:
        assert heard(socket, lambda n: n["kept"] == 1)["made"]


def test_what_is_undone_by_its_transaction_is_told_to_nobody(maker, server):
    with connect(f"ws://127.0.0.1:{server.port}{maker.url}/socket", origin=server.url) as socket:
        edit = edit_from_values({"kind": "add_parts", "parts": [box("b")]})
        session = sessions(open_database())()
        apply_edit(session, maker.state["id"], 0, "never-kept", edit)
        session.rollback()
        maker.edit(kind="add_parts", parts=[box("a")])
        kept = [json.loads(socket.recv(timeout=20))["kept"] for _ in range(2)]
        assert max(kept) == 1
