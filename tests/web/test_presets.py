"""Every preset is a piece file that stands on the wheel, sound, of one body, with a tile; a new one needs no code."""

import json

import pytest

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.read import piece_from_values
from noble_clay.web.presets import preset_files


@pytest.mark.parametrize("path", preset_files(), ids=lambda path: path.name)
def test_a_preset_is_sound_and_stands_in_the_middle_of_the_wheel(path):
    piece = piece_from_values(json.loads(path.read_text()))
    assert len(piece.parts) == 1, "put down as one thing, which can be opened"
    found = Evaluator().evaluate(piece).inspection
    assert (found.manifold, found.bodies, found.findings) == (True, 1, ())
    low, high = found.bounds
    assert low[2] == pytest.approx(0, abs=5e-3), "run: .venv/bin/python -m tools.presets"
    assert (low[:2] + high[:2]) / 2 == pytest.approx([0, 0], abs=5e-3)
    assert 12 < (high - low).max() < 60


def test_the_page_gets_them_by_name_with_their_tiles(api):
    found = api.get("/api/presets").raise_for_status().json()
    assert len(found) == len(preset_files()) == 16
    assert [p["name"] for p in found] == sorted(p["name"] for p in found)
    for preset in found:
        assert api.get(f"/api/presets/{preset['slug']}/tile.svg").text.count("<polygon") > 20
    assert api.get("/api/presets/..%2Fpyproject/tile.svg").status_code == 404


def test_one_put_down_twice_is_two_with_ids_of_their_own(api):
    piece = api.post("/api/pieces", json={"name": "Two trees"}).json()
    for n in range(2):
        body = {"base_revision": n, "request_id": f"tree-number-{n}", "preset": "tree"}
        state = api.post(f"/api/pieces/{piece['id']}/put-ready", json=body).raise_for_status().json()
    groups = state["piece"]["parts"]
    ids = [p["id"] for g in groups for p in [g, *g["join"]["parts"]]]
    assert len(groups) == 2 and len(set(ids)) == len(ids)
