"""A piece counted tile by tile is the piece joined whole."""

from types import SimpleNamespace

import numpy as np
import pytest
from bench.pieces import LAYOUTS

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.large_pieces import TiledSkins
from noble_clay.core.piece.edits import apply, edit_from_values
from tests.building import box, join, part, piece
from tests.core.test_drafter import TREE

SAME = ("bodies", "voids", "manifold", "findings")


def assert_as_whole(found, what):
    whole = Evaluator().evaluate(what)
    said = whole.inspection.values()
    assert found is not None
    assert {k: found.soundness[k] for k in SAME} == {k: said[k] for k in SAME}
    assert found.soundness["volume_mm3"] == pytest.approx(said["volume_mm3"], rel=1e-9)
    assert found.soundness["area_mm2"] == pytest.approx(said["area_mm2"], rel=1e-9)
    assert np.allclose(found.soundness["bounds"], said["bounds"], atol=1e-9)
    assert set(found.part_ids) >= {whole.part_ids[i] for i in np.unique(whole.part_of)}


@pytest.mark.parametrize("layout", LAYOUTS)
def test_as_joined_whole(layout):
    what = LAYOUTS[layout](60, facets=16)
    assert_as_whole(TiledSkins(Evaluator()).skin("a", what), what)


def test_nested_lists_cutters_and_intersections():
    nested = piece(
        *(join(f"j{i}", *_row(i), place={"position": [0, i * 5, 0]}) for i in range(9)), *TREE.dump()["parts"]
    )
    assert_as_whole(TiledSkins(Evaluator()).skin("a", nested), nested)


def _row(number):
    balls = [part(f"b{number}_{i}", "sphere", (i * 5 - 40, 30, 3), radius=3, facets=12) for i in range(12)]
    return [*balls, box(f"slot{number}", (-10, 30, 3), (30, 2, 2), op="difference")]


def test_loose_bodies_and_voids_across_tiles():
    bars = [box(f"bar{i}", (0, i * 6, 0), (120, 4, 4)) for i in range(8)]
    hollow = [box("hollow", (0, 0, 0), (110, 2, 2), op="difference")]
    dust = [part(f"dust{i}", "sphere", (i * 4 - 60, -12, 0), radius=1, facets=8) for i in range(31)]
    what = piece(*bars, *hollow, *dust)
    found = TiledSkins(Evaluator()).skin("a", what)
    assert (found.soundness["bodies"], found.soundness["voids"], found.soundness["sound"]) == (39, 1, False)
    assert_as_whole(found, what)


def test_parts_that_only_touch():
    steps = [box(f"step{i}", (i * 4, i * 4, 0), (4, 4, 4)) for i in range(24)]
    what = piece(*steps)
    found = TiledSkins(Evaluator()).skin("a", what)
    assert not found.soundness["manifold"] and found.soundness["findings"][0]["kind"] == "overshared_edges"
    assert Evaluator().evaluate(what).inspection.manifold is False


def test_an_edit_makes_only_its_tiles_again():
    what = LAYOUTS["scales"](100, facets=16)
    tiles = TiledSkins(Evaluator())
    tiles.skin("a", what)
    missed = tiles._kept.misses
    for by in (1, 3):
        what = apply(what, edit_from_values({"kind": "move", "ids": ["p50"], "by": [by, 0, by]})).piece
        assert_as_whole(tiles.skin("a", what), what)
    assert 0 < tiles._kept.misses - missed <= 12


def test_tiles_that_become_crowded_are_divided():
    what = LAYOUTS["wall"](40, facets=12)
    tiles = TiledSkins(Evaluator())
    tiles.skin("a", what)
    before = len(tiles._division[1])
    more = [part(f"new{i}", "sphere", (i % 8 * 0.83, 6 + i // 8 * 0.77, 3), radius=1, facets=8) for i in range(64)]
    what = apply(what, edit_from_values({"kind": "add_parts", "parts": more})).piece
    assert_as_whole(tiles.skin("a", what), what)
    assert len(tiles._division[1]) > before


def test_tiles_are_read_from_where_they_were_laid_down():
    laid: dict[str, bytes] = {}
    shelf = SimpleNamespace(get=laid.get, put=laid.__setitem__)
    what = LAYOUTS["chain"](60, facets=12)
    first = TiledSkins(Evaluator(), shelf).skin("a", what)
    evaluator = Evaluator()
    again = TiledSkins(evaluator, shelf).skin("a", what)
    assert laid and again.key == first.key and len(evaluator.cache) == 0
    assert np.array_equal(again.mesh.triangles, first.mesh.triangles)
    assert again.soundness == first.soundness


def test_tiles_that_are_all_inside():
    buried = [part(f"b{i}", "sphere", (i * 0.7 - 14, 0, 0), radius=1, facets=8) for i in range(40)]
    what = piece(box("around", size=(90, 90, 90)), *buried)
    found = TiledSkins(Evaluator()).skin("a", what)
    assert found.soundness["volume_mm3"] == pytest.approx(90**3)
    assert_as_whole(found, what)


def test_nothing_left():
    what = piece(box("a"), box("b", size=(90, 90, 90), op="difference"))
    found = TiledSkins(Evaluator()).skin("a", what)
    assert (found.soundness["bodies"], found.soundness["sound"], found.soundness["bounds"]) == (0, False, None)


def test_a_missing_mesh_is_told():
    what = piece(box("a"), {"id": "lost", "mesh": {"asset": "0" * 64}})
    assert "lost" in TiledSkins(Evaluator()).skin("a", what).left_out
