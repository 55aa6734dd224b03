"""What a newcomer stumbled over once: names, words, shortcuts, and what lies over what."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from tools.frontend import FRONTEND

from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.mesh.mesh import Mesh
from tests.building import box, part
from tests.damage import primitive

AXE = FRONTEND / "node_modules/axe-core/axe.min.js"


@pytest.fixture
def api(server):
    with server.client() as client:
        yield client


def flaws(hands):
    """What axe-core finds on the page: rules with the elements that break them."""
    hands.browser.execute_script(AXE.read_text())
    asked = """
      const done = arguments[0];
      axe.run().then((r) => done(r.violations.map((v) => [v.id, v.nodes.map((n) => n.target.join(' '))])));"""
    return hands.browser.execute_async_script(asked)


def test_nothing_is_wrong_for_those_who_cannot_see_and_the_window_says_what_is_open(hands):
    hands.new_piece()
    name = hands.find("//header//button[contains(@class,'name')]").text
    assert name.startswith("New piece")
    hands.until(lambda: hands.browser.title == f"{name} · Make · Noble Clay", "the title does not tell the piece")
    hands.put_down("Sphere")
    hands.put_down("Cone")
    hands.pick("Sphere", "Cone")
    hands.until(lambda: "apart" in hands.note(), "the join bar does not come")
    assert flaws(hands) == []
    hands.keys(Keys.ESCAPE)
    for chord, shown in (("5", "Pulled apart"), ("4", "Section"), ("t", "Measure")):
        hands.keys(chord)
        hands.find(f"//section[@aria-label='{shown}']")
    hands.button("History")
    hands.find("//ol[@class='steps']//img")
    assert flaws(hands) == []
    hands.find("//nav[@class='stages']/a[.='Mend']").click()
    hands.until(lambda: hands.browser.title == f"{name} · Mend · Noble Clay", "the title does not tell the stage")
    hands.find("//*[@data-testid='recipe-plan']")
    assert flaws(hands) == []
    hands.find("//nav[@class='stages']/a[.='Print']").click()
    hands.until(lambda: hands.browser.title == f"{name} · Print · Noble Clay", "the title does not tell the stage")
    hands.find("//dt[.='Time']", 60)
    for look in ("Layers", "Walls", "Solid"):
        hands.button(look)
        assert flaws(hands) == []
    for path, title in (("/", "Pieces"), ("/preferences", "Preferences"), ("/jobs", "Long work")):
        hands.open(path)
        hands.find("//main")
        hands.until(lambda title=title: hands.browser.title == f"{title} · Noble Clay", f"no title on {path}")
        assert flaws(hands) == []


def test_parts_and_joins_are_told_apart_by_name(hands):
    hands.new_piece()
    for label in ("Sphere", "Sphere", "Cone"):
        hands.put_down(label)
    assert hands.lines() == ["Sphere", "Sphere 2", "Cone"]
    hands.pick("Sphere 2", "Cone")
    hands.find("//button[contains(@class,'join-op') and contains(., 'Union')]").click()
    hands.until(
        lambda: hands.lines() == ["Sphere", "Sphere 2 + Cone", "Sphere 2", "Cone"], "not called after its parts"
    )
    hands.pick("Sphere 2 + Cone", "Cone")
    hands.until(lambda: "Cone is a part of Sphere 2 + Cone already" in hands.note(), "it is told as something else")
    assert not hands.find("//button[contains(@class,'join-op') and contains(., 'Union')]").is_enabled()


def test_the_words_over_the_view_and_the_keys_are_ours(hands):
    hands.new_piece()
    hands.put_down("Box", "Straight")
    switch = hands.find("//fieldset[@aria-label='Projection']")
    assert [b.text for b in switch.find_elements(By.TAG_NAME, "button")] == ["perspective", "parallel"]
    right = hands.browser.execute_script("return document.querySelector('.stage').getBoundingClientRect().right")
    dial = hands.browser.find_elements(By.CSS_SELECTOR, ".dial text, .dial button")
    assert all(b.rect["x"] + b.rect["width"] <= right - 8 for b in dial), "a word of the dial is cut"
    hands.button("Pick ▾")
    hands.find("//button[contains(@class,'dropdown-item')][contains(., 'By a lasso')]").click()
    hands.find("//section[@aria-label='Pick by drawing']//b[.='Draw a line']")
    hands.keys(Keys.ESCAPE)
    hands.keys("j")
    hands.find("//section[@aria-label='Pick by drawing']//b[.='Draw a box']")
    hands.keys(Keys.ESCAPE)
    hands.pick("Box")
    hands.chord("l", Keys.ALT)
    hands.until(lambda: hands.there("//button[@aria-label='Unlock Box']"), "Alt+L does not lock")
    hands.chord("l", Keys.ALT)
    hands.until(lambda: hands.there("//button[@aria-label='Lock Box']"), "Alt+L does not unlock")
    hands.type("Base at", "7")
    hands.browser.find_element(By.XPATH, "//h2[.='Recipe']").click()
    hands.keys("v")
    hands.until(lambda: hands.read("Base at") == 0, "V does not set down")


def test_a_shortcut_that_somebody_gave_away_before_stays_theirs(hands, server):
    own = {"shortcuts": {"union": "Q", "work-on-face": "Ctrl+K"}}
    with server.client() as client:
        kept = client.get("/api/preferences").json()
        client.put("/api/preferences", json={**kept, **own}).raise_for_status()
        try:
            hands.open()
            hands.new_piece()
            hands.put_down("Box", "Straight")
            hands.put_down("Sphere")
            hands.pick("Box", "Sphere")
            hands.keys("q")
            hands.until(lambda: "Box + Sphere" in hands.lines(), "their own key does something else")
            hands.keys(Keys.ESCAPE)
            hands.chord("k", Keys.CONTROL)
            hands.find("//section[@aria-label='Wheel on a face']")
        finally:
            client.put("/api/preferences", json=kept).raise_for_status()
            hands.open()


def test_what_is_put_on_a_face_lands_beside_what_stands_there(hands):
    hands.new_piece()
    hands.put_down("Box", "Straight")
    for label, text in (("Wide", "90"), ("Deep", "90")):
        hands.type(label, text)
    hands.find("//*[@aria-label='Look from the top']").click()
    hands.keys(Keys.HOME)
    hands.still()
    hands.keys(Keys.ESCAPE)
    hands.keys("q")
    ActionChains(hands.browser).move_to_element_with_offset(hands.canvas(), 0, 20).click().perform()
    hands.until(lambda: hands.there("//button[contains(., 'The wheel lies on a face of Box')]"), "no face is taken")
    places = []
    for label in ("Cone", "Cone", "Cylinder"):
        hands.put_down(label)
        hands.until(lambda: hands.read("Base at") == 0, "it does not stand on the face")
        places.append(tuple(hands.place()[:2]))
    assert places[0] == (0, 0), "the first stands in the face's middle"
    assert len(set(places)) == 3, "one stands inside another"
    assert hands.figure("Bodies") == "1"
    hands.chord("q", Keys.SHIFT)
    hands.until(lambda: hands.read("Base at") == 20, "the wheel is not back down")


def test_of_copies_that_stand_apart_it_is_told_once_on_the_group(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.put_down("Box", "Straight")
    hands.type("Across", "10")
    hands.pick("Sphere", "Box")
    hands.chord("g", Keys.CONTROL)
    hands.until(lambda: hands.lines() == ["Group", "Sphere", "Box"], "not grouped")
    hands.button("row")
    hands.settle()
    hands.type("Step x", "80")
    marks = "//*[@role='treeitem']//span[contains(@class,'odd-mark')]"
    hands.until(lambda: hands.there(marks), "nothing is told")
    assert [m.text for m in hands.browser.find_elements(By.XPATH, marks)] == ["▲ copies apart"]
    assert "Group" in hands.find(f"{marks}/ancestor::*[@role='treeitem']").text


def test_what_is_framed_stands_below_the_buttons(hands):
    hands.new_piece()
    hands.put_down("Cylinder")
    hands.type("High", "200")
    hands.keys(Keys.HOME)
    hands.still()
    row = hands.find("//div[contains(@class,'view-buttons')]").rect
    top = hands.grip("Stretch the top").rect
    assert row["y"] + row["height"] <= top["y"] < hands.canvas().rect["y"] + 250
    assert hands.there("//button[normalize-space(.)='Pick ▾']")


@pytest.mark.parametrize(("size", "hole"), [(1_000.0, 0), (1_000.0, 30), (40.0, 0)])
def test_what_is_brought_in_is_in_sight(hands, tmp_path, size, hole):
    """Also what cannot count yet, because it is open."""
    ball = primitive("sphere", radius=size / 2, facets=24)
    (tmp_path / "float.stl").write_bytes(stl_bytes(Mesh(ball.vertices, ball.triangles[hole:]), "ball"))
    hands.new_piece()
    hands.put_down("Sphere")
    hands.find("//nav[@class='stages']/a[.='Mend']").click()
    hands.still()
    before = float(hands.canvas().get_attribute("data-distance"))
    hands.find("//input[@aria-label='Mesh file']").send_keys(str(tmp_path / "float.stl"))
    hands.find("//button[contains(@class,'unit-choice') and contains(., 'millimetres')]", 40).click()
    hands.until(lambda: not hands.there("//*[@data-testid='ask-unit']"), "it is not put on the wheel")

    def far():
        return float(hands.canvas().get_attribute("data-distance"))

    # A view of 30 degrees takes in half as much as it is far off.
    hands.until(lambda: far() > max(before, 1.7 * size), "it is not framed")
    hands.still()
    assert far() < 6 * size + 600


def test_what_is_found_many_times_alike_is_one_line_with_a_count(hands, api):
    copies = {"kind": "row", "count": 5, "step": [30, 0, 0]}
    tube = part("tube", "tube", (0, 0, 10), radius=8, wall=0.1, height=20, _copies=copies, _name="Reed")
    made = api.post("/api/pieces", json={"name": "Pan pipe"}).raise_for_status().json()
    edit = {"kind": "add_parts", "parts": [box("bar", (60, 0, 1), (150, 18, 2)), tube]}
    body = {"base_revision": made["revision"], "request_id": "pan-pipe-1", "edit": edit}
    api.post(f"/api/pieces/{made['id']}/edits", json=body).raise_for_status()
    hands.open(f"/pieces/{made['id']}/mend")
    steps = "//*[@data-testid='recipe-plan']//div[@class='recipe-step']"
    hands.until(lambda: hands.there(f"{steps}[contains(., 'In Reed')]"), "the thin walls are not found", 30)
    lines = [e.text for e in hands.browser.find_elements(By.XPATH, f"{steps}/span[1]")]
    assert lines.count("In Reed × 5") == 1 and len(lines) == len(set(lines))
    hands.find(f"{steps}//button[.='Thicken Reed']").click()
    hands.until(lambda: not hands.there(f"{steps}[contains(., 'In Reed')]"), "what mends one does not mend all", 30)
