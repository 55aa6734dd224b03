"""Counting aside: short before long, one a piece, more than one at a time, given up when overtaken."""

from itertools import pairwise

import pytest

from noble_clay.core.errors import Stopped
from noble_clay.solvers.counting import LONG_WEIGHT, Counting
from noble_clay.solvers.desk import weight_of
from noble_clay.solvers.pool import Pool
from tests.building import box, part, piece, soft_worm
from tests.waiting import wait_until


@pytest.fixture
def counting(tmp_path):
    pool = Pool(tmp_path, size=1)
    found = Counting(pool, tmp_path)
    yield found
    found.close()
    pool.close()


def want(counting, name, document, mark=1):
    return counting.want(name, "count", mark, weight_of(document), name, document)


LONG = piece(soft_worm(16)).dump()
SHORT = piece(box("a"), box("b", (0.5, 0, 0))).dump()


def test_short_work_is_done_while_long_work_goes_on(counting):
    assert weight_of(LONG) > LONG_WEIGHT > weight_of(SHORT)
    long = [want(counting, f"long {i}", LONG) for i in range(2)]
    wait_until(lambda: counting.share("long 0", "count") is not None)
    assert want(counting, "short", SHORT).result(60)["soundness"]["sound"]
    assert not any(f.done() for f in long), "one is being done, the other waits for the process that may do it"
    assert counting.share("long 0", "count") is not None and counting.share("long 1", "count") is None
    assert all(f.result(120)["soundness"]["bodies"] == 1 for f in long)


def test_what_is_wanted_again_is_the_same_work_and_what_is_overtaken_is_given_up(counting):
    first = want(counting, "p", LONG, mark="a")
    assert want(counting, "p", LONG, mark="a") is first
    wait_until(lambda: counting.share("p", "count") is not None)
    second = want(counting, "p", SHORT, mark="b")
    with pytest.raises(Stopped):
        first.result(20)
    assert second.result(30)["soundness"]["sound"]
    third = want(counting, "p", LONG, mark="c")
    counting.drop("p", "count")
    with pytest.raises(Stopped):
        third.result(20)


def test_what_fails_is_told_and_the_next_goes_on(counting):
    failing = counting.want("p", "count", 1, 1.0, "p", {"format": "none"})
    with pytest.raises(Exception, match="format"):
        failing.result(30)
    assert want(counting, "p", SHORT, mark=2).result(30)["soundness"]["sound"]


def test_a_piece_weighs_what_it_takes():
    copies = {"kind": "grid", "counts": [10, 10, 1], "step": [2, 2, 0]}
    weights = [
        weight_of(piece(*parts).dump())
        for parts in (
            [box("a")],
            [box("a"), box("b")],
            [part("a", "sphere", radius=1, _copies=copies)],
            [soft_worm(12)],
            [{**soft_worm(12), "copies": {"kind": "row", "count": 5, "step": [0, 20, 0]}}],
        )
    ]
    assert all(a < b for a, b in pairwise(weights))
