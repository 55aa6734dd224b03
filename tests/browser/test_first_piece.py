"""The first evening: two primitives, sized and placed, one cut out of the other, read, and exported."""

import math

import pytest
import trimesh
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


def test_from_a_primitive_to_a_printable_file(hands):
    hands.new_piece()
    assert hands.soundness() == "Empty"
    hands.put_down("Sphere")
    hands.type("Radius", "5+5")
    assert (hands.read("Wide"), hands.read("High")) == (20, 20)
    assert hands.read("Base at") == 0
    hands.put_down("Cylinder")
    assert hands.figure("Bodies") == "2", "a new primitive never lands inside another"
    hands.type("Radius", "3")
    hands.type("High", "4cm")
    hands.type("Across", "0")
    hands.type("Away", "0")
    hands.type("Base at", "-10")
    hands.type("about y", "90")
    assert hands.read("Base at") == pytest.approx(7)
    hands.pick("Sphere", "Cylinder")
    hands.until(lambda: "overlapping by" in hands.note(), "the note says nothing of the overlap")
    difference = hands.find("//button[contains(@class,'join-op') and contains(., 'Difference')]")
    ActionChains(hands.browser).move_to_element(difference).perform()
    hands.until(lambda: "pass right through" in hands.note(), "the note does not say that it passes through")
    difference.click()
    hands.until(lambda: hands.lines() == ["Sphere cut", "Sphere", "Cylinder"], "the parts were not joined")
    hands.settle()
    assert hands.soundness() == "Sound"
    assert hands.figure("Bodies") == "1"

    mesh = trimesh.load(hands.download("STL"))
    assert mesh.is_watertight
    assert mesh.body_count == 1
    # A sphere bored through to height h leaves πh³/6; here h = 2·√(10² − 3²). Facet error of 64 sides: under 1%.
    truth = math.pi * (2 * math.sqrt(91)) ** 3 / 6
    assert mesh.volume == pytest.approx(truth, rel=0.01)
    assert mesh.volume < truth

    hands.browser.refresh()
    hands.until(lambda: hands.lines() == ["Sphere cut", "Sphere", "Cylinder"], "the piece is not there after a reload")
    hands.settle()
    hands.chord("z", Keys.CONTROL)
    hands.until(lambda: hands.lines() == ["Sphere", "Cylinder"], "undo does not work after a reload")
    hands.chord("y", Keys.CONTROL)
    hands.until(lambda: hands.lines() == ["Sphere cut", "Sphere", "Cylinder"], "redo does not work after a reload")
    assert hands.complaints() == []


def test_dragging_and_nudging_a_part(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    across, away = hands.read("Across"), hands.read("Away")
    hands.drag((0, 10), (120, 0))
    hands.until(lambda: hands.read("Across") != across, "the drag did not move it")
    assert hands.read("Across") > across
    assert hands.read("Base at") == 0
    assert hands.read("Across") == int(hands.read("Across"))
    hands.browser.find_element(By.XPATH, "//h2[.='Recipe']").click()
    start = [hands.read(n) for n in ("Across", "Away", "Base at")]
    hands.keys(Keys.ARROW_RIGHT)
    hands.keys(Keys.ARROW_UP)
    hands.chord(Keys.PAGE_UP, Keys.SHIFT)
    moved = [hands.read(n) - s for n, s in zip(("Across", "Away", "Base at"), start, strict=True)]
    assert moved == pytest.approx([1, 1, 0.1])
    for _ in range(4):
        hands.chord("z", Keys.CONTROL)
    hands.until(lambda: (hands.read("Across"), hands.read("Away")) == (across, away), "undo did not bring it back")


def test_dropping_from_the_tray_and_picking_in_the_view(hands):
    hands.new_piece()
    tile = hands.find("//button[contains(@class,'tile') and contains(., 'Dome')]")
    canvas = hands.canvas()
    chain = ActionChains(hands.browser).click_and_hold(tile)
    chain.move_to_element_with_offset(canvas, -40, 40).move_to_element_with_offset(canvas, 0, 200).release().perform()
    hands.until(lambda: hands.lines() == ["Dome"], "nothing was dropped")
    hands.settle()
    assert hands.read("Away") < 0, "it lands where the pointer is, before the middle"
    hands.still()
    ActionChains(hands.browser).move_to_element_with_offset(canvas, 330, 200).click().perform()
    hands.until(lambda: hands.there("//div[.='nothing is picked']"), "a click beside does not let go")
    ActionChains(hands.browser).move_to_element_with_offset(canvas, 0, 170).click().perform()
    hands.until(lambda: hands.there("//aside//button[.='Dome']"), "a click in the view does not pick")


def test_wrong_numbers_are_told_beside_the_field_and_change_nothing(hands):
    hands.new_piece()
    hands.put_down("Tube")
    box = hands.field("Wall")
    for text, words in (("abc", "where a number should be"), ("1/0", "divides by zero"), ("0", "at least 0.001")):
        box.send_keys(Keys.CONTROL, "a")
        box.send_keys(text, Keys.ENTER)
        hands.until(lambda words=words: words in hands.find("//div[@class='wrong']").text, f"no word of {words}")
    box.send_keys(Keys.ESCAPE)
    assert hands.read("Wall") == 3
    hands.type("Wall", "12")
    hands.until(lambda: "below the radius" in hands.find("//div[@role='alert']").text, "the refusal is not shown")
    assert hands.read("Wall") == 3


def test_copy_paste_duplicate_delete_and_the_empty_result(hands):
    hands.new_piece()
    hands.put_down("Box", "Straight")
    hands.browser.execute_script("localStorage.setItem('noble-clay-parts', 'rubbish')")
    hands.chord("v", Keys.CONTROL)
    hands.until(lambda: "cannot be read" in hands.find("//div[@role='alert']").text, "pasting rubbish is not told")
    hands.chord("c", Keys.CONTROL)
    hands.chord("v", Keys.CONTROL)
    hands.until(lambda: hands.lines() == ["Box", "Box 2"], "paste did nothing")
    hands.chord("d", Keys.CONTROL)
    hands.until(lambda: len(hands.lines()) == 3, "duplicate did nothing")
    hands.keys(Keys.DELETE)
    hands.until(lambda: len(hands.lines()) == 2, "delete did nothing")
    hands.chord("a", Keys.CONTROL)
    hands.find("//button[contains(@class,'join-op') and contains(., 'Difference')]").click()
    hands.until(lambda: hands.soundness() == "Nothing is left", "an empty result is not told")
    hands.button("Undo the last step")
    hands.until(lambda: hands.soundness() == "Sound", "undo did not bring the parts back")


def test_glaze_and_ways_of_looking(hands):
    hands.new_piece()
    hands.put_down("Egg")
    hands.find("//button[@aria-label='Celadon']").click()
    hands.settle()
    hands.until(lambda: hands.there("//button[@aria-label='Celadon' and @aria-pressed='true']"), "the glaze is not on")
    pictures = set()
    for word in ("Result", "Parts", "X-ray"):
        hands.button(word)
        hands.still()
        pictures.add(hands.canvas().screenshot_as_png)
    hands.find("//*[@aria-label='Look from the top']").click()
    hands.button("parallel")
    hands.still()
    pictures.add(hands.canvas().screenshot_as_png)
    assert len(pictures) >= 3
    assert hands.complaints() == []
