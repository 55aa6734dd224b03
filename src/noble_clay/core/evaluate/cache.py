"""Caches bounded by the bytes that their values hold; the least recently used go first."""

from __future__ import annotations

from typing import Any, Generic, Protocol, TypeVar

from cachetools import LRUCache

MOST_LARGE = 4
"""Values kept that are larger than half the budget."""


class Sized(Protocol):
    @property
    def nbytes(self) -> int: ...


V = TypeVar("V", bound=Sized)


def _bytes(value: Sized) -> int:
    return value.nbytes


class ByteCache(Generic[V]):
    """At most `budget` bytes, and beside them the last `MOST_LARGE` values that are each larger than half of that: such
    a value would push everything else out, or find no room, and takes longest to make again.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.hits = 0
        self.misses = 0
        self._values: Any = LRUCache(budget, getsizeof=_bytes)
        self._large: Any = LRUCache(MOST_LARGE)

    @property
    def held(self) -> int:
        """Bytes of all but the large values."""
        return int(self._values.currsize)

    def get(self, key: Any) -> V | None:
        for values in (self._values, self._large):
            value: V | None = values.get(key)
            if value is not None:
                self.hits += 1
                return value
        self.misses += 1
        return None

    def put(self, key: Any, value: V) -> None:
        large = value.nbytes > self.budget / 2
        (self._large if large else self._values)[key] = value

    def __len__(self) -> int:
        return len(self._values) + len(self._large)
