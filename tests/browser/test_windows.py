"""Two windows on one piece stay in step, and the order of gestures holds across the stages."""

import pytest
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def two(hands):
    """The piece in a second window; gives the handles of both."""
    hands.new_piece()
    hands.put_down("Sphere")
    first, url = hands.browser.current_window_handle, hands.browser.current_url
    hands.browser.switch_to.new_window("tab")
    hands.browser.get(url)
    hands.find("//*[@role='treeitem']")
    yield first, hands.browser.current_window_handle
    hands.browser.close()
    hands.browser.switch_to.window(first)


def test_what_one_window_does_the_other_shows(hands, two):
    first, second = two
    assert hands.lines() == ["Sphere"]
    hands.browser.switch_to.window(first)
    hands.put_down("Cone")
    hands.browser.switch_to.window(second)
    hands.until(lambda: hands.lines() == ["Sphere", "Cone"], "the other window never shows it")
    hands.find("//button[starts-with(normalize-space(.), 'Elsewhere: Put down Cone')]")
    hands.pick("Cone")
    hands.type("Height", "31")
    gone = "//button[starts-with(normalize-space(.), 'Elsewhere')]"
    hands.until(lambda: not hands.there(gone), "told until this window does something itself")
    hands.browser.switch_to.window(first)
    hands.pick("Cone")
    hands.until(lambda: hands.read("Height") == 31, "nor the other way round")
    hands.chord("z", Keys.CONTROL)
    hands.browser.switch_to.window(second)
    hands.until(lambda: hands.read("Height") != 31, "a step back is shown too")


def test_a_gesture_begun_in_make_is_kept_before_one_of_mend(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.find("//button[contains(@class,'tile') and contains(., 'Cone')]").click()
    hands.find("//nav[@aria-label='Stages']//a[.='Mend']").click()
    hands.find("//main[contains(@class,'mend')]")
    hands.find("//button[@aria-label='Undo']").click()
    hands.find("//nav[@aria-label='Stages']//a[.='Make']").click()
    hands.settle()
    hands.until(lambda: hands.lines() == ["Sphere"], "the cone was put down, then taken back")


def test_all_stages_share_one_canvas_and_the_camera_stays_where_a_hand_left_it(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.browser.execute_script("window.first = document.querySelector('canvas')")
    hands.drag((0, -200), (120, 40))
    hands.still()
    distance = hands.canvas().get_attribute("data-distance")
    for stage in ("Mend", "Make", "Mend"):
        hands.find(f"//nav[@aria-label='Stages']//a[.='{stage}']").click()
        hands.find(f"//nav[@aria-label='Stages']//a[.='{stage}'][contains(@class,'active')]")
        hands.still()
        assert hands.browser.execute_script("return document.querySelector('canvas') === window.first")
        assert hands.canvas().get_attribute("data-distance") == distance
    hands.new_piece()
    assert hands.browser.execute_script("return document.querySelectorAll('canvas').length") == 1
