"""Caches bounded by the bytes that their values hold; the least recently used go first."""

from __future__ import annotations

from collections import OrderedDict
from typing import Any, Generic, Protocol, TypeVar

from cachetools import LRUCache

MOST_LARGE = 4
"""Values kept that are larger than half the budget."""


class Sized(Protocol):
    @property
    def nbytes(self) -> int: ...


V = TypeVar("V", bound=Sized)


class ByteCache(Generic[V]):
    """At most `budget` bytes, and beside them the last `MOST_LARGE` values that are each larger than half of that: such
    a value would push everything else out, or find no room, and takes longest to make again.

    One value under several keys (a join, the same where it stands, the list that has nothing else) counts once.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.hits = 0
        self.misses = 0
        self.held = 0
        """Bytes of all but the large values."""
        self._values: OrderedDict[Any, V] = OrderedDict()
        self._shares: dict[int, tuple[int, int]] = {}
        """Under how many keys each value is, by its identity, and its bytes."""
        self._large: Any = LRUCache(MOST_LARGE)

    def get(self, key: Any) -> V | None:
        value: V | None = self._values.get(key)
        if value is not None:
            self._values.move_to_end(key)
        else:
            value = self._large.get(key)
        if value is None:
            self.misses += 1
        else:
            self.hits += 1
        return value

    def put(self, key: Any, value: V) -> None:
        if value.nbytes > self.budget / 2:
            self._large[key] = value
            return
        if key in self._values:
            self._let_go(key)
        self._values[key] = value
        keys, size = self._shares.get(id(value), (0, value.nbytes))
        self._shares[id(value)] = keys + 1, size
        self.held += 0 if keys else size
        while self.held > self.budget:
            self._let_go(next(iter(self._values)))

    def _let_go(self, key: Any) -> None:
        value = self._values.pop(key)
        keys, size = self._shares.pop(id(value))
        if keys > 1:
            self._shares[id(value)] = keys - 1, size
        else:
            self.held -= size

    def __len__(self) -> int:
        return len(self._values) + len(self._large)
