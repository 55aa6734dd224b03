"""Preferences are kept on the server, bounded, and without two commands on one shortcut."""

import pytest


def test_kept_and_given_back(api):
    first = api.get("/api/preferences").raise_for_status().json()
    assert (first["grid_mm"], first["shortcuts"]) == (1, {})
    wanted = {**first, "grid_mm": 2.5, "glazes": "mixed", "shortcuts": {"duplicate": "Ctrl+J", "frame-all": ""}}
    assert api.put("/api/preferences", json=wanted).raise_for_status().json() == wanted
    assert api.get("/api/preferences").json() == wanted
    api.put("/api/preferences", json=first).raise_for_status()


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"grid_mm": 0}, "grid_mm"),
        ({"turn_deg": 1e9}, "turn_deg"),
        ({"colour": "red"}, "colour"),
        ({"shortcuts": {"a": "Ctrl+J", "b": "Ctrl+J"}}, "two commands"),
        ({"snapping": "yes"}, "snapping"),
        ({"glazes": "striped"}, "glazes"),
    ],
)
def test_refused_in_words_and_nothing_changed(api, wrong, words):
    before = api.get("/api/preferences").json()
    answer = api.put("/api/preferences", json={**before, **wrong})
    assert answer.status_code == 422
    assert words in answer.json()["message"]
    assert api.get("/api/preferences").json() == before
