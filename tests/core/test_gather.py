"""Gathering: by the compiled loops and without them the same, and what a small build does without."""

import subprocess
import sys

import numpy as np
import pytest

from noble_clay.core.mesh import gather
from noble_clay.core.mesh.close_points import near_pairs
from tests.building import box, part, piece

WAYS = pytest.mark.parametrize("compiled", [False, True], ids=["sorted", "compiled"])
RNG = np.random.default_rng(7)
FEW_PLACES = RNG.integers(-1, 2, (200, 3)) * 0.5


@pytest.fixture
def way(compiled, monkeypatch):
    monkeypatch.setattr(gather, "compiled_for", lambda many: compiled)


@WAYS
@pytest.mark.parametrize("points", [FEW_PLACES, RNG.random((50, 3)), np.zeros((1, 3)), np.zeros((0, 3))])
def test_equal_corners_are_told_by_the_first_of_each(way, points):
    index, firsts = gather.equal_corners(points)
    known = {}
    for i, point in enumerate(points + 0.0):
        known.setdefault(tuple(point), i)
    assert firsts.tolist() == list(known.values())
    assert [int(firsts[i]) for i in index] == [known[tuple(p)] for p in points + 0.0]


@WAYS
@pytest.mark.parametrize("links", [0, 30, 60, 200])
def test_linked_things_are_one_group_counted_by_its_first(way, links):
    number = 60
    ties = np.random.default_rng(links).integers(0, number, (links, 2))
    group = {i: {i} for i in range(number)}
    for a, b in ties.tolist():
        if group[a] is not group[b]:
            group[a] |= group[b]
            for member in group[b]:
                group[member] = group[a]
    lowest = [min(group[i]) for i in range(number)]
    count, label = gather.connected_components(number, ties)
    firsts = sorted(set(lowest))
    assert (count, label.tolist()) == (len(firsts), [firsts.index(low) for low in lowest])
    assert gather.lowest_of_components(number, ties).tolist() == lowest


@WAYS
def test_a_long_chain_in_any_order_is_one_group(way):
    order = np.random.default_rng(3).permutation(5_000)
    count, label = gather.connected_components(5_001, np.column_stack([order[:-1], order[1:]]))
    assert count == 2
    assert np.flatnonzero(label == label[5_000]).tolist() == [5_000]


@WAYS
def test_each_shell_has_its_own_box(way):
    points = np.random.default_rng(4).normal(size=(30, 3))
    triangles = np.random.default_rng(5).integers(0, 30, (40, 3))
    shell = np.random.default_rng(6).integers(0, 4, 40)
    shell[shell == 2] = 3  # one that no triangle is of
    low, high = gather.boxes_by(shell, 4, points, triangles)
    for name in range(4):
        mine = points[triangles[shell == name]].reshape(-1, 3)
        if len(mine) == 0:
            assert (low[name].tolist(), high[name].tolist()) == ([np.inf] * 3, [-np.inf] * 3)
        else:
            assert (low[name].tolist(), high[name].tolist()) == (mine.min(axis=0).tolist(), mine.max(axis=0).tolist())


@pytest.mark.parametrize("crowd", [3, 60], ids=["few together", "many together"])
def test_points_near_each_other_are_all_found(crowd):
    rng = np.random.default_rng(crowd)
    points = np.repeat(rng.random((20, 3)), crowd, axis=0) + rng.normal(scale=2e-3, size=(20 * crowd, 3))
    found = {tuple(sorted(pair)) for pair in near_pairs(points, points @ np.array([0.6, 0.0, 0.8]), 3e-3).tolist()}
    away = np.linalg.norm(points[:, None] - points[None], axis=2)
    assert found == {(i, j) for i, j in np.argwhere(away <= 3e-3).tolist() if i < j}
    assert found


def test_a_small_build_loads_neither_compiled_loops_nor_what_it_does_not_use(tmp_path):
    """The bare kernel's start is what a newcomer's first command is measured by."""
    rod = part("rod", "cylinder", (0, 0, 10), op="difference", radius=4, height=30)
    (tmp_path / "x.clay.json").write_text(piece(box("b", (0, 0, 10), (20, 20, 20)), rod).text())
    code = (
        "import sys; from noble_clay.cli import main; status = main(sys.argv[1:]);"
        "print([m for m in ('numba', 'scipy', 'igl', 'trimesh', 'lib3mf', 'fastapi') if m in sys.modules], status)"
    )
    command = [sys.executable, "-c", code, "build", str(tmp_path / "x.clay.json"), "-o", str(tmp_path / "x.stl")]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[] 0"


@pytest.mark.parametrize("most", [3, 10**6, 2**40])
def test_rows_and_numbers_are_told_apart_as_the_library_does(most):
    """Also where the product of the ranges is more than a number holds."""
    rng = np.random.default_rng(4)
    rows = rng.integers(-most, most, (60, 3))[rng.integers(0, 60, 400)]
    np.testing.assert_array_equal(gather.unique_rows(rows), np.unique(rows, axis=0))
    np.testing.assert_array_equal(gather.distinct(rows), np.unique(rows))
    order = np.argsort(gather.row_codes(rows), kind="stable")
    np.testing.assert_array_equal(order, np.lexsort(rows.T[::-1]))
    assert len(gather.unique_rows(rows[:0])) == len(gather.distinct(rows[:0])) == 0
