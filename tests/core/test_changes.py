"""Shape changes: every primitive, alone and in twos, stays one closed solid within the bounds that are stated."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from noble_clay.core.changes.registry import CHANGES
from noble_clay.core.errors import MeshError, PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import box, evaluated, join, part, piece
from tests.examples import examples

SIDES = ["x-", "x+", "y-", "y+", "z-", "z+"]
axes = st.sampled_from(["x", "y", "z"])


def numbers(low, high):
    return st.floats(low, high, allow_nan=False).map(lambda v: round(v, 3))


def primitives():
    """Every kind at the size its tile gives it, with few sides."""

    def made(kind):
        cls = PRIMITIVES[kind]
        coarse = {n: 12 for n in ("facets", "tube_facets") if n in cls.model_fields}
        return cls.model_validate({"kind": kind, **cls.sample, **coarse})

    return st.sampled_from(sorted(PRIMITIVES)).map(made)


CHEAP = {
    "taper": st.fixed_dictionaries({"top": numbers(0.05, 4), "axis": axes}),
    "bend": st.fixed_dictionaries({"angle": numbers(-30, 30), "towards": numbers(0, 360), "axis": axes}),
    "twist": st.fixed_dictionaries({"angle": numbers(-180, 180), "axis": axes, "slices": st.integers(4, 16)}),
    "stretch": st.fixed_dictionaries(
        {"low": numbers(-3, -1), "high": numbers(1, 3), "by": numbers(-1.5, 8), "axis": axes}
    ),
    "flatten": st.fixed_dictionaries({"depth": numbers(0.1, 3), "side": st.sampled_from(SIDES)}),
    "mirror_half": st.fixed_dictionaries({"keep": st.sampled_from(SIDES), "at": numbers(-2, 2)}),
    "subdivide": st.fixed_dictionaries(
        {"steps": st.integers(1, 2), "way": st.sampled_from(["finer", "rounder", "quads"])}
    ),
    "simplify": st.fixed_dictionaries({"tolerance": numbers(0.01, 0.3)}),
    "polish": st.fixed_dictionaries({"rounds": st.integers(1, 6), "strength": numbers(0.1, 0.6)}),
    "hollow": st.fixed_dictionaries({"wall": numbers(0.8, 1.5), "fineness": st.just(0.8)}),
    "grow": st.fixed_dictionaries({"by": numbers(-1, 1), "fineness": st.just(0.8)}),
    "round": st.fixed_dictionaries({"radius": numbers(0.6, 1.5), "facets": st.just(8), "fineness": st.just(0.8)}),
    "resurface": st.fixed_dictionaries({"resolution": numbers(1.5, 3)}),
    "studs": st.fixed_dictionaries(
        {
            "stud": st.just({"kind": "cone", "bottom_radius": 0.8, "height": 2, "facets": 8}),
            "count": st.integers(1, 8),
            "rings": st.none() | st.integers(1, 3),
            "seed": st.integers(0, 99),
        }
    ),
}


@st.composite
def changes(draw):
    kind = draw(st.sampled_from(sorted(CHEAP)))
    return CHANGES[kind].model_validate({"kind": kind, **draw(CHEAP[kind])})


def test_every_change_is_drawn_here():
    assert set(CHEAP) == set(CHANGES)


def sound(solid):
    found = solid.manifold
    assert str(found.status()).endswith("NoError")
    assert found.num_tri() > 0
    assert solid.volume > 0
    return solid


@examples(120)
@given(primitives(), changes())
def test_alone(primitive, change):
    before = Solid.from_mesh(primitive.mesh(), "a", True)
    try:
        after = sound(change.made(before))
    except MeshError as error:
        assert str(error).split(" ")[0] in {*type(change).model_fields, "drain"}, "a refusal names the field"
        return
    check_bounds(change, before, after)
    assert set(after.part_names) == {"a"}, "every triangle still knows its part"


@examples(50)
@given(primitives(), changes(), changes())
def test_in_twos(primitive, first, second):
    solid = Solid.from_mesh(primitive.mesh(), "a", True)
    try:
        between = sound(first.made(solid))
        assume(between.manifold.num_tri() < 40_000)
        sound(second.made(between))
    except MeshError as error:
        assert str(error)


def check_bounds(change, before, after):
    (low, high), (new_low, new_high) = before.bounds, after.bounds
    slack = 1e-6
    match change.kind:
        case "hollow":
            assert np.allclose(before.bounds, after.bounds, atol=1e-9)
        case "stretch":
            k = "xyz".index(change.axis)
            reach = np.clip([low[k], high[k]], change.low, change.high)
            grown = (reach[1] - reach[0]) / (change.high - change.low) * change.by
            assert new_high[k] - new_low[k] == pytest.approx(high[k] - low[k] + grown, abs=1e-6)
        case "flatten":
            k, up = "xyz".index(change.side[0]), change.side[1] == "+"
            edge, was, sign = (new_high[k], high[k], -1) if up else (new_low[k], low[k], 1)
            assert edge == pytest.approx(was + sign * change.depth, abs=1e-6)
        case "taper":
            k = "xyz".index(change.axis)
            assert new_high[k] == pytest.approx(high[k]) and new_low[k] == pytest.approx(low[k])
            most = (high - low) * max(1.0, change.top) + slack
            assert np.all(np.delete(new_high - new_low, k) <= np.delete(most, k))
        case "twist":
            k = "xyz".index(change.axis)
            assert new_high[k] == pytest.approx(high[k]) and new_low[k] == pytest.approx(low[k])
        case "simplify":
            assert np.all(new_low >= low - change.tolerance) and np.all(new_high <= high + change.tolerance)
        case "round":
            assert np.all(new_low >= low - 0.1) and np.all(new_high <= high + 0.1)
        case "grow":
            slack = 0.1 + 8 * max(change.by, 0)  # a sharp tip goes further than its faces do
            assert np.all(new_low >= low - slack) and np.all(new_high <= high + slack)
            assert (after.volume > before.volume) == (change.by > 0) or change.by == 0
        case "resurface":
            assert np.all(new_low >= low - slack) and np.all(new_high <= high + slack)
        case "studs":
            assert np.all(new_low <= low + slack) and np.all(new_high >= high - slack)
            assert np.all(new_low >= low - 2) and np.all(new_high <= high + 2)
        case "polish":
            assert after.volume == pytest.approx(before.volume, rel=1e-9)


def test_changes_are_made_in_order_and_can_be_switched_off():
    taper, flatten = {"kind": "taper", "top": 0.5}, {"kind": "flatten", "depth": 5, "side": "z+"}
    cube = {"size": (10, 10, 10)}
    one = evaluated(box("a", **cube, _changes=[taper, flatten])).solid
    other = evaluated(box("a", **cube, _changes=[flatten, taper])).solid
    assert one.volume == pytest.approx(5 / 3 * (100 + 75 + 75**2 / 100), rel=1e-3), "the lower half of the frustum"
    assert other.volume == pytest.approx(5 / 3 * (100 + 50 + 25), rel=1e-3)
    off = evaluated(box("a", **cube, _changes=[taper, {**flatten, "off": True}])).solid
    assert off.volume == pytest.approx(10 / 3 * (100 + 50 + 25), rel=1e-3)


def test_a_join_is_changed_as_a_whole_and_keeps_its_parts():
    result = evaluated(
        join(
            "whole",
            box("a", size=(10, 10, 10)),
            box("b", at=(0, 0, 8), size=(4, 4, 10)),
            changes=[{"kind": "bend", "angle": 20}, {"kind": "hollow", "wall": 1}],
        )
    )
    assert set(result.part_ids) == {"a", "b"}
    assert set(np.unique(result.part_of)) == {0, 1}
    assert result.inspection.manifold and result.inspection.voids == 1


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"kind": "hollow", "wall": 6}, ["changes[0]", "wall 6 mm", "too thick"]),
        ({"kind": "round", "radius": 6}, ["radius 6 mm", "too large"]),
        ({"kind": "bend", "angle": 300}, ["angle", "below 114.6°"]),
        ({"kind": "flatten", "depth": 10}, ["depth", "below 10 mm"]),
        ({"kind": "mirror_half", "keep": "x+", "at": 7}, ["at", "between -5 and 5"]),
        ({"kind": "subdivide", "steps": 8, "way": "quads"}, ["triangles", "10,000,000"]),
        ({"kind": "resurface", "resolution": 0.005}, ["million samples"]),
        ({"kind": "hollow", "wall": 1, "drain": {"diameter": 9}}, ["drain", "narrower than 8 mm"]),
        ({"kind": "hollow", "wall": 1, "drain": {"diameter": 3, "count": 20}}, ["drain", "20 holes", "do not fit"]),
    ],
)
def test_a_change_that_cannot_be_made_is_refused_with_its_field(change, words):
    more = [{"kind": "subdivide", "steps": 4, "way": "finer"}] if change["kind"] == "subdivide" else []
    with pytest.raises(PieceError) as refusal:
        evaluated(box("a", size=(10, 10, 10), _changes=[*more, change]))
    for word in ["part", *words] if not more else words:
        assert word in refusal.value.describe()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"kind": "studs", **CHANGES["studs"].sample, "count": 1_000_000}, ["changes[0].count", "at most 3,000"]),
        ({"kind": "studs", **CHANGES["studs"].sample, "count": 100, "rings": 100}, ["count", "3,000"]),
        ({"kind": "grow", "by": 2000}, ["changes[0].by", "at most 1,000"]),
        ({"kind": "simplify", "count": "2000"}, ["changes[0].count", "a number"]),
        ({"kind": "studs", **CHANGES["studs"].sample, "rings": True}, ["changes[0].rings", "a number"]),
        ({"kind": "taper", "top": 0}, ["changes[0].top", "at least 0.01"]),
        ({"kind": "stretch", "low": -1, "high": 1, "by": -3}, ["changes[0].by", "above -2"]),
        ({"kind": "simplify"}, ["changes[0]", "tolerance or count"]),
    ],
)
def test_a_change_out_of_range_is_refused_when_read(change, words):
    with pytest.raises(PieceError) as refusal:
        piece(box("a", _changes=[change]))
    for word in words:
        assert word in refusal.value.describe()


def test_the_same_seed_sets_the_same_studs():
    def volume(seed):
        stud = {"kind": "studs", **CHANGES["studs"].sample, "count": 12, "seed": seed}
        return evaluated(part("a", "sphere", radius=8, facets=24, _changes=[stud])).mesh.vertices

    assert np.array_equal(volume(3), volume(3))
    assert not np.array_equal(volume(3), volume(4))


def test_a_stack_begins_where_it_was_left(monkeypatch):
    made = []
    for change in (CHANGES["subdivide"], CHANGES["taper"], CHANGES["twist"]):

        def noted(self, solid, really=change.made):
            made.append(self.kind)
            return really(self, solid)

        monkeypatch.setattr(change, "made", noted)
    evaluator = Evaluator()
    steps = [{"kind": "subdivide", "steps": 2, "way": "finer"}, {"kind": "taper", "top": 0.5}]

    def evaluated(*changes):
        made.clear()
        result = evaluator.evaluate(piece(part("a", "sphere", radius=8, _changes=list(changes))))
        return list(made), result.inspection.volume

    whole = evaluated(*steps)
    assert whole[0] == ["subdivide", "taper"]
    assert evaluated(*steps, {"kind": "twist", "angle": 20})[0] == ["twist"]
    assert evaluated(*steps) == ([], whole[1]), "and steps back without making anything"
    assert evaluated(steps[0], {"kind": "taper", "top": 0.6})[0] == ["taper"]
    assert evaluated({**steps[0], "steps": 1}, steps[1])[0] == ["subdivide", "taper"]
