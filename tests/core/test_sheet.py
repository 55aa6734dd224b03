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
from noble_clay.core.sheet.turntable import MOVING, Turning, moving, turned_once
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


def of_half(colours):
    """A ball, red to the left and blue to the right of the middle."""
    ball = primitive("sphere", radius=10, facets=64)
    left = ball.vertices[ball.triangles].mean(axis=1)[:, 0] < 0
    return ball, np.where(left[:, None], *np.array(colours, dtype=np.uint8)[:, None, :])


def test_a_turn_goes_once_around_in_one_frame():
    ball, colours = of_half((RED, BLUE))
    away = type(ball)(ball.vertices + [300, -80, 5], ball.triangles)
    told = []
    turn = [np.asarray(p) for p in turned_once(away, colours, Turning(pictures=8, width=160), told.append)]
    assert len(turn) == 8 and all(p.shape == (120, 160, 3) for p in turn)
    assert told == sorted(told) and told[0] == 0
    reds = [of_colour(p, RED).sum() for p in turn]
    seen = [(np.abs(p.astype(int) - PAPER).max(axis=2) > 30) for p in turn]
    assert len({s.sum() // 100 for s in seen}) <= 2, "a ball is as large from every side"
    assert max(reds) > 5 * (min(reds) + 1), "now the red half is in front, now the blue one"
    opposite = [reds[n] + reds[(n + 4) % 8] for n in range(8)]
    assert max(opposite) < 1.2 * min(opposite), "what is seen from one side is hidden from the other"


@pytest.mark.parametrize("kind", MOVING)
def test_a_moving_picture_has_every_picture_and_its_time(kind):
    ball, colours = of_half((RED, BLUE))
    pictures = turned_once(ball, colours, Turning(pictures=10, width=80))
    file = Image.open(io.BytesIO(moving(pictures, 3.0, kind)))
    assert file.format == kind.upper() and file.n_frames == 10 and file.size == (80, 60)
    assert file.info["loop"] == 0
    file.seek(4)
    file.load()
    assert file.info["duration"] == 300
    shown = np.asarray(file.convert("RGB")).astype(int)
    assert np.abs(shown - np.asarray(pictures[4])).mean() < 6
