"""The parts drawer as a newcomer uses it: a lantern's shell is kept, used twice, changed and followed; a sleeve."""

import httpx
import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.test_drawing import drag_point, points


def typed(hands, **numbers):
    for label, text in numbers.items():
        hands.type(label.replace("_", " "), text)


def change(hands, name):
    hands.button("+ add")
    hands.find(f"//*[@role='menuitem'][b='{name}']").click()
    hands.settle()


def write(hands, label, text):
    box = hands.find(
        f"//form[contains(@class,'kept-form')]//label[contains(., '{label}')]//*[self::input or self::textarea]"
    )
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(text)


def keep(hands, name, tags, fixed=False):
    hands.chord("k", Keys.ALT)
    write(hands, "Name", name)
    write(hands, "Tags", tags)
    if fixed:
        hands.find(
            "//form[contains(@class,'kept-form')]//label[starts-with(normalize-space(.), 'fixed')]/input"
        ).click()
    hands.button("Keep it")
    hands.find("//p[starts-with(., 'A copy of') or starts-with(., 'A copy lies')]")
    hands.settle()


def mm3(hands):
    """The piece's volume, once it is counted."""
    piece = hands.browser.current_url.split("/pieces/")[1].split("/")[0]
    address = f"{hands.server.url}/api/pieces/{piece}"
    return hands.until(lambda: httpx.get(address).json()["scene"]["soundness"], "never counted")["volume_mm3"]


@pytest.fixture
def lantern(hands):
    """A drawn profile turned, a ring of windows cut out of it."""
    hands.new_piece()
    hands.put_down("Turned", "Drawn")
    hands.button("Draw its profile")
    hands.until(lambda: len(points(hands)) == 10, "the profile has not all its points")
    drag_point(hands, 2, (40, 0))
    hands.button("Done")
    hands.put_down("Cylinder")
    typed(hands, Radius="1.5", Height="30", about_x="90", Across="0", Away="-15", Base_at="9")
    hands.button("ring")
    hands.settle()
    hands.type("Count", "6")
    hands.button("Full turn")
    hands.settle()
    hands.pick("Turned", "Cylinder")
    hands.button("− Difference")
    hands.until(lambda: len(hands.lines()) == 3, "no windows were cut")
    hands.settle()
    assert hands.soundness() == "Sound"
    return hands


def test_the_shell_of_a_lantern_snail_is_kept_used_twice_changed_and_followed(lantern):
    hands = lantern
    shell = hands.lines()[0]
    hands.pick(shell)
    keep(hands, "Lantern shell", "sea, snail")
    assert hands.piece()["parts"][0]["drawer"]
    alone = mm3(hands)
    # It goes on to become a snail.
    hands.put_down("Ellipsoid")
    typed(hands, Across="0", Away="0", Base_at="-4")
    hands.pick("Ellipsoid", shell)
    hands.button("∪ Union")
    hands.until(lambda: hands.there("//h3[starts-with(., 'Blend')]"), "no blend in the card")
    hands.type("Radius", "0.8")
    hands.until(lambda: hands.soundness() == "Sound", hands.soundness())

    hands.new_piece()
    hands.put_down("Lantern shell", "My drawer")
    hands.put_down("Lantern shell", "My drawer")
    assert hands.figure("Bodies") == "2"
    assert mm3(hands) == pytest.approx(2 * alone, rel=1e-6)
    second = hands.piece()["parts"][1]["name"]
    change(hands, "Flatten")
    hands.until(lambda: hands.there("//p[contains(., 'It was changed here')]"), "not told that it was changed here")

    # In the drawer it is opened and changed; the piece follows where it was not changed.
    hands.find("//button[@role='tab' and .='My drawer']").click()
    hands.find("//a[normalize-space(.)='Open the drawer']").click()
    hands.find("//input[@type='search']").send_keys("snail shell")
    hands.find("//article[@aria-label='Lantern shell']//h2/a").click()
    hands.find("//nav[@aria-label='Stages']")
    hands.pick("Cylinder")
    hands.type("Radius", "2.5")
    ActionChains(hands.browser).send_keys(Keys.ESCAPE).perform()
    hands.pick("Cylinder")
    hands.chord(Keys.ESCAPE)
    fewer = mm3(hands)
    assert fewer < alone
    hands.find("//a[normalize-space(.)='Parts drawer /']").click()
    card = "//article[@aria-label='Lantern shell']"
    told = hands.find(f"{card}//p[contains(., 'Changed by itself')]").text
    assert "New piece" in told
    hands.find(f"{card}//button[starts-with(., 'Let them follow')]").click()
    hands.find(f"{card}//li[contains(., '1 copy followed')]")
    hands.browser.back()
    hands.browser.back()
    hands.browser.back()
    hands.find(f"//*[@role='treeitem'][.//span[normalize-space(.)='{second}']]")
    hands.settle()
    hands.until(lambda: mm3(hands) < alone + fewer, "the first copy did not follow")
    hands.pick(second)
    hands.button("As in the drawer again")
    hands.settle()
    hands.until(lambda: mm3(hands) == pytest.approx(2 * fewer, rel=1e-6), "the second copy did not follow")
    hands.chord("z", Keys.CONTROL)
    hands.until(lambda: mm3(hands) < 2 * fewer, "following cannot be undone")
    assert hands.complaints() == []


def test_a_part_of_fixed_size_and_favourites(hands):
    with httpx.Client(base_url=hands.server.url) as client:
        client.put("/api/preferences", json={}).raise_for_status()
        for card in client.get("/api/drawer").json():  # as the first try of this test left it
            client.delete(f"/api/pieces/{card['id']}")
    hands.open()
    hands.new_piece()
    hands.put_down("Cylinder")
    typed(hands, Radius="2.6", Height="3")
    keep(hands, "Magnet hole", "5 mm", fixed=True)
    hands.type("Radius", "4")
    hands.until(lambda: "fixed in the drawer" in hands.told(), "a fixed size is changed")
    hands.button("Free its size")
    hands.settle()
    hands.type("Radius", "4")
    assert hands.piece()["parts"][0]["primitive"]["radius"] == 4

    # A tile is starred with the pointer, another with a key; they come first among one's own.
    for label in ("Torus", "Egg"):
        tile = hands.find(f"//button[contains(@class,'tile') and contains(., '{label}')]")
        if label == "Egg":
            tile.send_keys("*")
        else:
            ActionChains(hands.browser).move_to_element(tile).perform()
            hands.find(f"//button[@aria-label='{label}: a favourite']").click()
        hands.find(f"//button[@aria-label='{label}: a favourite' and @aria-pressed='true']")
    hands.find("//button[@role='tab' and .='My drawer']").click()
    own = hands.until(lambda: hands.browser.find_elements(By.CSS_SELECTOR, ".tile"), "an empty drawer")
    assert [t.text for t in own[:2]] == ["Egg", "Torus"]
    assert any(t.text.endswith("Magnet hole") for t in own)
    # The finder finds by tag.
    ActionChains(hands.browser).send_keys("/").perform()
    hands.find("//input[@aria-label='What to find']").send_keys("5 mm", Keys.ENTER)
    hands.until(lambda: "Magnet hole" in hands.lines(), "the finder put nothing down")
    # Put away it harms nothing, and comes back.
    hands.open("/drawer")
    card = "//article[@aria-label='Magnet hole']"
    hands.find(f"{card}//button[@aria-label='More about Magnet hole']").click()
    hands.find(f"{card}//button[.='Put into the bin']").click()
    hands.until(lambda: not hands.there(card), "still in the drawer")
    hands.button("Take it back")
    hands.find(card)
    for label in ("Egg", "Torus"):
        hands.find(f"//button[@aria-label='{label}: no favourite any more']").click()
    hands.until(lambda: not hands.there("//section[@aria-label='Favourites']//li"), "favourites stay")


def test_a_sleeve_along_a_raised_arm_is_hollowed_from_the_cuff_and_laced_by_a_chain(hands):
    hands.new_piece()
    hands.put_down("Limb", "Drawn")
    arm = hands.piece()["parts"][0]["primitive"]
    # The sleeve is the arm once more, thicker, and shorter at the hand.
    hands.chord("d", Keys.CONTROL)
    for n, radius in enumerate(arm["radii"], 1):
        hands.type(f"Point {n} radius", f"{radius}+3")
    last = len(arm["points"])
    hands.find(f"//button[@aria-label='Take point {last} out']").click()
    hands.settle()
    sleeve = hands.lines()[-1]
    full = hands.figure("Volume")
    change(hands, "Hollow")
    hands.type("Wall", "1.2")
    hands.choose("//li[@aria-label='Hollow']//select", "top")
    hands.settle()
    hands.until(lambda: hands.figure("Volume") != full, "the sleeve is not hollow")
    # A lace: beads along the sleeve's own path.
    hands.put_down("Sphere")
    hands.type("Radius", "1")
    hands.button("path")
    hands.settle()
    hands.choose("//select[starts-with(@id,'follow')]", sleeve)
    hands.settle()
    lace = hands.piece()["parts"][-1]["copies"]
    assert lace["kind"] == "path" and len(lace["points"]) == last - 1
    assert hands.complaints() == []
