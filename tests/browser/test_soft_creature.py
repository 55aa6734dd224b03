"""A creature of ten parts that run together, built, bent to one's liking and taken back, by pointer and keys."""

import pytest
from selenium.webdriver.common.keys import Keys

PARTS = [
    ("Egg", {"Wide": "26", "Deep": "26", "High": "34", "Across": "0", "Away": "0", "Base at": "6"}),
    ("Ellipsoid", {"Wide": "14", "Deep": "20", "High": "8", "Across": "8", "Away": "-4", "Base at": "0"}),
    (
        "Capsule",
        {"Wide": "8", "Deep": "8", "High": "24", "about y": "60", "Across": "16", "Away": "0", "Base at": "24"},
    ),
    ("Sphere", {"Radius": "10", "Across": "0", "Away": "0", "Base at": "36"}),
]
AGAIN = [
    ("Ellipsoid", {"Across": "-8"}),
    ("Capsule", {"about y": "-60", "Across": "-16"}),
    ("Sphere", {"Radius": "3", "Across": "0", "Away": "-10", "Base at": "42"}),
    ("Sphere 2", {"Radius": "2.5", "Across": "5", "Away": "-8", "Base at": "48"}),
    ("Sphere 3", {"Across": "-5"}),
    ("Sphere", {"Radius": "4", "Across": "7", "Away": "2", "Base at": "50"}),
]


def typed(hands, fields):
    for label, text in fields.items():
        hands.type(label, text)


@pytest.fixture
def creature(hands):
    hands.new_piece()
    for label, fields in PARTS:
        hands.put_down(label, "Round")
        typed(hands, fields)
    for name, fields in AGAIN:
        hands.pick(name)
        hands.chord("d", Keys.CONTROL)
        typed(hands, fields)
    hands.keys(Keys.ESCAPE)
    hands.chord("a", Keys.CONTROL)
    hands.chord("g", Keys.CONTROL)
    hands.until(lambda: "Group" in hands.lines(), "not grouped")
    hands.type("Radius", "2")
    hands.until(lambda: hands.soundness() == "Sound", "it does not run together", 60)
    return hands


def test_a_soft_creature(creature):
    hands = creature
    assert len(hands.lines()) == 11
    soft = hands.figure("Triangles")

    # An eye that sits in the face without melting.
    hands.pick("Sphere 3")
    hands.type("Blend", "0")
    hands.until(lambda: hands.figure("Triangles") != soft, "the eye is as soft as before")
    sharp = hands.figure("Triangles")

    # A limb is dragged, and the body follows it.
    hands.pick("Capsule")
    away = hands.place()
    said = hands.notes_while(lambda: hands.pull("Move up", (0, -40)))
    assert said, "nothing is told while it is dragged"
    hands.until(lambda: hands.place()[2] > away[2] + 1, "the limb stays")
    hands.until(lambda: hands.figure("Triangles") != sharp and hands.soundness() == "Sound", "the body does not follow")
    moved = hands.figure("Triangles")

    # Its radius is drawn out where its run begins.
    assert hands.field("Blend").get_attribute("value") == ""
    hands.pull("Blend", (40, -30))
    hands.until(lambda: hands.field("Blend").get_attribute("value") != "", "the handle does nothing")
    drawn = hands.read("Blend")
    assert drawn != 2
    hands.until(lambda: hands.figure("Triangles") != moved and hands.soundness() == "Sound", "the run is as it was")
    wide = hands.figure("Triangles")

    hands.chord("zzz", Keys.CONTROL)
    hands.until(lambda: hands.figure("Triangles") == soft, "undoing does not bring back what was")
    hands.chord("yyy", Keys.CONTROL)
    hands.until(lambda: hands.figure("Triangles") == wide, "redoing does not bring back what was made")
    hands.pick("Capsule")
    assert hands.read("Blend") == drawn
    assert hands.complaints() == []
