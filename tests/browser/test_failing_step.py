"""A step that cannot be made, one that takes long, a piece that cannot be read: told on the page, never a dead end."""

import time

import pytest
from selenium.webdriver.common.by import By

from tests.building import box, part, soft_worm
from tests.web.conftest import Maker
from tests.web.test_unreadable import far, spoil

OWN_SERVER = True


@pytest.fixture
def maker(server):
    with server.client() as client:
        yield Maker(client)


def address(maker, stage="make"):
    return f"/pieces/{maker.state['id']}/{stage}"


def pill(hands):
    return hands.find("//*[@data-testid='soundness']").text.split("\n")[-1].strip()


def test_a_step_that_cannot_be_made_is_told_on_its_line_undone_and_the_next_is_made(hands, maker):
    maker.edit(kind="add_parts", parts=[part("cup", "cylinder", (0, 0, 8), radius=9, height=16, facets=32)])
    maker.edit(kind="set_changes", id="cup", stack=[{"kind": "hollow", "wall": 4}])
    hands.open(address(maker))
    hands.pick("Cylinder")
    hands.settle()
    assert pill(hands) == "Sound"
    hands.type("High", "7")  # a wall of 4 mm above and below leaves nothing inside
    hands.find("//b[.='Kept, but it cannot be made.']")
    line = hands.find("//*[@role='treeitem'][contains(., 'cannot be made')]")
    assert "Cylinder" in line.text
    assert "too thick" in hands.find("//div[contains(@class,'notice')]").text
    assert pill(hands) == "Cannot be made"
    hands.find("//div[contains(@class,'notice')]//button[starts-with(., 'Undo')]").click()
    hands.settle()
    assert pill(hands) == "Sound"
    assert not hands.there("//*[contains(., 'cannot be made')][@role='treeitem']")
    hands.pick("Cylinder")
    hands.type("High", "20")
    assert hands.read("High") == 20 and pill(hands) == "Sound"


def test_while_one_piece_is_being_made_it_says_how_far_and_another_window_works_on(hands, maker, server):
    maker.edit(kind="add_parts", parts=[box("base", (0, -30, 3), (6, 6, 6))])
    maker.post({"kind": "add_parts", "parts": [soft_worm(100)]}).raise_for_status()
    hands.open(address(maker))
    hands.find("//b[.='Still being made.']")
    share = lambda: float(hands.find("//div[contains(@class,'notice')]/progress").get_attribute("value"))  # noqa: E731
    first = share()
    hands.until(lambda: share() > first, "it does not say how far it is", 30)

    # Another piece, in a second window, meanwhile.
    long_window = hands.browser.current_window_handle
    hands.browser.switch_to.new_window("window")
    hands.new_piece()
    hands.put_down("Sphere")
    started = time.monotonic()
    hands.type("Across", "14")
    assert time.monotonic() - started < 20
    assert pill(hands) == "Sound"
    hands.browser.close()
    hands.browser.switch_to.window(long_window)

    # Stopped: told, and tried again when the maker says so; undo brings the piece back at once.
    hands.find("//div[contains(@class,'notice')]//button[.='Stop']").click()
    hands.until(lambda: "stopped" in hands.find("//div[contains(@class,'notice')]").text, "it is not stopped")
    hands.find("//div[contains(@class,'notice')]//button[.='Try again']").click()
    hands.find("//b[.='Still being made.']")
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: pill(hands) == "Sound", "undo waits for what is being made", 10)
    assert not hands.there("//*[@role='treeitem'][contains(., 'Worm')]")


def test_a_piece_that_cannot_be_read_is_a_card_that_says_so_and_goes_back(hands, maker):
    maker.edit(kind="set_piece", name="Old lantern")
    maker.edit(kind="add_parts", parts=[box("a", size=(9, 9, 9))])
    maker.edit(kind="move", ids=["a"], by=[2, 0, 0])
    spoil(maker.state["id"], far)
    hands.open()
    card = hands.find("//article[@aria-label='Old lantern']")
    assert "Cannot be read" in card.text
    assert hands.browser.find_elements(By.XPATH, "//article[@aria-label='Fiddler crab']"), "others are untouched"
    hands.find("//article[@aria-label='Old lantern']//h2/a").click()
    hands.find("//h1[.='Old lantern cannot be read']")
    hands.find("//a[.='Download it as it is']")
    hands.find("//button[starts-with(., 'Go back to the last state')]").click()
    hands.find("//*[@role='treeitem']")
    hands.settle()
    assert pill(hands) == "Sound"
