"""Looking into a piece: the cut face of a section, told of the skin that the view has."""

import pytest

from tests.building import box


def cut(maker, **asked):
    whole = {"key": maker.state["scene"]["result"]["key"], "normal": [0, 0, 1], "at": 0.5, **asked}
    return maker.client.post(f"{maker.url}/section", json=whole)


def test_the_cut_face_of_the_skin_in_sight(maker):
    maker.edit(kind="add_parts", parts=[box("a", size=(10, 20, 4)), box("b", (0, 0, 0), (4, 4, 9), op="difference")])
    found = cut(maker).raise_for_status().json()
    assert found["area_mm2"] == pytest.approx(200 - 16) and found["outline_mm"] == pytest.approx(60 + 16)
    parts = maker.state["scene"]["result"]["parts"]
    assert {parts[i] for i in found["hatched"]} == {"a", "b"}
    assert len(found["hatching"]) == 6 * len(found["hatched"]) and len(found["triangles"]) % 9 == 0
    assert set(found["outline"][2::3]) == {0.5}
    aslant = cut(maker, normal=[0, 3, 0], at=1.0).raise_for_status().json()
    assert aslant["area_mm2"] == pytest.approx((10 - 4) * 4), "a direction need not be of length 1"


def test_what_cannot_be_cut_is_refused_in_words(maker):
    maker.edit(kind="add_parts", parts=[box("a")])
    assert "needs a direction" in cut(maker, normal=[0, 0, 0]).json()["message"]
    gone = cut(maker, key="0" * 64)
    assert gone.status_code == 422 and "load the piece again" in gone.json()["message"]
    assert cut(maker, key="../../etc/passwd").status_code == 422
    assert cut(maker, at=1e9).status_code == 422
    assert cut(maker, at=900).raise_for_status().json()["area_mm2"] == 0


def test_a_spot_to_measure_from_is_exact_and_a_miss_is_told(maker):
    maker.edit(kind="add_parts", parts=[box("a", (1 / 3, 0, 0), size=(10, 20, 4)), box("b", (50, 0, 0))])
    ask = {"eye": [5.2, 9.9, 90], "direction": [0, 0, -3], "reach": 0.5}
    found = maker.client.post(f"{maker.url}/spot", json=ask).raise_for_status().json()
    assert found["kind"] == "corner" and found["point"] == pytest.approx([1 / 3 + 5, 10, 2], abs=1e-9)
    assert found["thickness"] == pytest.approx(4) and found["radius"] is None
    missed = maker.client.post(f"{maker.url}/spot", json={**ask, "eye": [20, 20, 90]})
    assert missed.status_code == 422 and "nothing under the pointer" in missed.json()["message"]
    assert maker.client.post(f"{maker.url}/spot", json={**ask, "direction": [0, 0, 0]}).status_code == 422
    assert maker.client.post(f"{maker.url}/spot", json={**ask, "reach": -1}).status_code == 422
