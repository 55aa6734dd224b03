"""Measuring in the view: between points that corners, edges and middles catch, kept until they are taken away."""

import math

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def block(hands):
    """A box of 41 x 23 x 17 on the wheel, looked at from the front right."""
    hands.new_piece()
    hands.put_down("Box", "Straight")
    for label, text in (("Wide", "41"), ("Deep", "23"), ("High", "17"), ("Across", "3"), ("Away", "-5")):
        hands.type(label, text)
    hands.keys(Keys.ESCAPE, Keys.HOME)
    hands.still()
    hands.keys("t")
    return hands


def click_at(hands, point, said):
    hands.point_at(*hands.pixel_of(point))
    spot = "//*[@data-testid='measured-spot']"
    hands.until(lambda: said in hands.find(spot).text, f"not {said!r} at {point}")
    ActionChains(hands.browser).click().perform()


def measured(hands):
    return [m.get_attribute("data-mm") for m in hands.browser.find_elements(By.CLASS_NAME, "measured")]


def label(hands, number=1):
    return hands.find(f"(//div[contains(@class,'measured')])[{number}]").text


def test_between_two_corners_exactly_and_kept_through_a_reload(block):
    left, right, front, back, top = 3 - 20.5, 3 + 20.5, -5 - 11.5, -5 + 11.5, 17
    click_at(block, (left, front, top), "corner, 17 mm over the floor")
    block.until(lambda: block.there("//button[.='Keep this point']"), "the first is not taken")
    click_at(block, (right, back, top), "corner, 17 mm over the floor")
    block.until(lambda: len(measured(block)) == 1, "not measured")
    assert float(measured(block)[0]) == pytest.approx(math.hypot(41, 23), abs=1e-6)
    block.browser.refresh()
    block.find("//*[@role='treeitem']")
    block.until(lambda: len(measured(block)) == 1, "not kept")
    assert "x, y, z: 41, 23, 0" in label(block)
    block.pick("Box")
    block.type("High", "30")
    block.until(lambda: "changed since" in label(block), "not told to be old")
    block.find("//button[@aria-label='Take this measure away']").click()
    block.until(lambda: measured(block) == [], "not taken away")


def test_a_point_tells_its_height_and_thickness_and_two_faces_their_angle(block):
    front, top = (12, -5 - 11.5, 6), (12, -2, 17)
    click_at(block, front, "surface")
    block.button("Keep this point")
    block.until(lambda: len(measured(block)) == 1, "not kept")
    assert "23 mm thick" in label(block)
    click_at(block, front, "surface")
    block.until(lambda: block.there("//button[.='Keep this point']"), "the first is not taken")
    click_at(block, top, "from surface")
    block.until(lambda: len(measured(block)) == 2, "not measured")
    assert "faces 90°" in label(block, 2)
    block.button("Take all away")
    block.until(lambda: measured(block) == [], "not taken away")
