"""Compiled loops, two at a time: they run without Python's lock."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any

THREADS = 2


def in_threads(work: Callable[[int], Any], items: Any) -> Iterator[Any]:
    """The results of work on items, in order; two at a time. It must be compiled, to run beside another."""
    return map(work, items) if len(items) < 2 else _threads().map(work, items)


def in_slices(work: Callable[[slice], Any], number: int, most: int) -> Iterator[Any]:
    """The results of work on slices of so many things, `most` of them each, in order; of none, one slice."""
    return in_threads(lambda begin: work(slice(begin, begin + most)), range(0, max(1, number), most))


def in_told_slices(work: Callable[[slice], Any], number: int, most: int, go_on: Callable[[float], None]) -> None:
    """Does work on slices of so many things, `most` of them each. go_on: told which share is done after each."""
    if number:
        for done, _ in enumerate(in_slices(work, number, most)):
            go_on(min(1.0, (done + 1) * most / number))


@cache
def _threads() -> ThreadPoolExecutor:
    """Begun once in a process: to begin two takes as long as many an item."""
    return ThreadPoolExecutor(THREADS)


os.register_at_fork(after_in_child=_threads.cache_clear)  # a child has none of its parent's threads
