"""The drumming octopus, blocked out by pointer and keys only; what was typed or caught is exact."""

import httpx
import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

EXACT = 1e-6


def document(hands):
    piece = hands.browser.current_url.split("/")[4]

    def made():
        state = httpx.get(f"{hands.server.url}/api/pieces/{piece}").raise_for_status().json()
        return None if state["making"] else state

    return hands.until(made, "it is never made", 60)


def boxes(state):
    names = {}

    def visit(parts):
        for part in parts:
            names[part["id"]] = part["name"]
            visit((part.get("join") or {"parts": []})["parts"])

    visit(state["piece"]["parts"])
    return {names[v["id"]]: v["box"] for v in state["scene"]["parts"]}


def rename(hands, name):
    hands.find("//aside[contains(@class,'right')]//h2//button").click()
    field = hands.find("//aside[contains(@class,'right')]//input[@aria-label='Name of the part']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(name, Keys.ENTER)
    hands.settle()


def put_down(hands, label, name, family="Round", **typed):
    hands.put_down(label, family)
    rename(hands, name)
    for field, text in typed.items():
        hands.type(field.replace("_", " "), text)


def test_the_drumming_octopus(hands):
    hands.new_piece()
    put_down(hands, "Egg", "Head", Wide="32", Deep="32", High="30+6", Across="0", Away="0", Base_at="9")
    put_down(hands, "Capsule", "Limb", Wide="7", Deep="7", High="4cm", about_y="90", Across="22", Away="0", Base_at="2")
    hands.button("ring")
    hands.settle()
    hands.type("Count", "8")
    hands.button("Full turn")
    hands.settle()
    assert hands.read("Angle") == 45
    assert hands.read("Centre x") == 0
    put_down(hands, "Sphere", "Eye", Radius="4", Across="7", Away="-12", Base_at="30")
    hands.button("twin")
    hands.settle()
    assert hands.read("Plane at") == 0
    put_down(hands, "Cylinder", "Drum", Radius="9", High="12", Across="3", Away="-50", Base_at="0")
    put_down(hands, "Dome", "Drum skin", Wide="16", Deep="16", High="3")

    # Seat the skin on the drum, pointing at its top from above.
    hands.find("//*[@aria-label='Look from the top']").click()
    hands.keys(Keys.HOME)
    hands.still()
    hands.pick("Drum")
    spot = hands.grip("Move in the plane of the view").rect
    hands.pick("Drum skin")
    hands.button("Seat …")
    hands.point_until(spot["x"] + 12, spot["y"] + 12, "click to seat it here")
    ActionChains(hands.browser).click().perform()
    hands.settle()
    hands.until(lambda: hands.place() == pytest.approx([3, -50, 11.6], abs=EXACT), "the skin is not seated")

    # The drum and its skin become one, and stand before the head's middle.
    hands.pick("Drum", "Drum skin")
    hands.chord("g", Keys.CONTROL)
    hands.until(lambda: "Group" in hands.lines(), "not grouped")
    rename(hands, "Tide drum")
    hands.pick("Tide drum", "Head")
    hands.find("//section[@aria-label='Line up']//div[span='Across']//button[.='middle']").click()
    hands.settle()

    # A drumstick, repeated by the same step.
    put_down(hands, "Capsule", "Stick", Wide="2", Deep="2", High="20", Across="-6", Away="-40", Base_at="14")
    hands.chord("d", Keys.CONTROL)
    hands.type("Across", "0")
    hands.chord("d", Keys.CONTROL, Keys.SHIFT)
    hands.until(lambda: hands.lines()[-3:] == ["Stick", "Stick 2", "Stick 3"], "not duplicated again")
    hands.until(lambda: hands.read("Across") == pytest.approx(6, abs=EXACT), "the third is not in hand")

    state = document(hands)
    found = boxes(state)
    assert found["Head"] == [pytest.approx([-16, -16, 9], abs=EXACT), pytest.approx([16, 16, 45], abs=EXACT)]
    assert found["Limb"][0] == pytest.approx([2, -3.5, 2], abs=EXACT)
    assert found["Limb"][1] == pytest.approx([42, 3.5, 9], abs=EXACT)
    middle = [(a + b) / 2 for a, b in zip(*found["Tide drum"], strict=True)]
    assert middle[0] == pytest.approx(0, abs=EXACT), "lined up with the head"
    assert found["Tide drum"][0][2] == pytest.approx(0, abs=EXACT)
    assert found["Drum skin"][0][2] == pytest.approx(11.6, abs=EXACT)
    limb = next(v for v in state["scene"]["parts"] if v["id"] == "capsule")
    assert len(limb["matrices"]) == 8
    # The third copy is a quarter turn on: (x, y) has become (-y, x).
    first, third = limb["matrices"][0], limb["matrices"][2]
    assert [third[3], third[7]] == pytest.approx([-first[7], first[3]], abs=EXACT)
    eyes = next(v for v in state["scene"]["parts"] if v["id"] == "sphere")
    assert [m[3] for m in eyes["matrices"]] == pytest.approx([7, -7], abs=EXACT)

    # All of it undone and done again, ten steps at a time, as a held key would.
    whole, made = state["piece"], state["revision"]
    undo = hands.find("//button[@aria-label='Undo']")
    while undo.is_enabled():
        hands.chord("z" * 10, Keys.CONTROL)
        assert document(hands)["revision"] - made < 200
    hands.until(lambda: hands.lines() == [], "undoing all does not empty the wheel")
    undone = document(hands)["revision"]
    assert undone - made > 40, "each step is undone by itself"
    redo = hands.find("//button[@aria-label='Redo']")
    while redo.is_enabled():
        hands.chord("y" * 10, Keys.CONTROL)
    again = document(hands)
    assert again["piece"] == whole, "redoing all gives another piece"
    assert again["revision"] - undone == undone - made, "as many steps on as back"
    # A button that the pointer rests on may ask for a preview of what was just undone, and is told that it is gone.
    assert [c for c in hands.complaints() if "/adjust/preview" not in c] == []
