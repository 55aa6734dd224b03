"""Where keys are and in which order codes come, against a dictionary and NumPy's sorting."""

import numpy as np
import pytest

from noble_clay.core.field.key_table import found_in, key_table
from noble_clay.core.field.memory import Kept, Memory
from noble_clay.core.mesh.box_tree import _in_order


@pytest.mark.parametrize("number", [0, 1, 2, 3, 100, 5_000])
def test_keys_are_found_where_a_dictionary_has_them(number):
    rng = np.random.default_rng(number)
    spread = rng.choice([1, 16, 2**32, 2**33 + 1])  # many with the same lower or upper half
    keys = np.unique(rng.integers(-2 * number, 2 * number + 1, 4 * number))[:number] * spread
    rng.shuffle(keys)
    wanted = np.concatenate([keys, keys + 1, rng.integers(-(2**62), 2**62, 50)])
    where = {key: n for n, key in enumerate(keys.tolist())}
    assert found_in(key_table(keys), keys, wanted).tolist() == [where.get(key, -1) for key in wanted.tolist()]


def test_rows_come_from_the_last_surface_that_had_them_and_each_is_told():
    memory = Memory(10_000)
    memory.keep("blocks", Kept.of(np.array([1, 2, 3]), np.array([10.0, 20.0, 30.0])))
    memory.keep("blocks", Kept.of(np.array([4, 2]), np.array([44.0, 22.0])))
    rows = np.zeros(5)
    assert memory.fill("blocks", np.array([2, 3, 9, 4, 1]), (rows,)).tolist() == [0, 1, -1, 0, 1]
    assert rows.tolist() == [22.0, 30.0, 0.0, 44.0, 10.0]


def test_what_is_kept_does_not_change_with_what_it_was_made_of():
    values = np.array([1.0, 2.0])
    kept = Kept.of(np.array([7, 5]), values)
    values[:] = 0
    assert kept.rows[0].tolist() == [1.0, 2.0]


@pytest.mark.parametrize("number", [0, 1, 5, 1_000, 60_000])
def test_codes_come_in_the_order_of_a_stable_sort(number):
    rng = np.random.default_rng(number)
    codes = rng.integers(0, 2**30, number).astype(np.uint32)
    codes[::3] = codes[: len(codes[::3])]
    assert np.array_equal(_in_order(codes), np.argsort(codes, kind="stable"))
