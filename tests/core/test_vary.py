"""Copies that are each a little different, and drawn forms that stay where they are drawn."""

import numpy as np
import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.affine import compose
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.placing import copy_matrices, place_matrix
from noble_clay.core.piece.tree import find
from tests.building import part, piece

VARY = {"seed": 7, "turn": 30, "size": 0.2, "shift": 1.5}


def stone(vary, count=40, **more):
    copies = {"kind": "row", "count": count, "step": [20, 0, 0]}
    return part("stone", "box", at=(3, 4, 5), turn=(0, 0, 20), size=[6, 4, 3], _copies={**copies, "vary": vary}, **more)


def landed(values):
    return copy_matrices(find(piece(values), "stone").part)


def test_every_copy_but_the_part_itself_varies_within_its_bounds():
    plain, varied = landed(stone(None)), landed(stone(VARY))
    assert np.array_equal(plain[0], varied[0])
    middle = np.array([3, 4, 5, 1.0])
    sizes, shifts, turns = [], [], []
    for before, after in zip(plain[1:], varied[1:], strict=True):
        size = np.linalg.det(after[:, :3]) ** (1 / 3)
        sizes.append(size)
        shifts.append(after @ middle - before @ middle)
        turns.append(np.degrees(np.arccos((np.trace(after[:, :3] / size) - 1) / 2)))
    assert 0.8 <= min(sizes) < 0.9 and 1.1 < max(sizes) <= 1.2
    assert np.abs(shifts).max() <= 1.5 and np.abs(shifts).max(axis=0).min() > 1
    assert 5 < max(turns) <= 30 * np.sqrt(3) + 1e-9


def test_the_same_seed_and_number_give_the_same_and_another_seed_another():
    few, many = landed(stone(VARY, 5)), landed(stone(VARY, 40))
    assert np.array_equal(few, many[:5])
    assert not np.allclose(landed(stone({**VARY, "seed": 8}, 5)), few)


def test_a_group_turns_about_the_middle_of_what_it_is_made_of():
    inner = part("a", "box", at=(100, 0, 0), size=[2, 2, 2]), part("b", "box", at=(104, 0, 0), size=[2, 2, 2])
    copies = {"kind": "row", "count": 2, "step": [0, 50, 0], "vary": {"seed": 1, "turn": 90}}
    group = {"id": "stone", "join": {"parts": list(inner)}, "copies": copies}
    far = landed(group)[1] @ [102, 0, 0, 1]
    assert far == pytest.approx([102, 50, 0])


def test_varied_copies_are_where_the_view_and_broken_ones_put_them():
    start = piece(stone(VARY, 6))
    whole = Evaluator().evaluate(start).inspection.volume
    broken = apply(start, edit_from_values({"kind": "break_copies", "ids": ["stone"]})).piece
    assert Evaluator().evaluate(broken).inspection.volume == pytest.approx(whole, rel=1e-6)
    placed = [compose(m, place_matrix(p.place, p.flip)) for p in broken.parts for m in copy_matrices(p)]
    origin = find(start, "stone").part
    before = [compose(m, place_matrix(origin.place, origin.flip)) for m in copy_matrices(origin)]
    assert np.allclose(placed, before, atol=1e-5)


@pytest.mark.parametrize("wrong", [{"size": 1}, {"turn": -1}, {"seed": -1}, {"shift": -2}, {"more": 1}])
def test_what_cannot_be_is_refused(wrong):
    with pytest.raises(PieceError):
        piece(stone({**VARY, **wrong}))


DRAWN = {
    "turned": ({"profile": [[0, 0], [8, 0], [5, 20]]}, {"profile": [[0, -6], [8, 0], [5, 30]]}, (8, 0, 0)),
    "outline": (
        {"loops": [[[0, 0], [20, 0], [20, 10], [0, 10]]], "height": 4},
        {"loops": [[[0, 0], [50, 0], [20, 10], [-8, 30]]], "height": 9},
        (0, 0, 0),
    ),
    "limb": (
        {"points": [[0, 0, 0], [0, 0, 20], [9, 0, 30]], "radii": [4, 3, 2]},
        {"points": [[0, 0, 0], [0, 0, 20], [19, 7, 40]], "radii": [4, 3, 5]},
        (0, 0, 20),
    ),
}


@pytest.mark.parametrize("kind", DRAWN)
def test_points_that_were_not_moved_stay_where_they_are(kind):
    before, after, fixed = DRAWN[kind]
    thing = part("thing", kind, **before)
    place = {"position": [3, -4, 5], "rotation": [20, 30, 40], "scale": [2, 2, 2]}
    start = piece(thing | {"place": place, "flip": ["x"]})
    edit = {"kind": "set_primitive", "id": "thing", "primitive": {"kind": kind, **before, **after}}
    outcome = apply(start, edit_from_values(edit))
    stands = []
    for found in (start, outcome.piece):
        thing = find(found, "thing").part
        matrix = place_matrix(thing.place, thing.flip)
        stands.append(matrix @ np.append(np.array(fixed) - thing.primitive.drawn_origin(), 1))
    assert stands[1] == pytest.approx(stands[0], abs=1e-5)
    assert apply(outcome.piece, outcome.inverse).piece == start
