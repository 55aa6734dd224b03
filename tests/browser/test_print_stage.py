"""Print as a newcomer meets it: a piece is looked over, laid another way, multiplied, gone through in layers, cut, and
taken out.
"""

import io
import math
import uuid
import zipfile

import httpx
import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mesh.inspect import inspect_mesh
from tests.building import box


def figures(hands):
    """The rehearsal's figures by their words, once they are there."""
    hands.find("//dt[.='Time']", 60)
    rows = hands.browser.find_elements(By.XPATH, "//aside[@aria-label='Rehearsal']//dl/div")
    return {row.find_element(By.TAG_NAME, "dt").text: row.find_element(By.TAG_NAME, "dd").text for row in rows}


def until_figure(hands, word, wanted):
    def told():
        return figures(hands).get(word) == wanted

    hands.until(told, f"{word} is not {wanted}", 60)


def lying(hands):
    return hands.find("//aside[@aria-label='On the bed']").text


def drawn(hands):
    """How many triangles the view drew last."""
    hands.still()
    return int(hands.canvas().get_attribute("data-triangles"))


def other_cube(hands):
    """A cube of 10 mm on the shelf, as an earlier evening left it."""
    with hands.server.client() as client:
        made = client.post("/api/pieces", json={"name": "Toy block"}).raise_for_status().json()
        edit = {"kind": "add_parts", "parts": [box("cube", (0, 0, 5), (10, 10, 10))]}
        body = {"base_revision": 0, "request_id": str(uuid.uuid4()), "edit": edit}
        client.post(f"/api/pieces/{made['id']}/edits", json=body).raise_for_status()


@pytest.fixture
def mushroom(hands):
    hands.new_piece()
    for name, wide, high, base in (("Cylinder", "12", "20", "0"), ("Cylinder", "40", "6", "19")):
        hands.put_down(name)
        for field, text in (("Wide", wide), ("Deep", wide), ("High", high), ("Across", "0"), ("Away", "0")):
            hands.type(field, text)
        hands.type("Base at", base)
    assert hands.soundness() == "Sound"
    hands.find("//nav//a[.='Print']").click()
    return hands


def test_a_mushroom_is_laid_on_its_head_multiplied_and_seen_in_layers(mushroom):
    hands = mushroom
    until_figure(hands, "Layers", "125")
    # What leans out is the cap's underside, less the stem.
    ring = math.pi * (20**2 - 6**2) / 100
    assert float(figures(hands)["Overhangs"].split()[0]) == pytest.approx(ring, abs=0.1)
    stem, cap = math.pi * 36 * 19, math.pi * 400 * 6
    high = (stem * 9.5 + cap * 22) / (stem + cap)
    tip = math.degrees(math.atan2(6, high))
    hands.until(lambda: f"Falls over past {tip:.0f}"[:19] in lying(hands), "it is not told how it stands")
    assert "40 × 40 × 25 mm" in lying(hands)

    hands.button("Ways to lie …")
    hands.find("//tr[@class='words'][contains(., 'least support')]/following-sibling::tr//button", 60).click()
    until_figure(hands, "Overhangs", "0 cm²")
    assert "40 × 40 × 25 mm" in lying(hands)
    for look, told in (("Overhangs", "level underside"), ("Walls", "0.4 mm or less")):
        hands.button(look)
        assert told in hands.find("//output[@aria-label='Scale of colours']").text
        hands.until(lambda: drawn(hands) > 1000, f"nothing is drawn of {look}")

    hands.button("Solid")
    alone = drawn(hands)
    hands.type("Copies", "9")
    hands.until(lambda: "for 9 copies" in hands.find("//aside[@aria-label='Rehearsal']").text, "nine are not told")
    hands.until(lambda: drawn(hands) > 5 * alone, "nine are not drawn")
    nine = drawn(hands)
    hands.type("Copies", "40")
    hands.until(lambda: "it takes 2 beds" in lying(hands), "it is not said that one bed has no room", 60)
    hands.until(lambda: drawn(hands) > 3 * nine, "those on the other bed are not drawn")
    hands.find("//button[.='Write all 2 beds']")
    hands.type("Copies", "1")
    hands.browser.refresh()
    hands.until(lambda: figures(hands)["Overhangs"] == "0 cm²", "how it lay is forgotten", 60)

    hands.button("Layers")
    slider = hands.find("//input[@aria-label='Layer']")
    slider.send_keys(Keys.HOME)
    hands.until(
        lambda: "Layer 1 of 125" in hands.find("//div[contains(@class,'layer-bar')]").text, "not the first layer"
    )
    slider.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    assert "Layer 3 of 125" in hands.find("//div[contains(@class,'layer-bar')]").text
    assert "0.6 mm" in hands.find("//div[contains(@class,'layer-bar')]").text
    hands.button("Play")
    hands.until(lambda: int(slider.get_attribute("value")) > 12, "the layers do not play", 30)
    hands.button("Pause")
    stopped = slider.get_attribute("value")
    hands.frames(30)
    assert slider.get_attribute("value") == stopped

    slider.send_keys(Keys.HOME)
    hands.button("Run it")
    hands.until(lambda: int(slider.get_attribute("value")) > 2, "the simulated print does not go on", 30)
    hands.button("Pause it")
    hands.until(lambda: "paused" in hands.find("//*[@data-testid='print-run']").text, "it does not pause")
    hands.button("Stop it")
    hands.until(lambda: "stopped" in hands.find("//*[@data-testid='print-run']").text, "it does not stop")


def test_what_is_too_large_is_told_cut_into_parts_and_taken_out(mushroom):
    hands = mushroom
    figures(hands)
    hands.choose("//select[../label[.='Printer']]", "Shelf")
    hands.until(lambda: "180 × 180 × 180 mm" in lying(hands), "the other printer is not there")
    hands.type("Height, mm", "200")
    hands.until(lambda: "too large for this printer" in lying(hands), "it is not said that it is too large", 60)
    hands.type("Layer, mm", "0.4")
    hands.until(lambda: "layer: at most 0.32 mm" in lying(hands), "no refusal")
    hands.type("Size, %", "100")

    hands.find("//summary[contains(., 'Cut into parts')]").click()
    hands.button("Add a plane")
    hands.find("//button[.='Cut it']")
    hands.choose("//select[../label[.='Plane 1']]", "level, z")
    hands.type("At, mm (1)", "400")
    hands.button("Cut it")
    refusal = hands.find("//details//p[@role='alert']", 60).text
    assert "cuts nothing off: along z this reaches from 0 to 25 mm" in refusal
    hands.type("At, mm (1)", "19+2")
    hands.button("Cut it")
    found = hands.find("//*[@data-testid='cut-parts']", 60)
    assert [e.text.split(" mm")[0] for e in found.find_elements(By.TAG_NAME, "li")][1] == "40 × 40 × 4"
    assert found.text.count("sound") == 2
    assert "0.2 to 0.2" in found.text
    assert "They go together." in found.text
    hands.until(lambda: drawn(hands) > 200, "the parts are not drawn")

    def taken(xpath):
        return httpx.get(hands.find(xpath).get_attribute("href")).raise_for_status()

    with zipfile.ZipFile(io.BytesIO(taken("//a[contains(., 'Take the parts out')]").content)) as archive:
        assert len(archive.namelist()) == 2
    for name in ("3MF", "STL", "OBJ and MTL", "PLY", "GLB"):
        file = taken(f"//aside[@aria-label='Rehearsal']//a[.='{name}']")
        assert len(file.content) > 1000
        assert "New-piece" in file.headers["content-disposition"]
    bodies = "//div[@data-testid='take-out']//select"
    hands.choose(bodies, "parts")
    ask = hands.find("//div[@data-testid='take-out']//a[.='STL']").click
    with zipfile.ZipFile(hands.arrived(ask, "no bodies arrived")) as archive:
        assert archive.namelist() == ["01-Cylinder.stl", "02-Cylinder-2.stl"]
    hands.choose(bodies, "glazes")
    hands.button("Divide it by glaze")
    hands.find("//div[@data-testid='take-out']//p[contains(., 'has one glaze')]", 60)

    hands.button("Write the sheet")
    hands.find("//a[.='Take out the PDF']", 60)
    assert taken("//a[.='Take out the PDF']").content.startswith(b"%PDF-")
    page = taken("//a[.='Read it as a page']").text
    assert "2. Cylinder 2" in page
    assert page.count("<img") == 3

    for label, text in (("Pictures", "8"), ("Wide, px", "64"), ("A turn, s", "2")):
        hands.type(label, text)
    hands.button("Turn it")
    hands.find("//a[.='Take out the GIF']", 60)
    turning = Image.open(io.BytesIO(taken("//a[.='Take out the WebP']").content))
    assert (turning.format, turning.size) == ("WEBP", (64, 48))
    hands.type("Pictures", "9")
    hands.find("//button[.='Turn it']")


def test_a_ball_falls_over_is_made_to_stand_and_printed_by_a_printer_of_ones_own(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.until(lambda: hands.figure("Stands") == "falls over", "it is not said that it falls over", 30)
    hands.find("//*[@data-testid='figures']//a[.='falls over']").click()
    assert "Falls over by itself" in hands.find("//div[@class='standing']", 30).text
    proposals = hands.find("//*[@data-testid='steadyings']", 60)
    hands.until(lambda: "off its foot" in proposals.text, "nothing is proposed")
    step = "//div[@class='recipe-step'][contains(., 'off its foot')]"
    hands.find(f"{step}/button[.='Try it']").click()
    hands.find("//output[starts-with(., 'Tried out')]", 30)
    hands.until(lambda: "Falls over past" in lying(hands), "it is not told how it would stand", 30)
    assert [p["name"] for p in hands.piece()["parts"]] == ["Sphere"], "nothing is changed"
    hands.find(f"{step}/button[.='Try it']").click()
    hands.until(lambda: "Falls over by itself" in lying(hands), "it is not as it was")
    hands.find(f"{step}/button[.='Do it']").click()
    hands.until(lambda: "Falls over past" in lying(hands), "it does not stand", 60)
    assert [p["name"] for p in hands.piece()["parts"]] == ["Sphere", "Flat foot"]
    hands.find("//button[@aria-label='Undo']").click()
    hands.until(lambda: "Falls over by itself" in lying(hands), "it cannot be undone", 60)

    hands.find("//a[.='Printers and filaments']").click()
    hands.find("//section[@aria-label='Printers']//button[.='Another like it']").click()
    try:
        hands.find("//section[@aria-label='Printers']//button[@aria-pressed='true' and .='Workbench 2']")
        hands.field("Wide, mm").click()
        hands.field("Wide, mm").send_keys(Keys.CONTROL, "a")
        hands.field("Wide, mm").send_keys("30cm", Keys.ENTER)
        hands.until(lambda: hands.field("Wide, mm").get_attribute("value") == "300", "the width is not kept")
        hands.button("Back")
        hands.choose("//select[../label[.='Printer']]", "Workbench 2")
        hands.until(lambda: "300 × 220 × 250 mm" in lying(hands), "the new printer is not there")
    finally:
        hands.open("/preferences")
        hands.find("//section[@aria-label='Printers']//button[.='Workbench 2']").click()
        hands.find("//section[@aria-label='Printers']//button[.='Remove']").click()
        gone = "//section[@aria-label='Printers']//button[.='Workbench 2']"
        hands.until(lambda: not hands.there(gone), "the printer is still there")


def test_another_piece_lies_beside_it_and_the_whole_bed_is_taken_out(mushroom):
    hands = mushroom
    other_cube(hands)
    hands.browser.refresh()
    until_figure(hands, "Layers", "125")
    hands.until(lambda: drawn(hands) > 400, "it is not drawn")
    alone = drawn(hands)
    hands.choose("//div[@data-testid='beside']//select", "Toy block")
    hands.until(lambda: drawn(hands) > alone, "it is not drawn")
    hands.type("Toy block", "200")
    hands.find("//div[@data-testid='beside'][contains(., 'find no room')]")
    hands.type("Toy block", "4")
    hands.until(lambda: not hands.there("//div[@data-testid='beside'][contains(., 'no room')]"), "four find room")
    assert "without what lies beside it" in hands.find("//aside[@aria-label='Rehearsal']").text
    hands.button("Write the whole bed")
    link = hands.find("//a[.='Bed as 3MF']", 60).get_attribute("href")
    whole = read_mesh(httpx.get(link).raise_for_status().content, "3mf").mesh
    assert inspect_mesh(whole).bodies == 5
    assert whole.bounds[1][2] == pytest.approx(25, abs=1e-4)
    hands.find("//button[@aria-label='Take Toy block off the bed']").click()
    hands.until(lambda: not hands.there("//button[@aria-label='Take Toy block off the bed']"), "it still lies there")
