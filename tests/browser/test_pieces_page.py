"""The first page: cards with pictures, rename, duplicate, the bin, opening files."""

from selenium.common.exceptions import ElementNotInteractableException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from noble_clay.core.formats.pieces import piece_json
from noble_clay.core.formats.stl import stl_bytes
from tests.building import box, part, piece
from tests.damage import primitive

OWN_SERVER = True


def names(hands):
    return [e.text for e in hands.browser.find_elements(By.XPATH, "//article//h2")]


def menu(hands, name, item):
    """Open a card's menu and choose; a card that is drawn anew meanwhile shuts its menu, then once more."""
    shown = f"//*[contains(@class,'dropdown-menu') and contains(@class,'show')]//*[normalize-space(.)='{item}']"

    def chosen():
        items = hands.browser.find_elements(By.XPATH, shown)
        try:
            if items:
                items[0].click()
                return True
            more = hands.find(f"//article[@aria-label='{name}']//button[contains(@aria-label,'More about')]")
            if more.get_attribute("aria-expanded") != "true":
                more.click()
        except ElementNotInteractableException:
            pass
        hands.frames(20)
        return False

    hands.until(chosen, f"{item} cannot be chosen")


def test_cards_have_pictures_and_say_what_is_sound(hands):
    hands.open()
    hands.find("//article[@aria-label='Fiddler crab']//img", 150)
    loaded = "return [...document.querySelectorAll('article img')].every(i => i.complete && i.naturalWidth > 40)"
    hands.until(lambda: hands.browser.execute_script(loaded), "the pictures do not load", 60)
    card = "//article[@aria-label='Fiddler crab']"
    hands.until(lambda: "Sound" in hands.find(card).text, "it is never counted", 60)


def test_rename_duplicate_bin_and_back(hands):
    hands.open()
    menu(hands, "Fiddler crab", "Duplicate")
    hands.find("//article[@aria-label='Fiddler crab again']")
    menu(hands, "Fiddler crab again", "Rename")
    box_ = hands.find("//input[@aria-label='New name']")
    box_.send_keys(Keys.CONTROL, "a")
    box_.send_keys("Second fiddle", Keys.ENTER)
    hands.find("//article[@aria-label='Second fiddle']")
    menu(hands, "Second fiddle", "Put into the bin")
    hands.until(lambda: "Second fiddle" not in names(hands), "it is still on the shelf")
    hands.find("//button[starts-with(normalize-space(.),'Bin')]").click()
    hands.button("Take back")
    hands.button("Back to the pieces")
    hands.find("//article[@aria-label='Second fiddle']")
    search = hands.find("//input[@type='search']")
    search.send_keys("second")
    hands.until(lambda: names(hands) == ["Second fiddle"], "the search does not find it")


def test_opening_a_piece_file_good_and_bad(hands, tmp_path):
    good, bad = tmp_path / "good.clay.json", tmp_path / "bad.clay.json"
    document = piece(
        box("a", size=(10, 10, 10)), part("b", "cylinder", radius=2, height=20, op="difference"), name="From a file"
    )
    good.write_bytes(piece_json(document))
    bad.write_bytes(piece_json(document).replace(b'"radius": 2.0', b'"radius": -2.0'))
    hands.open()
    chooser = hands.find("//input[@aria-label='Piece file']")
    chooser.send_keys(str(bad))
    hands.until(lambda: "primitive.radius" in hands.find("//div[@role='alert']").text, "the refusal names no field")
    hands.button("All right")
    hands.find("//input[@aria-label='Piece file']").send_keys(str(good))
    hands.until(lambda: hands.lines() == ["Box", "Cylinder"], "the piece did not open")
    hands.until(lambda: hands.soundness() == "Sound", "it is not told to be sound")


def test_a_mesh_is_brought_in_as_a_piece_of_its_own(hands, tmp_path):
    (tmp_path / "sea urchin.stl").write_bytes(stl_bytes(primitive("sphere", radius=9, facets=24), "m"))
    hands.open()
    hands.find("//input[@aria-label='Mesh file']").send_keys(str(tmp_path / "sea urchin.stl"))
    hands.find("//button[contains(@class,'unit-choice') and contains(., 'millimetres')]", 40).click()
    hands.until(lambda: hands.soundness() == "Sound", "it did not become a part")
    assert hands.there("//header//*[normalize-space(.)='sea urchin']"), "the piece is not named after the file"
