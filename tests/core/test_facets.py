"""One triangle cut up along lines: nothing of it is lost, every line is there, and no piece is turned over."""

import numpy as np
import pytest

from noble_clay.core.mend.facets import cut_triangles

CORNERS = np.array([[0.0, 0, 1], [10, 0, 3], [0, 10, -2]])


def on(u, v):
    """A point of the triangle: shares of its first and second side."""
    return CORNERS[0] + u * (CORNERS[1] - CORNERS[0]) + v * (CORNERS[2] - CORNERS[0])


def cut(rims=((), (), ()), inner=(), lines=(), corners=CORNERS):
    """Cut one triangle: shares along its three sides, points in it, and lines between points by number."""
    sides = [corners[k] + s * (corners[(k + 1) % 3] - corners[k]) for k in range(3) for s in rims[k]]
    points = np.array([*corners, *sides, *inner])
    starts = np.cumsum([0, *(len(r) for r in rims)])
    many = starts[-1]
    found, owner, whole = cut_triangles(
        points,
        np.array([[0, 1, 2]]),
        starts,
        np.arange(3, 3 + many),
        np.array([0, len(inner)]),
        np.arange(3 + many, len(points)),
        np.array([0, len(lines)]),
        np.array(lines, dtype=np.int64).reshape(-1, 2),
    )
    assert set(owner.tolist()) == {0}
    return points, found, bool(whole[0])


def normals_of(points, triangles):
    a, b, c = points[triangles].transpose(1, 0, 2)
    return np.cross(b - a, c - a)


def edges(triangles):
    return {frozenset(e) for t in triangles.tolist() for e in zip(t, [*t[1:], t[0]], strict=True)}


def is_a_division(points, triangles):
    """The pieces are turned as the triangle is, fill it, and meet in whole edges."""
    own = normals_of(points, np.array([[0, 1, 2]]))[0]
    pieces = normals_of(points, triangles)
    along = pieces @ own / np.linalg.norm(own)
    halves = [(t[k], t[(k + 1) % 3]) for t in triangles.tolist() for k in range(3)]
    return (
        bool((along > -1e-9).all())
        and along.sum() == pytest.approx(np.linalg.norm(own))
        and len(set(halves)) == len(halves)
    )


def test_nothing_to_cut_leaves_it_whole():
    points, found, whole = cut()
    assert (found.tolist(), whole) == ([[0, 1, 2]], True)


def test_points_on_its_sides_are_used_in_their_order():
    points, found, whole = cut(rims=((0.25, 0.5), (0.5,), (0.1, 0.2, 0.9)))
    assert whole
    assert len(found) == 1 + 6
    assert is_a_division(points, found)
    rim = {frozenset(e) for e in zip([0, 3, 4, 1, 5, 2, 6, 7, 8], [3, 4, 1, 5, 2, 6, 7, 8, 0], strict=True)}
    assert rim <= edges(found)


def test_a_line_from_side_to_side_divides_it():
    points, found, whole = cut(rims=((0.5,), (0.5,), ()), lines=[(3, 4)])
    assert whole
    assert frozenset({3, 4}) in edges(found)
    assert is_a_division(points, found)


def test_a_point_within_makes_three_of_one_and_on_an_edge_four_of_two():
    points, found, _ = cut(inner=[on(0.3, 0.3)])
    assert len(found) == 3
    points, found, _ = cut(inner=[on(0.2, 0.2), on(0.1, 0.1)])  # the second lies on the edge from a corner to the first
    assert len(found) == 5
    assert is_a_division(points, found)
    assert frozenset({0, 4}) in edges(found) and frozenset({4, 3}) in edges(found)


@pytest.mark.parametrize("seed", range(25))
def test_lines_at_random_that_do_not_cross_are_all_there(seed):
    """A closed polygon within, its sides the lines, as the cut of a body through a large face is."""
    rng = np.random.default_rng(seed)
    number = int(rng.integers(3, 24))
    angle = np.sort(rng.uniform(0, 2 * np.pi, number))
    reach = rng.uniform(0.03, 0.15, number)
    ring = [on(0.3 + r * np.cos(a), 0.3 + r * np.sin(a)) for a, r in zip(angle, reach, strict=True)]
    lines = [(3 + i, 3 + (i + 1) % number) for i in range(number)]
    points, found, whole = cut(inner=ring, lines=lines)
    assert whole
    assert {frozenset(line) for line in lines} <= edges(found)
    assert len(found) == 1 + 2 * number
    assert is_a_division(points, found)


@pytest.mark.parametrize("axis", range(3))
@pytest.mark.parametrize("turned", [False, True])
def test_whichever_way_it_faces_its_pieces_face_that_way(axis, turned):
    flat = np.roll(np.array([[0.0, 0, 0], [8, 0, 0], [0, 8, 0]]), axis, axis=1)
    corners = flat[::-1] if turned else flat
    middle = corners.mean(axis=0)
    points, found, whole = cut(rims=((0.5,), (), ()), inner=[middle], lines=[(3, 4)], corners=corners)
    assert whole
    assert is_a_division(points, found)
    assert frozenset({3, 4}) in edges(found)


def test_a_line_to_a_point_that_is_not_of_the_triangle_is_told():
    _, found, whole = cut(inner=[on(0.3, 0.3)], lines=[(0, 99)])
    assert not whole
    assert len(found) == 3, "what could be cut is cut"


def test_many_are_cut_at_once_and_each_piece_knows_its_own():
    points = np.array([*CORNERS, *(CORNERS + [20, 0, 0]), on(0.3, 0.3), on(0.2, 0.5) + [20, 0, 0], on(0.5, 0.2)])
    found, owner, whole = cut_triangles(
        points,
        np.array([[0, 1, 2], [3, 4, 5]]),
        np.zeros(7, dtype=np.int64),
        np.zeros(0, dtype=np.int64),
        np.array([0, 2, 3]),
        np.array([6, 8, 7]),
        np.array([0, 1, 1]),
        np.array([[6, 8]]),
    )
    assert whole.all()
    assert np.bincount(owner).tolist() == [5, 3]
    assert set(found[owner == 1].ravel().tolist()) == {3, 4, 5, 7}
