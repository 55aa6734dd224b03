"""A cache of values by content key, bounded by the bytes they hold; the least recently used go first."""

from __future__ import annotations

from collections import OrderedDict
from typing import Generic, Protocol, TypeVar


class Sized(Protocol):
    @property
    def nbytes(self) -> int: ...


V = TypeVar("V", bound=Sized)


class ByteCache(Generic[V]):
    """At most `budget` bytes; one value larger than that is not kept at all."""

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.held = 0
        self.hits = 0
        self.misses = 0
        self._values: OrderedDict[str, V] = OrderedDict()

    def get(self, key: str) -> V | None:
        value = self._values.get(key)
        if value is None:
            self.misses += 1
            return None
        self.hits += 1
        self._values.move_to_end(key)
        return value

    def put(self, key: str, value: V) -> None:
        size = value.nbytes
        if size > self.budget:
            return
        old = self._values.pop(key, None)
        self.held += size - (old.nbytes if old is not None else 0)
        self._values[key] = value
        while self.held > self.budget:
            _, dropped = self._values.popitem(last=False)
            self.held -= dropped.nbytes

    def __len__(self) -> int:
        return len(self._values)
