"""Fields say what kind they are; forms say their bounds, sides and handles; shape changes their handles."""

from typing import Annotated, Literal, get_args

import numpy as np
import pytest
from pydantic import BaseModel, Field

from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.view import Views
from noble_clay.core.field_kinds import DEGREES, MM, FieldKind, Shown, Words, fields_of
from noble_clay.core.piece.copies import COPIES
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.tree import find
from noble_clay.core.primitives.base import Revolved
from noble_clay.core.primitives.registry import PRIMITIVES
from noble_clay.core.registry import by_kind
from tests.building import part, piece
from tests.toy.primitives import Gadget


class Inner(BaseModel):
    deep: Annotated[float, MM, Field(ge=1, title="Deep")]


class Everything(BaseModel):
    kind: Literal["everything"]
    length: Annotated[float, MM, Field(ge=0.5, le=9)]
    share: Annotated[float, Field(gt=0, le=1)] = 0.5
    turn: Annotated[float, DEGREES, Field(ge=-90)] = 0.0
    way: Annotated[Literal["a", "b"], Words({"a": "first"})] = "b"
    corner: tuple[Annotated[float, MM], Annotated[float, MM]]
    inner: Inner | None = None
    maybe: Annotated[Annotated[int, Field(ge=2)] | None, Shown(none="as it comes"), Field(description="so many")] = None


def test_the_type_of_a_field_says_its_kind_bounds_and_words():
    found = {f.name: f for f in fields_of(Everything)}
    assert "kind" not in found, "it only names the kind"
    length, turn, way = found["length"].field, found["turn"].field, found["way"].field
    assert (length.kind, length.unit, length.least, length.most) == ("number", "mm", 0.5, 9)
    assert found["share"].field.above == 0 and found["share"].field.least is None and found["share"].default == 0.5
    assert (turn.kind, turn.least, turn.most) == ("angle", -90, None)
    assert [(o.value, o.word) for o in way.options] == [("a", "first"), ("b", "b")]
    assert (found["corner"].field.labels, found["corner"].field.of.unit) == (("x", "y"), "mm")
    assert found["inner"].optional and found["inner"].field.fields[0].title == "Deep"
    maybe = found["maybe"]
    assert (maybe.field.kind, maybe.field.least, maybe.optional, maybe.shown.none) == ("count", 2, True, "as it comes")
    assert maybe.description == "so many"


def test_the_json_schema_has_the_same_units():
    schema = Everything.model_json_schema()["properties"]
    assert (schema["length"]["unit"], schema["turn"]["unit"]) == ("mm", "°")
    assert "unit" not in schema["share"]


def test_a_type_without_a_kind_is_refused():
    class Odd(BaseModel):
        what: dict[str, int]

    with pytest.raises(TypeError, match="no kind of field"):
        fields_of(Odd)


@pytest.mark.parametrize("cls", [*PRIMITIVES.values(), *CHANGES.values(), *COPIES.values()])
def test_every_field_of_what_there_is_has_a_kind_and_a_title(cls):
    found = fields_of(cls)
    assert {f.name for f in found} == set(cls.model_fields) - {"kind"}
    assert all(f.title and f.field.kind for f in found)
    assert cls.either is None or set(cls.either.starts) <= {f.name for f in found if f.optional}


def test_the_toy_has_nearly_every_kind_of_field_there_is():
    every = {k.kind for k in get_args(FieldKind)}
    assert every - {f.field.kind for f in fields_of(Gadget)} == {"form"}


def test_two_classes_of_one_kind_are_refused():
    class Another(Gadget):
        pass

    with pytest.raises(ValueError, match="two classes are of the kind gadget"):
        by_kind([Gadget, Another])


@pytest.mark.parametrize("facets", [3, 5, 7, 16, 64])
@pytest.mark.parametrize("kind", PRIMITIVES)
def test_a_form_says_its_bounds_triangles_and_points_without_building(kind, facets):
    cls = PRIMITIVES[kind]
    more = {"facets": facets} if "facets" in cls.model_fields else {}
    form = cls.model_validate({"kind": kind, **cls.sample, **more})
    mesh = form.mesh()
    assert np.array_equal(form.bounds(), mesh.bounds)
    assert form.triangle_count() >= len(mesh.triangles)
    if isinstance(form, Revolved):
        assert form.profile_points() == len(form.profile())


@pytest.mark.parametrize("edge", [{"kind": "chamfer", "size": 1}, {"kind": "fillet", "size": 1.5, "segments": 5}])
@pytest.mark.parametrize("kind", ["box", "cylinder", "tube"])
def test_a_broken_edge_is_counted_too(kind, edge):
    cls = PRIMITIVES[kind]
    more = {"wall": 4} if kind == "tube" else {}
    form = cls.model_validate({"kind": kind, **cls.sample, **more, "edge": edge})
    mesh = form.mesh()
    assert form.bounds() == pytest.approx(mesh.bounds, abs=1e-12)
    assert form.triangle_count() >= len(mesh.triangles)


MADE = {
    "flatten": ({"depth": 2, "side": "z+"}, "depth"),
    "stretch": ({"low": -2, "high": 2, "by": 3}, "by"),
    "twist": ({"angle": 40}, "angle"),
    "taper": ({"top": 0.5}, "top"),
    "bend": ({"angle": 30}, "angle"),
}


@pytest.mark.parametrize("kind", MADE)
def test_a_shape_change_says_where_its_handle_stands_and_what_it_sets(kind):
    values, field = MADE[kind]
    bar = part("bar", "box", size=[6, 8, 20], _changes=[{"kind": kind, **values}])
    (view,) = Views(Evaluator()).of(piece(bar))
    ((index, handle),) = view.handles
    assert (index, handle.field, handle.value) == (0, field, values[field])
    assert np.linalg.norm(handle.along) == pytest.approx(1)
    low, high = view.own
    assert np.all(low - 1e-6 <= handle.at) and np.all(np.array(handle.at) <= high + 1e-6), "on the part, not beside it"


def test_a_change_that_is_off_has_no_handle_and_the_others_keep_their_place():
    views = Views(Evaluator())
    stack = [{"kind": "taper", "top": 0.5, "off": True}, {"kind": "flatten", "depth": 1}]
    for changes, places in ((stack, [1]), (stack[1:], [0])):
        bar = part("bar", "box", size=[6, 8, 20], _changes=changes)
        (view,) = views.of(piece(bar))
        assert [index for index, _ in view.handles] == places


def test_the_radius_of_a_soft_part_is_drawn_out_where_its_run_begins():
    plate = part("plate", "box", size=[40, 40, 4])
    post = part("post", "cylinder", at=(5, 3, 10), turn=(0, 0, 30), radius=4, height=20)
    knob = part("knob", "sphere", at=(0, 0, 40), radius=3)
    joined = {"id": "list", "join": {"blend": 3, "parts": [plate, post | {"blend": 2.5}, knob]}}
    found = {view.id: [h for _, h in view.handles if h.of_part] for view in Views(Evaluator()).of(piece(joined))}
    assert found["plate"] == [], "the body runs into nothing"
    assert found["knob"] == [], "it is nowhere near"
    (handle,) = found["post"]
    assert (handle.field, handle.value, handle.least) == ("blend", 2.5, 0)
    assert np.hypot(*handle.at[:2]) == pytest.approx(4, abs=0.01), "on the post's own surface"
    assert handle.at[2] + 10 == pytest.approx(2 + 2.5, abs=0.01), "as far above the plate as the run reaches"
    assert handle.along == pytest.approx((0, 0, 1))
    sharp = {"id": "list", "join": {"blend": 3, "parts": [plate, post | {"blend": 0}]}}
    assert not any(h.of_part for view in Views(Evaluator()).of(piece(sharp)) for _, h in view.handles)


def test_an_edit_gives_a_form_the_sides_that_stay_within_a_length_of_its_curve():
    start = piece(part("ball", "sphere", radius=10))
    outcome = apply(start, edit_from_values({"kind": "set_chord_error", "id": "ball", "most": 0.05}))
    ball = find(outcome.piece, "ball").part.primitive
    assert ball.chord_error() <= 0.05 < ball.updated(facets=ball.facets - 1).chord_error()
    assert apply(outcome.piece, outcome.inverse).piece == start
