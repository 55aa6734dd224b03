"""The face under a ray: its plane is exact, and only flat faces have a middle."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noble_clay.core.measure.faces import face_at
from tests.building import box, evaluated, part
from tests.examples import examples

SHARE = st.floats(0.02, 0.98)


def face(parts, eye, direction):
    return face_at(evaluated(*parts).solid, np.array(eye, dtype=float), np.array(direction, dtype=float))


@examples(40)
@given(SHARE, SHARE, st.sampled_from(range(6)))
def test_every_side_of_a_box(u, v, side):
    axis, sign = side % 3, 1 if side < 3 else -1
    half = np.array([15.0, 10.0, 5.0])
    at = np.array([(u * 2 - 1), (v * 2 - 1), 0.5]) * half
    at[axis] = sign * half[axis]
    normal = np.zeros(3)
    normal[axis] = sign
    found = face([box("b", size=2 * half)], at + normal * 7, -normal)
    np.testing.assert_allclose(found.normal, normal, atol=1e-12)
    np.testing.assert_allclose(found.point, at, atol=1e-9)
    np.testing.assert_allclose(found.middle, normal * half, atol=1e-9)


def test_a_face_with_a_hole_is_one_face_and_the_hole_is_no_part_of_it():
    plate = [box("p", size=(20, 20, 4)), part("h", "cylinder", op="difference", radius=3, height=9)]
    found = face(plate, (6, 6, 50), (0, 0, -1))
    np.testing.assert_allclose(found.middle, (0, 0, 2), atol=1e-9)
    assert face(plate, (0, 0, 50), (0, 0, -1)) is None


def test_two_level_faces_apart_are_two():
    blocks = [box("a", (-20, 0, 0), (10, 10, 10)), box("b", (20, 0, 0), (10, 10, 10))]
    np.testing.assert_allclose(face(blocks, (18, 1, 50), (0, 0, -1)).middle, (20, 0, 5), atol=1e-9)


@pytest.mark.parametrize(("facets", "flat"), [(8, True), (64, False)])
def test_facets_of_something_round_have_no_middle(facets, flat):
    found = face([part("c", "cylinder", radius=10, height=20, facets=facets)], (30, 0.1, 3), (-1, 0, 0))
    assert (found.middle is not None) == flat
    assert face([part("c", "cylinder", radius=10, height=20, facets=facets)], (1, 1, 30), (0, 0, -1)).middle is not None


def test_the_top_of_a_filleted_box_is_flat():
    fillet = {"kind": "fillet", "size": 2, "segments": 8}
    found = face([box("b", size=(20, 20, 10), edge=fillet)], (3, 4, 50), (0, 0, -1))
    np.testing.assert_allclose(found.middle, (0, 0, 5), atol=1e-9)


def test_from_within_and_past_it():
    assert face([box("b")], (0, 0, 9), (0, 0, 1)) is None
    assert face([box("b"), box("c", size=(2, 2, 2), op="difference")], (0, 0, 9), (0, 0, -1)) is None
