"""A cache of values by content key, bounded by the bytes they hold; the least recently used go first."""

from __future__ import annotations

from collections import OrderedDict
from typing import Generic, Protocol, TypeVar

MOST_LARGE = 4
"""Values kept that are larger than half the budget."""


class Sized(Protocol):
    @property
    def nbytes(self) -> int: ...


V = TypeVar("V", bound=Sized)


class ByteCache(Generic[V]):
    """At most `budget` bytes, and beside them the last `MOST_LARGE` values that are each larger than half of that: such
    a value would push everything else out, or find no room, and takes longest to make again.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.held = 0
        self.hits = 0
        self.misses = 0
        self._values: OrderedDict[str, V] = OrderedDict()
        self._large: OrderedDict[str, V] = OrderedDict()

    def get(self, key: str) -> V | None:
        for values in (self._values, self._large):
            value = values.get(key)
            if value is not None:
                self.hits += 1
                values.move_to_end(key)
                return value
        self.misses += 1
        return None

    def put(self, key: str, value: V) -> None:
        size = value.nbytes
        if size > self.budget / 2:
            self._large[key] = value
            self._large.move_to_end(key)
            if len(self._large) > MOST_LARGE:
                self._large.popitem(last=False)
            return
        old = self._values.pop(key, None)
        self.held += size - (old.nbytes if old is not None else 0)
        self._values[key] = value
        while self.held > self.budget:
            _, dropped = self._values.popitem(last=False)
            self.held -= dropped.nbytes

    def __len__(self) -> int:
        return len(self._values) + len(self._large)
