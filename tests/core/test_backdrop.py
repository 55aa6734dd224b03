"""What stands around a drawn part, in the coordinates of its drawing."""

import numpy as np
import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.measure.backdrop import backdrop
from tests.building import box, join, part, piece

SQUARE = [[[10, 20], [30, 20], [30, 40], [10, 40]]]
PROFILE = [[0, 0], [6, 0], [6, 10], [0, 10]]


def boxes(rings):
    return sorted([np.round([*r.min(axis=0), *r.max(axis=0)], 2).tolist() for r in rings])


def around(made, part_id):
    return backdrop(made, part_id, Evaluator())


def test_neighbours_are_cut_at_an_outlines_floor_in_its_own_coordinates():
    """The outline's middle, (20, 30) as it is drawn, stands at (100, 0) on the wheel, its floor at 2."""
    made = piece(
        part("o", "outline", (100, 0, 5), loops=SQUARE, height=6),
        box("low", (100, 0, 0), (4, 4, 2)),
        box("there", (110, 3, 4), (4, 2, 8)),
        {**box("hint", (100, 0, 4), (50, 50, 8)), "reference": True},
    )
    assert boxes(around(made, "o")) == [[28, 32, 32, 34]]


def test_a_turned_and_nested_outline_sees_them_turned_too():
    inner = join("g", part("o", "outline", (0, 0, 3), loops=SQUARE, height=6), box("mate", (0, 8, 3), (2, 4, 6)))
    made = piece(
        {**inner, "place": {"rotation": [0, 0, 90], "position": [50, 0, 0]}}, box("far", (50, 20, 3), (2, 6, 6))
    )
    # Along the wheel's y is along the group's x.
    assert boxes(around(made, "o")) == [[19, 36, 21, 40], [37, 29, 43, 31]]


def test_a_profile_sees_what_its_plane_cuts():
    made = piece(
        part("t", "turned", (0, 0, 20), profile=PROFILE),
        box("beside", (10, 0, 20), (4, 4, 4)),
        box("behind", (0, 30, 20), (4, 4, 4)),
    )
    assert boxes(around(made, "t")) == [[8, 3, 12, 7]]


def test_only_what_is_drawn_on_a_board_has_a_backdrop():
    with pytest.raises(PieceError, match="not drawn on a board"):
        around(piece(box("b")), "b")
