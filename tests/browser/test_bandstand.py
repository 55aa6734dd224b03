"""The demo's scene, the whole band on its rock, in Print: arranged, looked over, rehearsed, cut for a small bed, and
taken out. What its parts are told of is tested with less of them (`test_print_stage`).
"""

import io
import zipfile

import httpx
import numpy as np
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mesh.inspect import inspect_mesh

LONG = 300
BED_MM = 180


def lying(hands):
    return hands.find("//aside[@aria-label='On the bed']").text


def rehearsal(hands):
    return hands.find("//aside[@aria-label='Rehearsal']").text


def taken(hands, xpath):
    link = hands.find(xpath, LONG).get_attribute("href")
    return httpx.get(link, timeout=LONG).raise_for_status()


@pytest.fixture
def rock(hands):
    """A copy of the scene in Print, on the bed of the small printer."""
    with hands.server.client() as client:
        scene = next(p for p in client.get("/api/pieces").json() if p["name"] == "Bandstand rock")
        copy = client.post(f"/api/pieces/{scene['id']}/duplicate").raise_for_status().json()
    hands.open(f"/pieces/{copy['id']}/print")
    hands.choose("//select[../label[.='Printer']]", "Shelf")
    hands.until(lambda: f"{BED_MM} × {BED_MM} × {BED_MM} mm" in lying(hands), "the other printer is not there")
    hands.find("//*[@data-testid='soundness'][contains(., 'Sound')]", LONG)
    return hands


def test_the_scene_is_laid_looked_over_rehearsed_cut_for_a_small_bed_and_taken_out(rock):
    hands = rock
    hands.until(lambda: "too large for this printer" in lying(hands), "it is not said that it is too large", LONG)
    # As a small one for a shelf it finds room whole, and a snail beside it.
    hands.type("Size, %", "50")
    hands.until(lambda: "too large" not in lying(hands), "half as large it does not fit", LONG)
    hands.choose("//div[@data-testid='beside']//select", "Lantern snail")
    hands.find("//button[@aria-label='Take Lantern snail off the bed']", LONG).click()
    hands.button("Ways to lie …")
    ways = hands.find("//table[@class='ways']", LONG).text
    assert "as it was made, least support" in ways and "strongest" in ways

    hands.find("//dt[.='Time']", LONG)
    assert " h " in rehearsal(hands)
    for look, told in (("Overhangs", "level underside"), ("Walls", "0.4 mm or less")):
        hands.button(look)
        assert told in hands.find("//output[@aria-label='Scale of colours']").text
    hands.find("//summary[contains(., 'islands')]").click()
    hands.find("//details[summary[contains(., 'islands')]]//button").click()
    hands.button("Layers")
    slider = hands.find("//input[@aria-label='Layer']")
    slider.send_keys(Keys.HOME)
    hands.until(lambda: "Layer 1 of" in hands.find("//div[contains(@class,'layer-bar')]").text, "not the first layer")
    hands.button("Run it")
    hands.until(lambda: int(slider.get_attribute("value")) > 2, "the simulated print does not go on")
    hands.button("Stop it")
    hands.button("Solid")

    hands.find("//summary[contains(., 'Cut into parts')]").click()
    hands.button("Add a plane")
    hands.choose("//select[../label[.='Plane 1']]", "upright, x")
    hands.type("At, mm (1)", "0")
    hands.button("Cut it")
    found = hands.find("//*[@data-testid='cut-parts']", LONG)
    assert found.text.count("sound") == 2
    assert "They go together." in found.text
    assert "0.2 to 0.2" in found.text
    parts = taken(hands, "//a[contains(., 'Take the parts out')]")
    with zipfile.ZipFile(io.BytesIO(parts.content)) as archive:
        halves = [read_mesh(archive.read(name), name.rsplit(".", 1)[1]).mesh for name in archive.namelist()]
    assert len(halves) == 2
    for half in halves:
        assert inspect_mesh(half).sound
        assert np.ptp(half.vertices, axis=0).max() < BED_MM

    file = taken(hands, "//aside[@aria-label='Rehearsal']//a[.='3MF']")
    assert "Bandstand-rock" in file.headers["content-disposition"]
    told = inspect_mesh(read_mesh(file.content, "3mf").mesh)
    assert told.sound and told.bodies == 1
    assert hands.browser.find_elements(By.XPATH, "//*[@role='alert']") == []
    assert hands.complaints() == []
