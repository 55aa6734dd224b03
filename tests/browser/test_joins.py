"""Joins seen before they are taken, cutting with room, blends, hollows and other shape changes."""

import io
import math

import pytest
from PIL import Image
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


@pytest.fixture
def friend(hands):
    """A head, and a beak that goes into it from the front."""
    hands.new_piece()
    hands.put_down("Sphere")
    hands.put_down("Box", "Straight")
    for label, text in (
        ("Wide", "6"),
        ("Deep", "20"),
        ("High", "6"),
        ("Across", "0"),
        ("Away", "-8"),
        ("Base at", "9"),
    ):
        hands.type(label, text)
    return hands


def hover(hands, word):
    button = hands.find(f"//button[contains(@class,'join-op') and contains(., '{word}')]")
    ActionChains(hands.browser).move_to_element(button).perform()
    hands.until(
        lambda: hands.there(f"//*[@data-testid='drag-note'][starts-with(., '{word}: this is how')]"),
        f"{word} is not shown",
    )


def pixels(hands):
    """The view as it is drawn now."""
    hands.still()
    return hands.canvas().screenshot_as_base64


def away(hands):
    """Take the pointer off the join bar, to where nothing is shown."""
    ActionChains(hands.browser).move_to_element(hands.find("//section[contains(@class,'tray')] | //nav")).perform()
    hands.until(lambda: not hands.there("//*[@data-testid='drag-note']"), "the preview stays")


def test_every_join_is_seen_before_it_is_taken_and_says_what_it_does(friend):
    friend.pick("Sphere", "Box")
    before = friend.figure("Volume")
    plain = pixels(friend)
    told = {}
    for word in ("Union", "Difference", "Intersection", "Split"):
        hover(friend, word)
        friend.until(lambda: pixels(friend) != plain, f"{word} looks like nothing")
        told[word] = friend.note()
        away(friend)
    assert "would add" in told["Union"] and "one body" in told["Union"]
    assert "would take out" in told["Difference"] and "mm inside" in told["Difference"]
    assert "would leave" in told["Intersection"]
    assert "outside" in told["Split"] and "inside" in told["Split"]
    assert friend.figure("Volume") == before, "looking changes nothing"
    assert friend.lines() == ["Sphere", "Box"]
    friend.button("÷ Split")
    friend.until(lambda: {"Sphere outside", "Sphere inside"} <= set(friend.lines()), "not split")
    assert friend.figure("Bodies") == "1", "the two sides meet"
    friend.chord("z", Keys.CONTROL)
    friend.until(lambda: friend.lines() == ["Sphere", "Box"], "the split is not undone")


def test_a_split_that_misses_is_refused_in_words(friend):
    friend.pick("Box")
    friend.type("Away", "-60")
    friend.pick("Sphere", "Box")
    friend.button("÷ Split")
    friend.until(lambda: "the split misses Sphere" in friend.told(), "nothing is said")
    assert friend.lines() == ["Sphere", "Box"]


def test_a_mouth_is_cut_with_room_for_what_goes_into_it(friend):
    friend.pick("Sphere", "Box")
    friend.type("Room", "0.5")
    friend.button("Cut with room")
    friend.until(lambda: friend.figure("Bodies") == "2", "the beak does not stand free")
    friend.find("//*[@role='treeitem'][.//span[normalize-space(.)='Sphere cut']]").click()
    assert friend.lines()[0] == "Sphere cut"
    friend.chord("z", Keys.CONTROL)
    friend.until(lambda: friend.figure("Bodies") == "1", "not undone")


def test_limbs_are_blended_to_a_body_and_the_whole_is_hollowed(friend):
    friend.put_down("Capsule", "Round")
    for label, text in (("Across", "9"), ("Away", "0"), ("Base at", "2")):
        friend.type(label, text)
    friend.button("twin")
    friend.settle()
    friend.pick("Sphere", "Capsule", "Box")
    friend.button("∪ Union")
    friend.until(lambda: friend.there("//h3[starts-with(., 'Blend')]"), "no blend in the card")
    sharp = friend.figure("Triangles")
    friend.type("Radius", "1.5")
    friend.until(lambda: friend.figure("Triangles") != sharp, "the blend changes nothing")
    assert friend.soundness() == "Sound"
    # One part of it enters sharply, until its own radius is left out again.
    soft = friend.figure("Triangles")
    friend.pick("Box")
    friend.type("Blend", "0")
    friend.until(lambda: friend.figure("Triangles") != soft, "its own radius changes nothing")
    friend.type("Blend", Keys.DELETE)
    friend.until(lambda: friend.figure("Triangles") == soft, "the list's radius does not come back")
    friend.chord("z", Keys.CONTROL)
    friend.until(lambda: friend.figure("Triangles") != soft, "undoing does not bring its own radius back")
    friend.chord("y", Keys.CONTROL)
    friend.pick("Sphere + 2")
    friend.type("Radius", "90")
    friend.until(lambda: "blend must be at most" in friend.told(), "a radius beyond the parts is not refused")
    friend.button("+ add")
    friend.find("//*[@role='menuitem'][b='Hollow']").click()
    friend.settle()
    friend.type("Wall", "1.2")
    friend.until(lambda: "hollow" in friend.soundness() or friend.soundness() == "Sound", friend.soundness())
    solid = friend.figure("Volume")
    friend.find("//li[@aria-label='Hollow']//input[@type='checkbox']").click()
    friend.settle()
    friend.until(lambda: friend.figure("Volume") != solid, "switching it off changes nothing")
    friend.find("//li[@aria-label='Hollow']//input[@type='checkbox']").click()
    friend.settle()
    friend.until(lambda: friend.figure("Volume") == solid, "switching it on again changes something")
    friend.type("Wall", "40")
    friend.until(lambda: "wall 40 mm is too thick" in friend.told(), "a wall too thick is not refused")
    friend.button("Section")
    friend.find("//section[@aria-label='Section']//button[.='from above']").click()
    before = pixels(friend)
    friend.type("z at", "8")
    friend.until(lambda: pixels(friend) != before, "the section does not move")
    friend.keys("1")
    for _ in range(2):
        friend.find("//button[contains(@aria-label,'Take Hollow off') or contains(., 'Bake')]").click()
        friend.settle()
    friend.until(lambda: friend.there("//div[contains(@class,'quiet') and starts-with(., 'Mesh')]"), "not baked")
    friend.chord("z", Keys.CONTROL)
    friend.until(lambda: "Capsule" in friend.lines(), "undo does not bring the recipe back")


def test_changes_are_reordered_and_their_handles_draw_them(friend):
    friend.pick("Box")
    for name in ("Taper", "Flatten"):
        friend.button("+ add")
        friend.find(f"//*[@role='menuitem'][b='{name}']").click()
        friend.settle()
        friend.find(f"//li[@aria-label='{name}']")
    friend.find("//button[@aria-label='Flatten earlier']").click()
    friend.settle()
    heads = "//section//li | //div[contains(@class,'changes')]//li"
    friend.until(
        lambda: (
            [e.get_attribute("aria-label") for e in friend.browser.find_elements("xpath", heads)]
            == ["Flatten", "Taper"]
        ),
        "not reordered",
    )
    depth = friend.read("Depth")
    friend.pull("The flattened side", (0, -40))
    friend.until(lambda: friend.read("Depth") > depth, "the handle does nothing")


def test_roundness_is_given_in_mm_and_taken_from_the_body(friend):
    friend.put_down("Cylinder", "Round")
    friend.type("Off by", "0.5")
    friend.until(lambda: friend.read("Sides") < 20, "the sides do not follow")
    friend.button("Follow Sphere")
    friend.until(lambda: friend.read("Sides") > 20, "it does not follow the body")


def test_a_section_is_capped_and_its_cut_face_measured(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.type("Radius", "12")
    hands.button("Section")
    face = "//*[@data-testid='cut-face']"
    hands.find("//section[@aria-label='Section']//button[.='from above']").click()
    hands.type("z at", "12")
    # Around its middle a ball of 64 sides is a regular polygon.
    area, outline = 64 / 2 * 12**2 * math.sin(2 * math.pi / 64), 64 * 2 * 12 * math.sin(math.pi / 64)
    said = f"Cut face {area:.2f} mm², outline {outline:.2f} mm"
    hands.until(lambda: hands.find(face).text == said, f"not {said}: {hands.find(face).text}")
    hands.type("z at", "30")
    hands.until(lambda: hands.find(face).text == "Nothing is cut here", "above it there is nothing to cut")
    hands.button("along a face")
    ActionChains(hands.browser).move_to_element(hands.canvas()).click().perform()
    hands.until(lambda: -0.51 < hands.read("from it") < -0.49, "a little in from the face")
    hands.until(lambda: "Cut face" in hands.find(face).text, "cut along the face")


def test_pulled_apart_and_counted(friend):
    friend.pick("Sphere", "Box")
    friend.chord("g", Keys.CONTROL)
    friend.put_down("Cone")
    friend.keys(Keys.ESCAPE, "5")

    def numbers():
        found = friend.browser.find_elements(By.XPATH, "//div[contains(@class,'apart-number')]")
        return sorted(number.text for number in found)

    friend.until(lambda: numbers() == ["1", "2"], "not a number for each line")
    assert "2 lines" in friend.find("//section[@aria-label='Pulled apart']").text
    apart = pixels(friend)
    friend.find("//input[@aria-label='How far it is pulled apart']").send_keys(Keys.HOME)
    friend.until(lambda: pixels(friend) != apart, "not drawn nearer together")
    friend.pick("Group")
    friend.find("//h2[.='Recipe']").click()
    friend.keys(Keys.ENTER)
    friend.until(lambda: numbers() == ["1.1", "1.2", "2"], "a group that was gone into is not opened")
    friend.keys(Keys.ESCAPE)
    friend.until(lambda: numbers() == ["1", "2"], "nor closed")
    assert [p["name"] for p in friend.piece()["parts"]] == ["Group", "Cone"], "looking changes nothing"


def figure_seen(hands):
    """The middle of the view, where no button lies over it."""
    hands.still()
    image = Image.open(io.BytesIO(hands.canvas().screenshot_as_png)).convert("RGB")
    wide, high = image.size
    return image.crop((wide // 4, high // 3, 3 * wide // 4, 2 * high // 3)).tobytes()


def test_the_surface_as_clay_wires_and_bands(friend):
    friend.keys(Keys.ESCAPE)
    seen = [figure_seen(friend)]
    for chord, word in (("2", "Grey clay"), ("3", "Wireframe"), ("4", "Smoothness")):
        friend.chord(chord, Keys.ALT)
        friend.find(f"//div[@class='looks-row']//button[starts-with(normalize-space(.), '{word}')]")
        seen.append(figure_seen(friend))
    assert len(set(seen)) == 4, "each is drawn in its own way"
    friend.find("//div[@class='looks-row']//button[starts-with(normalize-space(.), 'Smoothness')]").click()
    friend.find("//div[contains(@class,'dropdown-menu')]//button[starts-with(., 'As glazed')]").click()
    friend.until(lambda: figure_seen(friend) == seen[0], "not as it was")


def test_any_glaze_by_its_number_and_a_part_seen_through(friend):
    def part():
        return friend.piece()["parts"][0]

    friend.pick("Sphere")
    friend.type("As a number", "36c")
    friend.until(lambda: part().get("colour") == "#3366cc", "not glazed")
    friend.pick("Box")
    friend.find("//button[@aria-label='#3366cc']").click()
    friend.until(lambda: friend.piece()["parts"][1].get("colour") == "#3366cc", "not taken from the other part")
    friend.type("As a number", "blue")
    assert friend.find("//*[@id='glaze-wrong']").text == "six digits, as #c7a384"
    friend.keys(Keys.ESCAPE)
    friend.pick("Sphere")
    clay = figure_seen(friend)
    friend.type("Glass, %", "60")
    friend.until(lambda: part().get("opacity") == pytest.approx(0.4), "not kept")
    friend.until(lambda: figure_seen(friend) != clay, "not seen through")
    friend.type("Glass, %", "101")
    assert friend.there("//*[@role='alert'][.='at most 100']"), "more than all"
    assert part().get("opacity") == pytest.approx(0.4)
    friend.find("//button[@aria-label='Undo']").click()
    friend.until(lambda: figure_seen(friend) == clay, "not as it was")
