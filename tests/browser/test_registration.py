"""A form, a shape change, a job and a writer that an extension registers, set by hand on the page as any other."""

import os

import pytest
from selenium.webdriver.common.keys import Keys

from tests.serving import serving

OWN_SERVER = True


@pytest.fixture(scope="module")
def server(own_database):
    os.environ["NOBLE_CLAY_EXTENSIONS"] = "tests.toy"
    try:
        with serving() as running:
            yield running
    finally:
        del os.environ["NOBLE_CLAY_EXTENSIONS"]


def choose(hands, label, word):
    hands.choose(f"//div[@class='field'][label[normalize-space(.)='{label}']]/select", word)
    hands.settle()


def primitive(hands):
    return hands.piece()["parts"][0]["primitive"]


def test_a_form_with_every_kind_of_field_is_put_down_set_and_undone(hands, tmp_path):
    hands.new_piece()
    hands.put_down("Gadget", family="Curious")
    hands.pick("Gadget")
    for label, text, field, value in (
        ("Gadget width", "1cm+2", "width", 12),
        ("Ribs", "5", "count", 5),
        ("Turned by", "30", "turn", 30),
        ("Reach y", "9", "step", [8, 9, 4]),
        ("Point 2 radius", "3", "spine", [[0, 0, 0, 1], [0, 0, 5, 3]]),
        ("Sides", "20", "facets", 20),
    ):
        hands.type(label, text)
        assert primitive(hands)[field] == value
    words = hands.field("Words on it")
    words.clear()
    words.send_keys("Tidepool\n")
    hands.settle()
    choose(hands, "Faces", "south")
    hands.find("//label[contains(., 'Open at the top')]/input").click()
    hands.settle()
    hands.button("cut flat")
    hands.settle()
    hands.type("Knob width", "4")
    drawing = tmp_path / "drawing.svg"
    drawing.write_text("<svg/>")
    hands.find("//input[@aria-label='Drawing: a file']").send_keys(str(drawing))
    hands.settle()
    found = primitive(hands)
    assert (found["words"], found["side"], found["open"], found["drawing"]) == ("Tidepool", "s", True, "<svg/>")
    assert found["knob"] == {"shape": "flat", "width": 4}
    hands.type("Ribs", "10")
    assert hands.find("//div[@class='wrong']").text == "at most 9", "bounds are those of the type"
    hands.keys(Keys.ESCAPE)
    for _ in range(12):
        hands.chord("z", Keys.CONTROL)
    assert primitive(hands)["width"] == 10 and primitive(hands)["words"] == "hello"


def test_a_shape_change_goes_by_either_of_two_fields_and_takes_a_form(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.pick("Sphere")
    hands.button("+ add")
    hands.find("//button[@role='menuitem'][contains(., 'Nudge')]").click()
    hands.settle()
    assert hands.read("Nudged by") == pytest.approx(2, rel=0.3)
    hands.button("by millimetres")
    hands.settle()
    assert hands.read("Nudges") == 3 and not hands.there("//label[.='Nudged by']")
    (change,) = hands.piece()["parts"][0]["changes"]
    assert (change.get("by"), change["times"]) == (None, 3)


def test_a_writer_stands_in_the_menu_of_exports(hands):
    hands.new_piece()
    hands.put_down("Sphere")
    hands.button("Export")
    entry = hands.find("//a[contains(@class,'dropdown-item')][contains(., 'its corners, a line each')]")
    assert entry.get_attribute("href").endswith("format=pts")
