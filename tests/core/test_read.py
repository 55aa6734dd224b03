"""Reading pieces: what is refused, and how the refusal names part, field, value and range."""

import copy
import json
import time

import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.piece.read import piece_from_json, piece_from_values
from tests.building import box, join, part, piece

SNAIL = {
    "format": "noble-clay-piece",
    "version": 1,
    "name": "Lantern snail",
    "parts": [
        join(
            "shell",
            part("whorl", "sphere", radius=14),
            part("window", "cylinder", (0, 0, 6), (90, 0, 0), "difference", radius=4, height=40, facets=48),
            colour="#c9683f",
        )
    ],
}


def window(document):
    return document["parts"][0]["join"]["parts"][1]


CASES = [
    (lambda w, d: w["primitive"].update(radius=-1), ["window", "radius", "at least 0.001", "-1"]),
    (lambda w, d: w["primitive"].update(radius=float("nan")), ["window", "radius", "finite"]),
    (lambda w, d: w["primitive"].update(radius="5"), ["window", "radius", "number"]),
    (lambda w, d: w["primitive"].update(radius=True), ["window", "radius", "number"]),
    (lambda w, d: w["primitive"].update(kind="blob"), ["window", "primitive", "unknown kind 'blob'", "sphere"]),
    (lambda w, d: w["primitive"].update(kind="tube", wall=9), ["window", "primitive.wall", "below the radius, 4", "9"]),
    (lambda w, d: w["primitive"].pop("height"), ["window", "height", "required"]),
    (lambda w, d: w.update(shiny=1), ["window", "shiny", "not a field"]),
    (lambda w, d: w.update(id="whorl"), ["whorl", "id", "twice"]),
    (lambda w, d: w.update(id="a b"), ["id", "1 to 40"]),
    (lambda w, d: w.update(copies={"kind": "row", "count": 10**9, "step": [1, 0, 0]}), ["count", "50,000"]),
    (lambda w, d: w.update(copies={"kind": "twin", "axis": "w"}), ["window", "copies.axis", "'x', 'y' or 'z'"]),
    (lambda w, d: w.update(changes=[{"kind": "melt"}]), ["window", "changes", "melt"]),
    (lambda w, d: w["place"].update(scale=[0, 1, 1]), ["window", "place.scale[0]", "above 0"]),
    (lambda w, d: w["place"].update(position=[1e6, 0, 0]), ["window", "place.position[0]", "100,000"]),
    (lambda w, d: w.update(mesh={"asset": "0" * 64}), ["window", "exactly one"]),
    (lambda w, d: w.update(colour="red"), ["window", "colour", "#c7a384"]),
    (lambda w, d: w["primitive"].update(edge={"kind": "fillet", "size": 4}), ["window", "edge", "below 4"]),
    (lambda w, d: d.update(version=2, later="x"), ["version", "2", "a newer Noble Clay", "reads version 1"]),
    (lambda w, d: d.update(version=0), ["version", "must be 1", "0"]),
    (lambda w, d: d.update(format="other"), ["format"]),
    (lambda w, d: d["parts"][0]["join"]["parts"][0].update(op="difference"), ["whorl", "op", "must be union"]),
    (lambda w, d: d["parts"][0]["join"].update(blend=-0.5), ["shell", "join.blend", "at least 0"]),
    (lambda w, d: w.update(changes=[{"kind": "twist", "angle": "far"}]), ["window", "changes[0].angle", "number"]),
    (lambda w, d: w.update(changes=[{"kind": "subdivide", "steps": 9}]), ["window", "changes[0].steps", "at most 8"]),
]


@pytest.mark.parametrize(("damage", "words"), CASES)
def test_a_bad_field_is_named_with_what_is_allowed(damage, words):
    document = copy.deepcopy(SNAIL)
    damage(window(document), document)
    with pytest.raises(PieceError) as refusal:
        piece_from_values(document)
    for word in words:
        assert word in str(refusal.value)


@pytest.mark.parametrize(
    "text",
    ["", "[]", "null", "{", '{"format": 1}', "\ufeff{}", '{"parts": [[[]]]}', "1" * 5000, "NaN"],
)
def test_text_that_is_no_piece_is_refused_in_words(text):
    with pytest.raises(PieceError):
        piece_from_json(text)


def test_bytes_that_are_no_utf8_are_refused():
    with pytest.raises(PieceError, match="UTF-8"):
        piece_from_json(b'{"name": "\xff"}')


def nested(levels):
    head = '{"format":"noble-clay-piece","version":1,"name":"deep","parts":['
    middle = "".join(f'{{"id":"j{i}","join":{{"parts":[' for i in range(levels))
    return head + middle + '{"id":"b","primitive":{"kind":"sphere","radius":1}}' + "]}}" * levels + "]}"


def test_thirty_two_levels_are_read_and_more_refused_fast():
    assert sum(1 for _ in piece_from_json(nested(31)).walk()) == 32
    started = time.perf_counter()
    for levels in (32, 10_000):
        with pytest.raises(PieceError, match="32 levels"):
            piece_from_json(nested(levels))
    assert time.perf_counter() - started < 3  # a second on an idle machine


def test_copies_of_copies_are_bounded_before_anything_is_built():
    row = {"kind": "row", "count": 50_000, "step": [1, 0, 0]}
    with pytest.raises(PieceError, match="50,000"):
        piece(join("a", part("b", "sphere", radius=1, _copies=row), copies=row))


def test_too_many_triangles_are_refused_before_anything_is_built():
    row = {"kind": "row", "count": 1000, "step": [5, 0, 0]}
    with pytest.raises(PieceError, match="10,000,000 triangles"):
        piece(part("b", "sphere", radius=1, facets=512, _copies=row))


def test_too_many_parts_are_refused():
    with pytest.raises(PieceError, match="5,000 parts"):
        piece(*[box(f"b{i}") for i in range(5_001)])


def test_reading_what_was_dumped_gives_the_same_piece():
    document = piece_from_values(SNAIL)
    assert piece_from_json(json.dumps(document.dump())) == document


def test_defaults_and_names_follow_the_format():
    found = piece(part("a", "star", points=5, radius=3, inner_radius=1, height=2), join("b", box("c"))).parts
    assert (found[0].name, found[1].name, found[1].children[0].name) == ("Star", "Join", "Box")
    assert found[0].place.scale == (1, 1, 1)
    assert found[0].opacity == 1
