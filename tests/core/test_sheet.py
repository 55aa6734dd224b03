"""The making-of sheet: its pictures show what is in front, its words say every number, its files hold all of it."""

import io
import re

import numpy as np
import pytest
from PIL import Image

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.core.sheet.page import sheet_page
from noble_clay.core.sheet.pdf import sheet_pdf
from noble_clay.core.sheet.picture import PAPER, picture
from noble_clay.core.sheet.sheet import numbered, sheet_of
from noble_clay.core.sheet.words import change_words, form_words, glaze_word, place_words
from tests.building import box, join, part, piece
from tests.damage import primitive, together

RED, BLUE = (200, 40, 30), (30, 60, 200)


def pixels(png):
    return np.asarray(Image.open(io.BytesIO(png)))


def of_colour(image, colour):
    """Where the picture has about this hue."""
    here = image.astype(float) / np.maximum(image.max(axis=2, keepdims=True), 1)
    wanted = np.array(colour) / max(colour)
    return np.abs(here - wanted).max(axis=2) < 0.08


def test_what_is_in_front_hides_what_is_behind():
    ball = primitive("sphere", radius=10, facets=64)
    front = type(ball)(0.5 * ball.vertices + [0, -30, 15], ball.triangles)  # nearer to the eye, on one line with it
    both = together(ball, front)
    colours = np.repeat([RED, BLUE], len(ball.triangles), axis=0).astype(np.uint8)
    image = pixels(picture(both, colours, 200, 200))
    assert of_colour(image, BLUE).sum() > 1000
    swapped = together(front, ball)
    again = pixels(picture(swapped, colours[::-1], 200, 200))
    np.testing.assert_array_equal(image, again, "in whatever order they come")


def test_a_picture_is_filled_and_round_things_are_round():
    image = pixels(picture(primitive("sphere", radius=3, facets=96), np.array(RED, dtype=np.uint8), 300, 200))
    drawn = np.any(image != PAPER, axis=2)
    rows, columns = np.flatnonzero(drawn.any(axis=1)), np.flatnonzero(drawn.any(axis=0))
    assert len(rows) == pytest.approx(200 * 0.88, abs=3)
    assert len(columns) == pytest.approx(len(rows), abs=3)
    assert drawn.sum() == pytest.approx(np.pi / 4 * len(rows) ** 2, rel=0.02)


def one(**fields):
    return piece_from_values(
        {"format": "noble-clay-piece", "version": 1, "name": "x", "parts": [part("a", **fields)]}
    ).parts[0]


def test_words_tell_numbers_places_copies_and_changes():
    slab = one(kind="box", at=(1, -2.5, 0.1), turn=(0, 90, 0), size=[40, 12.25, 3])
    assert form_words(slab) == "Box: size 40 × 12.25 × 3 mm"
    assert place_words(slab) == "at 1, -2.5, 0.1 mm, turned 0, 90, 0°"
    limb = one(kind="capsule", radius=4, length=38, _copies={"kind": "ring", "count": 8, "axis": "z", "angle": 45})
    assert "count 8" in place_words(limb)
    assert "45°" in place_words(limb)
    bent = one(kind="cylinder", radius=4, height=38, _changes=[{"kind": "twist", "axis": "z", "angle": 30}])
    assert change_words(bent)[0].startswith("Twist")
    assert "30°" in change_words(bent)[0]
    assert (glaze_word("#C9683F"), glaze_word("#123456")) == ("Copper", "#123456")


@pytest.mark.parametrize("kind", PRIMITIVES)
def test_every_form_can_be_told(kind):
    said = form_words(one(kind=kind, **PRIMITIVES[kind].sample))
    assert said.startswith(PRIMITIVES[kind].label)
    assert "None" not in said


MADE = piece(
    join(
        "claw", part("palm", "sphere", radius=8, _name="Palm <b>"), box("bite", (0, 0, 6), (3, 20, 9), op="difference")
    ),
    box("base", (0, 0, -10), (30, 20, 6), _colour="#123456"),
    name="Claw & base",
)


def test_a_sheet_has_every_line_in_order_with_its_picture():
    sheet = sheet_of(MADE, Evaluator(), [("Printer", "Workbench")])
    assert [(s.number, s.op) for s in sheet.steps] == [("1", "adds"), ("1.1", "adds"), ("1.2", "cuts"), ("2", "adds")]
    assert [n for n, _ in numbered(MADE.parts)] == ["1", "1.1", "1.2", "2"]
    assert sheet.steps[3].size == "30 × 20 × 6 mm"
    page = sheet_page(sheet)
    assert page.count("data:image/png;base64,") == 5
    assert "Palm &lt;b&gt;" in page
    assert "<b>1.1. Palm <b>" not in page
    assert "a glaze of its own" in page


def test_the_pdf_holds_the_same_words():
    data = sheet_pdf(sheet_of(MADE, Evaluator(), [("Layers", "125 of 0.2 mm")]))
    assert data.startswith(b"%PDF-")
    assert data.rstrip().endswith(b"%%EOF")
    assert len(re.findall(rb"/Subtype\s*/Image", data)) >= 4
