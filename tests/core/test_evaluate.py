"""From parts to one solid: order, nesting, references, emptiness, placing, copies, caching, origins."""

import math

import numpy as np
import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.cache import MOST_LARGE, ByteCache
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.mass import areas, centroid
from noble_clay.core.piece.copies import Path, Ring, Row
from tests.building import box, evaluated, join, part, piece
from tests.damage import primitive


def volume(*parts):
    return evaluated(*parts).inspection.volume


def test_parts_enter_in_order():
    a, b = box("a", size=(4, 4, 4)), box("b", (2, 0, 0), (4, 4, 4), op="difference")
    c = box("c", (2, 0, 0), (2, 2, 2))
    assert volume(a, b, c) == pytest.approx(32 + 8)
    assert volume(a, c, b) == pytest.approx(32)
    assert volume(a, {**b, "op": "intersection"}) == pytest.approx(32)


def test_references_count_nowhere_and_hidden_parts_do():
    a, b = box("a", size=(4, 4, 4)), box("b", (2, 0, 0), (4, 4, 4), op="difference")
    assert volume({**b, "id": "r", "reference": True}, a, {**b, "reference": True}) == pytest.approx(64)
    assert volume(a, {**b, "hidden": True}) == pytest.approx(32)
    assert volume(a, join("j", box("c"), box("d"), reference=True, op="intersection")) == pytest.approx(64)


@pytest.mark.parametrize(("op", "left"), [("union", 64), ("difference", 64), ("intersection", 0)])
def test_an_empty_join_adds_takes_or_keeps_nothing(op, left):
    nothing = join("j", box("x"), box("y", size=(2, 2, 2), op="difference"), op=op)
    assert volume(box("a", size=(4, 4, 4)), nothing) == pytest.approx(left)


def test_a_body_of_nothing_and_a_piece_of_nothing():
    nothing = join("j", box("x"), box("y", size=(2, 2, 2), op="difference"))
    assert volume(nothing, box("a", op="difference"), box("b", (5, 0, 0))) == pytest.approx(1)
    empty = evaluated()
    assert empty.inspection.triangles == 0
    assert not empty.inspection.manifold
    assert empty.inspection.bounds is None


def test_a_point_lands_where_the_format_says():
    """position + R · (scale · (flip · p)), R turning about the fixed x, then y, then z axis."""
    place = {"position": [7, 8, 9], "rotation": [20, 30, 40], "scale": [2, 3, 4]}
    wedge = {"id": "w", "primitive": {"kind": "wedge", "size": [2, 4, 6]}, "place": place, "flip": ["y"]}
    corner = np.array([1, 2, 3]) * [1, -1, 1] * [2, 3, 4]
    x, y, z = (math.radians(a) for a in (20, 30, 40))
    rx = np.array([[1, 0, 0], [0, math.cos(x), -math.sin(x)], [0, math.sin(x), math.cos(x)]])
    ry = np.array([[math.cos(y), 0, math.sin(y)], [0, 1, 0], [-math.sin(y), 0, math.cos(y)]])
    rz = np.array([[math.cos(z), -math.sin(z), 0], [math.sin(z), math.cos(z), 0], [0, 0, 1]])
    expected = [7, 8, 9] + rz @ ry @ rx @ corner
    result = evaluated(wedge)
    assert np.min(np.linalg.norm(result.mesh.vertices - expected, axis=1)) < 1e-12
    assert result.inspection.volume == pytest.approx(24 * 24)


@pytest.mark.parametrize(
    ("copies", "middles"),
    [
        ({"kind": "row", "count": 3, "step": [0, 5, 1]}, [(9, 0, 0), (9, 5, 1), (9, 10, 2)]),
        ({"kind": "ring", "count": 4, "axis": "z", "angle": 90}, [(9, 0, 0), (0, 9, 0), (-9, 0, 0), (0, -9, 0)]),
        (
            {"kind": "ring", "count": 2, "axis": "x", "angle": 180, "centre": [0, 5, 0], "rise": 4},
            [(9, 0, 0), (13, 10, 0)],
        ),
        ({"kind": "twin", "axis": "x", "at": 2}, [(9, 0, 0), (-5, 0, 0)]),
        ({"kind": "grid", "counts": [2, 1, 2], "step": [-4, 9, 3]}, [(9, 0, 0), (5, 0, 0), (9, 0, 3), (5, 0, 3)]),
        ({"kind": "path", "points": [[0, 0, 0], [0, 10, 0]], "count": 3}, [(9, 0, 0), (9, 5, 0), (9, 10, 0)]),
        ({"kind": "path", "points": [[0, 0, 0], [0, 10, 0]], "spacing": 4}, [(9, 0, 0), (9, 4, 0), (9, 8, 0)]),
    ],
)
def test_copies_are_where_their_formula_says(copies, middles):
    result = evaluated(box("a", (9, 0, 0), _copies=copies))
    found = [s.bounds.mean(axis=0) for s in result.inspection.shells]
    assert len(found) == len(middles)
    for middle in middles:
        assert np.min(np.linalg.norm(np.array(found) - middle, axis=1)) < 1e-9


def test_a_closed_path_spaces_evenly_and_may_turn_its_copies():
    square = [[10, 0, 0], [0, 10, 0], [-10, 0, 0], [0, -10, 0]]
    path = Path(kind="path", points=square, count=8, closed=True, turn=True)
    places = [m @ [10, 0, 0, 1] for m in path.matrices()]
    gaps = np.linalg.norm(np.diff([*places, places[0]], axis=0), axis=1)
    assert np.ptp(gaps) < 0.05 * gaps.mean()
    np.testing.assert_allclose(path.matrices()[4][:, :3], np.diag([-1, -1, 1]), atol=0.02)


def test_quarter_turns_and_plain_steps_are_exact():
    ring = Ring(kind="ring", count=5, axis="z", angle=90).matrices()
    assert np.array_equal(ring[4][:, :3], np.eye(3))
    assert np.array_equal(Row(kind="row", count=3, step=(0.1, 0, 0)).matrices()[2][:, 3], [0.2, 0, 0])


def test_a_twin_is_turned_outward():
    result = evaluated(part("w", "wedge", (10, 0, 0), size=[2, 3, 4], _copies={"kind": "twin", "axis": "x"}))
    assert result.inspection.volume == pytest.approx(24)
    np.testing.assert_allclose(centroid(result.mesh)[0], 0, atol=1e-12)


def test_every_triangle_knows_its_part_through_nested_joins_and_copies():
    inner = join("j", box("body", size=(10, 10, 4)), box("hole", (0, 0, 1), (2, 2, 4), op="difference"))
    result = evaluated(
        {**inner, "copies": {"kind": "row", "count": 2, "step": [20, 0, 0]}}, box("post", (0, 0, 5), (1, 1, 12))
    )
    areas_of = dict.fromkeys(result.part_ids, 0.0)
    for index, area in zip(result.part_of, areas(result.mesh), strict=True):
        areas_of[result.part_ids[index]] += area
    # Two pockets 3 deep; the first one's floor is where the post stands.
    assert areas_of["hole"] == pytest.approx(2 * (4 * 2 * 3 + 4) - 1)
    assert areas_of["body"] == pytest.approx(2 * (2 * 100 + 160 - 4))
    assert areas_of["post"] == pytest.approx(1 + 4 * 12)


def test_only_the_way_from_the_edited_part_to_the_root_is_done_again():
    parts = [join(f"j{i}", box(f"a{i}", (i * 3, 0, 0)), box(f"b{i}", (i * 3, 0, 0.5))) for i in range(6)]
    evaluator = Evaluator()
    before = piece(*parts)
    evaluator.evaluate(before)
    kept = [evaluator.geometry(p).manifold for p in before.parts]
    parts[3]["join"]["parts"][1]["place"]["position"] = [9, 0.2, 0.5]
    after = piece(*parts)
    evaluator.evaluate(after)
    same = [evaluator.geometry(p).manifold is m for p, m in zip(after.parts, kept, strict=True)]
    assert same == [True, True, True, False, True, True]
    misses = evaluator.cache.misses
    evaluator.evaluate(piece(*parts, name="Other"))
    assert evaluator.cache.misses == misses


def test_a_part_moved_step_by_step_gives_what_evaluation_from_nothing_gives():
    parts = [part(f"p{i}", "sphere", (i * 4, 0, 0), radius=3, facets=16) for i in range(5)]
    parts.append(box("cut", (8, 0, 2), (3, 9, 3), op="difference"))
    parts.append(box("last", (8, 0, 5), (1, 1, 6)))
    evaluator = Evaluator()
    for step in range(4):
        for moved in (2, 5, 6):
            parts[moved]["place"]["position"][1] = 0.1 * step
            kept, fresh = (e.evaluate(piece(*parts)).inspection for e in (evaluator, Evaluator()))
            assert kept.volume == pytest.approx(fresh.volume, rel=1e-12)
            assert (kept.bodies, kept.genus) == (fresh.bodies, fresh.genus)


def test_the_cache_stays_within_its_bytes_and_drops_the_oldest():
    class Value:
        nbytes = 40

    cache = ByteCache(100)
    for key in "abc":
        cache.put(key, Value())
        cache.get("a")
    assert cache.held <= 100
    assert cache.get("a") is not None
    assert cache.get("b") is None


def test_large_values_are_kept_beside_the_others_and_few_of_them():
    class Value:
        def __init__(self, nbytes):
            self.nbytes = nbytes

    cache = ByteCache(100)
    cache.put("small", Value(40))
    for number in range(MOST_LARGE + 2):
        cache.put(f"large {number}", Value(5_000))
        cache.get("large 0")
    assert cache.get("small") is not None, "it was not pushed out"
    assert cache.held == 40
    kept = [n for n in range(MOST_LARGE + 2) if cache.get(f"large {n}") is not None]
    assert kept == [0, *range(3, MOST_LARGE + 2)], "the one that was used, and the newest"
    assert len(cache) == 1 + MOST_LARGE


def test_one_value_under_several_keys_counts_once_and_until_the_last_of_them_goes():
    class Value:
        nbytes = 40

    cache, shared = ByteCache(100), Value()
    for key in "abc":
        cache.put(key, shared)
    cache.put("d", Value())
    assert cache.held == 80
    assert all(cache.get(key) is not None for key in "dabc")
    cache.put("a", Value())
    assert cache.held == 80, "d, the oldest, gave way to what a is now; b and c are one yet"
    assert [key for key in "abcd" if cache.get(key) is not None] == ["a", "b", "c"]
    cache.put("e", Value())
    assert [key for key in "abce" if cache.get(key) is not None] == ["b", "c", "e"]
    cache.put("f", Value())
    assert cache.held == 80
    assert [key for key in "bcef" if cache.get(key) is not None] == ["e", "f"], "both that were one had to go"


def test_the_parts_of_a_large_join_are_kept_while_it_is_edited():
    lumps = [box(f"lump-{i}", (8 * i, 0, 0), (10, 10, 10)) for i in range(5)]
    body = join("body", *lumps)
    body["join"].update(blend=2.0, fineness=0.25)
    evaluator = Evaluator(budget=int(2.5 * evaluated(body).solid.nbytes))
    misses = []
    for step in range(3):
        before = evaluator.cache.misses
        lumps[4]["place"]["position"][1] = 0.5 * step
        evaluator.evaluate(piece(body))
        misses.append(evaluator.cache.misses - before)
    assert misses[0] > 2 * len(lumps)
    assert max(misses[1:]) < len(lumps) + 1, "the moved part, the join and what holds it; the others were kept"


def test_a_mesh_is_read_once_however_often_it_is_looked_at():
    asked = []

    def assets(sha256):
        asked.append(sha256)
        return primitive("sphere", radius=5, facets=16)

    evaluator = Evaluator(assets=assets)
    document = piece({"id": "m", "mesh": {"asset": "ab" * 32}}, {"id": "n", "mesh": {"asset": "ab" * 32}})
    evaluator.evaluate(document)
    evaluator.own_mesh(document.parts[0])
    evaluator.asset("ab" * 32)
    assert asked == ["ab" * 32]


def test_a_part_beyond_the_coordinates_is_named():
    with pytest.raises(PieceError, match='"far".*100,000'):
        evaluated(box("far", (99_999, 0, 0), (10, 1, 1)))
