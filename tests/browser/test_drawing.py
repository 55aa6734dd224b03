"""Drawing with the hand: a profile that is turned, an outline drawn freehand, a limb bent in the view."""

import math

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By


def points(hands):
    return hands.browser.find_elements(By.CSS_SELECTOR, ".sheet [data-point]")


def sheet(hands):
    return hands.find("//*[@aria-label='Drawing']")


def drag_point(hands, number, way):
    """Drag a point of the sheet by so many px."""
    chain = ActionChains(hands.browser, duration=20).move_to_element(points(hands)[number]).click_and_hold()
    for _ in range(6):
        chain.move_by_offset(way[0] / 6, way[1] / 6).pause(0.03)
    chain.release().perform()
    hands.settle()


def stroke(hands, spots):
    """Draw over the sheet through spots, px from its middle."""
    chain = (
        ActionChains(hands.browser, duration=15).move_to_element_with_offset(sheet(hands), *spots[0]).click_and_hold()
    )
    for (x, y), (u, v) in zip(spots, spots[1:], strict=False):
        chain.move_by_offset(u - x, v - y)
    chain.release().perform()
    hands.settle()


@pytest.fixture
def vase(hands):
    hands.new_piece()
    hands.put_down("Turned", "Drawn")
    hands.button("Draw its profile")
    hands.until(lambda: len(points(hands)) == 10, "the profile has not all its points")
    return hands


def test_a_profile_is_drawn_and_the_solid_follows(vase):
    before, stood = vase.figure("Volume"), vase.read("Base at")
    drag_point(vase, 2, (45, 0))
    wide = vase.read("From the axis")
    assert wide > 12 and wide == int(wide), "by the grid"
    assert vase.read("Wide") == pytest.approx(2 * wide)
    assert vase.figure("Volume") != before
    assert vase.read("Base at") == stood, "what was not moved stays where it is"

    vase.type("From the axis", "7.5*2")
    vase.until(lambda: vase.read("Wide") == 30, "the width does not follow")
    vase.button("Corner")
    vase.settle()
    form = vase.piece()["parts"][0]["primitive"]
    assert form["smooth"] and 2 not in form["sharp"] and len(form["sharp"]) == 9
    assert vase.soundness() == "Sound"

    # Point by point back, and on again.
    for _ in range(3):
        vase.find("//button[@aria-label='Undo' or starts-with(@title,'Undo')]").click()
        vase.settle()
    vase.until(lambda: vase.figure("Volume") == before, "three steps back are not where it began")
    assert len(points(vase)) == 10


def test_a_profile_that_cannot_be_turned_is_told_and_not_lost_by_a_reload(vase):
    kept = vase.piece()
    # The outside of the wall is carried through its inside.
    drag_point(vase, 2, (-150, 0))
    told = vase.find("//section[contains(@class,'board')]//*[@role='alert']").text
    assert "cross" in told and vase.piece() == kept
    drawn = [p.rect for p in points(vase)]
    vase.browser.refresh()
    vase.find("//*[@role='treeitem']//span[normalize-space(.)='Turned']").click()
    vase.button("Draw its profile")
    told = vase.find("//section[contains(@class,'board')]//*[@role='alert']").text
    assert "not taken yet" in told
    assert len(points(vase)) == len(drawn)
    vase.button("Back to what the piece has")
    vase.until(lambda: not vase.there("//section[contains(@class,'board')]//*[@role='alert']"), "still told")
    drag_point(vase, 2, (45, 0))
    assert vase.read("Wide") > 24


def test_an_outline_is_drawn_freehand_reopened_and_given_a_hole(hands):
    hands.new_piece()
    hands.put_down("Outline", "Drawn")
    hands.button("Draw its outline")
    hands.until(lambda: len(points(hands)) == 3, "the outline has not all its points")
    hands.button("Rub out")
    first = points(hands)[0]
    ActionChains(hands.browser).move_to_element(first).click_and_hold().release().perform()
    hands.settle()
    hands.until(lambda: len(points(hands)) == 2, "the point is still there")
    # A ring around what is there makes that a hole.
    hands.button("Pencil")
    turns = [math.radians(a) for a in range(0, 352, 8)]
    stroke(hands, [(round(170 * math.cos(a)), round(170 * math.sin(a))) for a in turns])
    loops = hands.until(lambda: len(points(hands)) > 6 and points(hands), "no stroke was taken")
    assert len(loops) - 2 < 24, "few points, though the hand made forty"
    form = hands.piece()["parts"][0]["primitive"]
    assert form["svg"].count("M") == 2 and "C" in form["svg"]
    assert hands.soundness() == "Sound"

    hands.button("Done")
    assert not hands.there("//*[@aria-label='Drawing']")
    hands.button("Draw its outline")
    hands.until(lambda: len(points(hands)) == len(loops), "not as it was left")
    before = hands.figure("Volume")
    hands.button("Move")
    drag_point(hands, 5, (25, 12))
    assert hands.figure("Volume") != before
    hands.button("+ circle")
    hands.until(lambda: hands.piece()["parts"][0]["primitive"]["svg"].count("M") == 3, "no third loop")


def test_a_stretch_becomes_an_arc_and_what_stands_around_is_seen(hands):
    hands.new_piece()
    hands.put_down("Box", "Straight")
    hands.put_down("Outline", "Drawn")
    hands.button("Draw its outline")
    hands.find("//*[@data-testid='around']")
    before = hands.figure("Volume")
    hands.button("+ square")
    hands.settle()
    square = len(points(hands)) - 4
    points(hands)[square].click()
    hands.settle()
    hands.type("Arc", "2")
    hands.until(lambda: hands.figure("Volume") != before, "no arc")
    assert "C" in hands.piece()["parts"][1]["primitive"]["svg"]
    assert hands.soundness() in ("Sound", "2 bodies")


def test_a_limb_is_bent_thickened_and_lengthened_in_the_view(hands):
    hands.new_piece()
    hands.put_down("Limb", "Drawn")
    hands.still()
    hands.button("Draw it in the view")
    before = hands.piece()["parts"][0]
    hands.pull("Point 4 of the limb", (60, 0))
    bent = hands.piece()["parts"][0]
    assert bent["primitive"]["points"][:3] == before["primitive"]["points"][:3]
    assert bent["primitive"]["points"][3] != before["primitive"]["points"][3]
    hands.still()
    hands.pull("How thick the limb is at point 1", (40, 0))
    assert hands.piece()["parts"][0]["primitive"]["radii"][0] > 5
    hands.still()
    hands.grip("One more point at the end").click()
    hands.settle()
    limb = hands.piece()["parts"][0]["primitive"]
    assert len(limb["points"]) == len(limb["radii"]) == 5
    assert hands.soundness() == "Sound"
    hands.find("//label[contains(., 'its mirror image too')]/input").click()
    hands.settle()
    assert hands.piece()["parts"][0]["copies"]["kind"] == "twin"
    hands.find("//button[@aria-label='Take point 2 out']").click()
    hands.settle()
    assert len(hands.piece()["parts"][0]["primitive"]["points"]) == 4
    assert hands.complaints() == []


def test_a_chain_of_beads_is_laid_along_a_limb_and_varied(hands):
    hands.new_piece()
    hands.put_down("Limb", "Drawn")
    hands.put_down("Sphere")
    hands.type("Radius", "6")
    hands.button("path")
    hands.settle()
    hands.choose("//select[starts-with(@id,'follow')]", "Limb")
    hands.settle()
    limb, bead = hands.piece()["parts"]
    drawn = limb["primitive"]["points"]
    steps = [[b - a for a, b in zip(drawn[0], p, strict=True)] for p in drawn]
    laid = bead["copies"]["points"]
    for found, wanted in zip(laid, steps, strict=True):
        assert [b - a for a, b in zip(laid[0], found, strict=True)] == pytest.approx(wanted, abs=1e-3)
    assert bead["copies"]["turn"]
    before = hands.figure("Volume")
    hands.button("Vary them")
    hands.type("Size", "0.5")
    assert hands.piece()["parts"][1]["copies"]["vary"]["size"] == 0.5
    hands.until(lambda: hands.figure("Volume") != before, "all beads are alike")


def test_a_preset_is_put_down_opened_and_changed(hands):
    hands.new_piece()
    hands.put_down("Tree", "Presets")
    assert hands.soundness() == "Sound"
    assert hands.lines()[:2] == ["Tree", "Trunk"]
    before = hands.figure("Volume")
    hands.pick("Leaves")
    hands.type("Seed", "11")
    hands.until(lambda: hands.figure("Volume") != before, "the same crown")
