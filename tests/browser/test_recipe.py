"""The recipe and the keyboard: order and nesting, finding, marks, copies, the finder, and the maker's own keys."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def three(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.put_down("Box", "Straight")
    hands.put_down("Cone")
    return hands


def line(hands, name):
    return hands.find(f"//*[@role='treeitem'][.//span[normalize-space(.)='{name}']]")


def find_and_run(hands, text):
    """With the command finder, as by keyboard."""
    hands.browser.find_element(By.XPATH, "//h2[.='Recipe']").click()
    ActionChains(hands.browser).send_keys("/").perform()
    hands.find("//div[@class='finder']//input").send_keys(text, Keys.ENTER)
    hands.settle()


def drag_line(hands, name, onto, dy):
    """Drag a line of the recipe to `dy` px from the middle of another."""
    chain = ActionChains(hands.browser, duration=50).click_and_hold(line(hands, name))
    for _ in range(5):
        chain.move_by_offset(1, 3).pause(0.1)
    chain.move_to_element_with_offset(line(hands, onto), 0, dy)
    for side in (3, -3, 3, -3):
        chain.move_by_offset(side, 0).pause(0.15)
    chain.release().perform()


def to_preferences(hands):
    ActionChains(hands.browser).key_down(Keys.CONTROL).send_keys(",").key_up(Keys.CONTROL).perform()
    hands.find("//section[@aria-label='Shortcuts']")


def test_lines_are_reordered_and_nested_by_mouse(three):
    three.pick("Box", "Cone")
    three.chord("g", Keys.CONTROL)
    three.until(lambda: three.lines() == ["Sphere", "Group", "Box", "Cone"], "not grouped")
    drag_line(three, "Sphere", "Group", 0)
    three.until(lambda: three.lines() == ["Group", "Box", "Cone", "Sphere"], f"not nested: {three.lines()}")
    three.settle()
    drag_line(three, "Cone", "Box", -9)
    three.until(lambda: three.lines() == ["Group", "Cone", "Box", "Sphere"], f"not reordered: {three.lines()}")


def test_lines_are_moved_by_keyboard_and_a_join_never_into_itself(three):
    line(three, "Cone").click()
    line(three, "Cone").send_keys(Keys.ALT, Keys.ARROW_UP)
    three.until(lambda: three.lines() == ["Sphere", "Cone", "Box"], "not moved up")
    three.settle()
    line(three, "Cone").send_keys(Keys.ALT, Keys.ARROW_DOWN)
    three.until(lambda: three.lines() == ["Sphere", "Box", "Cone"], "not moved down")
    three.settle()
    three.pick("Sphere", "Box")
    three.chord("g", Keys.CONTROL)
    three.until(lambda: three.lines() == ["Group", "Sphere", "Box", "Cone"], "not grouped")
    line(three, "Cone").send_keys(Keys.ALT, Keys.ARROW_RIGHT)
    three.until(lambda: three.there("//*[@role='treeitem'][@aria-level='2'][.//span[.='Cone']]"), "not taken in")
    three.settle()
    line(three, "Cone").send_keys(Keys.ALT, Keys.ARROW_LEFT)
    three.until(lambda: three.there("//*[@role='treeitem'][@aria-level='1'][.//span[.='Cone']]"), "not taken out")
    three.settle()
    drag_line(three, "Group", "Box", -4)
    three.until(lambda: "cannot go into itself" in three.told(), "dropping a join into itself is not refused")
    assert three.lines() == ["Group", "Sphere", "Box", "Cone"]


def test_what_is_odd_is_marked_and_mended_by_a_click(three):
    three.until(lambda: "floats" in line(three, "Cone").text, "a floating part is not marked")
    three.pick("Cone")
    button = three.find("//div[contains(@class,'odd')]//button")
    assert button.text.startswith("Bring it to")
    button.click()
    three.settle()
    three.until(lambda: "floats" not in line(three, "Cone").text, "the mark stays")
    assert three.figure("Bodies") == "2"


def test_deleting_the_body_of_a_cut_says_what_is_the_body_now(three):
    three.pick("Sphere", "Box", "Cone")
    three.find("//button[contains(@class,'join-op') and contains(., 'Difference')]").click()
    three.until(lambda: len(three.lines()) == 4, "not joined")
    three.settle()
    three.pick("Sphere")
    three.keys(Keys.DELETE)
    three.until(lambda: "Box is now the body" in three.told(), "the new body is not named")
    three.chord("z", Keys.CONTROL)
    three.until(lambda: "Sphere" in three.lines(), "undo does not bring the body back")


def test_lock_hide_solo_and_reference(three):
    three.pick("Box")
    three.chord("l", Keys.ALT)
    assert not three.field("Wide").is_enabled()
    three.browser.find_element(By.XPATH, "//h2[.='Recipe']").click()
    three.keys(Keys.ARROW_RIGHT)
    three.until(lambda: "locked" in three.told(), "a locked part moves")
    three.chord("l", Keys.ALT)
    three.until(lambda: three.field("Wide").is_enabled(), "not unlocked")
    three.keys("h")
    three.until(lambda: three.there("//button[@aria-label='Show Box']"), "not hidden")
    assert three.figure("Bodies") == "3", "a hidden part counts"
    three.keys("h")
    three.keys("r")
    three.until(lambda: three.figure("Bodies") == "2", "a reference counts")
    three.keys("r")
    three.until(lambda: three.figure("Bodies") == "3", "it is not part of the piece again")
    three.keys("o")
    three.still()
    alone = three.canvas().screenshot_as_png
    three.button("Solo · show all")
    three.still()
    assert three.canvas().screenshot_as_png != alone


def test_finding_by_name_and_by_glaze(three):
    for label in ("Torus", "Egg", "Dome", "Tube"):
        three.put_down(label)
    three.pick("Egg")
    three.find("//button[@aria-label='Cobalt']").click()
    three.settle()
    box = three.find("//input[@aria-label='Find parts by name']")
    box.send_keys("o")
    assert three.lines() == ["Box", "Cone", "Torus", "Dome"]
    three.button("Pick these")
    three.until(lambda: three.there("//h2[.='4 parts']"), "those found are not picked")
    box.send_keys(Keys.ESCAPE)
    glaze = three.find("//select[@aria-label='Find parts by glaze']")
    glaze.send_keys("Cobalt")
    three.until(lambda: three.lines() == ["Egg"], "not found by its glaze")


def test_copies_of_every_kind_are_begun_changed_and_broken_apart(three):
    three.pick("Cone")
    for kind, label, text in (
        ("row", "Step x", "25"),
        ("ring", "Rise", "3"),
        ("grid", "Layers", "2"),
        ("path", "Point 2 y", "30"),
        ("twin", "Plane at", "-4"),
    ):
        three.button(kind)
        three.settle()
        three.type(label, text)
        assert three.read(label) == float(text)

        def told(kind=kind):
            text = line(three, "Cone").text
            return kind in text or "copies apart" in text

        three.until(told, f"the line says nothing of the {kind}")
    three.button("row")
    three.settle()
    step = three.read("Step x")
    three.pull("The next copy of the row", (60, 10))
    three.until(lambda: three.read("Step x") > step, "the grip of the row does nothing")
    three.button("Break apart")
    three.settle()
    three.until(lambda: three.lines() == ["Sphere", "Box", "Cone 1", "Cone 2", "Cone 3"], "not broken apart")
    three.chord("z", Keys.CONTROL)
    three.until(lambda: three.lines() == ["Sphere", "Box", "Cone"], "undo does not join the copies again")


def test_everything_by_the_finder(three):
    find_and_run(three, "torus")
    three.until(lambda: "Torus" in three.lines(), "a primitive is not found by name")
    three.type("Base at", "7")
    find_and_run(three, "set down")
    three.until(lambda: three.read("Base at") == 0, "a command is not found by name")
    find_and_run(three, "centre on")
    three.until(lambda: three.read("Across") == 0, "it is not centred")
    find_and_run(three, "mirror left")
    three.until(
        lambda: three.find("//button[@aria-label='Undo']").get_attribute("title").startswith("Undo: Mirrored"), ""
    )
    find_and_run(three, "copies twin")
    twin = "//fieldset[@aria-label='Copies']//button[.='twin' and @aria-pressed='true']"
    three.until(lambda: three.there(twin), "no twin")
    find_and_run(three, "nothing is called this")
    assert three.there("//p[contains(., 'Nothing is called that')]")


SET_DOWN = "//button[contains(@aria-label, 'shortcut of Set down')]"


def test_shortcuts_are_the_makers_own_and_conflicts_are_told(three):
    to_preferences(three)
    chord = three.find(SET_DOWN)
    assert chord.text == "V"
    chord.click()
    chord.send_keys("e")
    three.until(lambda: "is the shortcut of Seat on a face already" in three.told(), "the conflict is not told")
    three.button("Leave it")
    chord = three.find(SET_DOWN)
    chord.click()
    chord.send_keys(Keys.CONTROL, "j")
    three.until(lambda: chord.text == "Ctrl+J", "the new keys are not taken")
    three.browser.refresh()
    three.until(
        lambda: three.find(SET_DOWN).text == "Ctrl+J",
        "not kept on the server",
    )
    three.button("Back")
    three.pick("Cone")
    three.type("Base at", "7")
    three.browser.find_element(By.XPATH, "//h2[.='Recipe']").click()
    three.keys("v")
    assert three.read("Base at") == 7, "the old key still works"
    three.chord("j", Keys.CONTROL)
    three.until(lambda: three.read("Base at") == 0, "the new key does nothing")
    to_preferences(three)
    three.button("All shortcuts as at first")
    three.until(lambda: three.find(SET_DOWN).text == "V", "not as at first")


def test_what_is_copied_is_pasted_in_another_tab(three):
    three.pick("Sphere", "Cone")
    three.chord("c", Keys.CONTROL)
    first = three.browser.current_window_handle
    three.browser.switch_to.new_window("tab")
    try:
        three.new_piece()
        three.chord("v", Keys.CONTROL)
        three.until(lambda: three.lines() == ["Sphere", "Cone"], "nothing is pasted")
    finally:
        three.browser.close()
        three.browser.switch_to.window(first)
