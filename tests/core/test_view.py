"""What is shown of a piece: where copies stand, how large parts are, and what is not there."""

import numpy as np
import pytest

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.view import Views, world_boxes
from noble_clay.core.primitives.registry import PRIMITIVES
from tests.building import box, join, part, piece


def views_of(*parts):
    return {v.id: v for v in Views(Evaluator()).of(piece(*parts))}


def test_a_copy_in_a_copied_join_stands_once_for_every_pair():
    twin = {"kind": "twin", "axis": "x"}
    row = {"kind": "row", "count": 3, "step": [0, 10, 0]}
    found = views_of(join("group", box("post", (5, 0, 0), _copies=row), copies=twin))
    middles = {tuple(m[:, 3]) for m in found["post"].matrices}
    assert middles == {(x, y, 0) for x in (5, -5) for y in (0, 10, 20)}
    assert len(found["group"].matrices) == 2


def test_size_is_along_the_parts_own_axes_and_the_box_along_the_wheels():
    found = views_of(
        {
            **box("slat", (0, 0, 3), (10, 2, 1)),
            "place": {"position": [0, 0, 3], "rotation": [0, 0, 90], "scale": [2, 1, 1]},
        }
    )
    np.testing.assert_allclose(found["slat"].size, (20, 2, 1))
    np.testing.assert_allclose(found["slat"].box, [(-1, -10, 2.5), (1, 10, 3.5)], atol=1e-12)


def test_a_join_that_comes_to_nothing_has_no_size_and_its_parts_have():
    found = views_of(join("gone", box("a"), box("b", size=(2, 2, 2), op="difference")))
    assert found["gone"].size is None
    assert found["gone"].box is None
    np.testing.assert_allclose(found["a"].size, (1, 1, 1))


def test_boxes_of_copies_count_each_and_joins_not():
    row = {"kind": "row", "count": 2, "step": [10, 0, 0]}
    views = views_of(join("group", box("a", _copies=row))).values()
    assert [b.tolist() for b in world_boxes(list(views))] == [
        [[-0.5, -0.5, -0.5], [0.5, 0.5, 0.5]],
        [[9.5, -0.5, -0.5], [10.5, 0.5, 0.5]],
    ]


def test_a_mesh_that_comes_later_is_shown_and_counted_then():
    store = {}

    def assets(sha256):
        if sha256 not in store:
            raise MeshError("not here yet")
        return store[sha256]

    evaluator = Evaluator(assets=assets)
    views = Views(evaluator)
    document = piece(join("inner", box("base", size=(2, 2, 2)), {"id": "mesh", "mesh": {"asset": "a" * 64}}))
    without = evaluator.evaluate(document)
    assert without.left_out == {"mesh": "not here yet"}
    assert without.solid.volume == pytest.approx(8)
    assert {v.id: v.key for v in views.of(document)}["mesh"] is None

    store["a" * 64] = PRIMITIVES["box"].model_validate({"kind": "box", "size": [4, 1, 1]}).mesh()
    whole = evaluator.evaluate(document)
    assert whole.left_out == {}
    assert whole.key != without.key
    assert whole.solid.volume == pytest.approx(10)
    assert {v.id: v.key for v in views.of(document)}["mesh"] is not None


def test_keys_are_told_with_a_way_to_make_their_mesh():
    made = {}
    Views(Evaluator(), lambda key, make: made.update({key: make()})).of(
        piece(part("ball", "sphere", radius=3), box("a"), box("b", (5, 5, 5)))
    )
    assert sorted(len(m.triangles) for m in made.values())[0] == 12
    assert len(made) == 2, "equal primitives share one mesh"
