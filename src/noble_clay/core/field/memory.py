"""What was found out about blocks of the lattice, kept for the next edit: most of them are shaped by the same parts."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Ints

if TYPE_CHECKING:  # compiled loops, which an evaluator that makes nothing soft has no use for
    from noble_clay.core.mesh.triangle_set import TriangleSet


@dataclass(frozen=True, eq=False)
class Kept:
    """rows (n, ...) of each array by their keys (n,). table: of the keys, as `key_table` makes it."""

    keys: Ints
    table: NDArray[np.int32]
    rows: tuple[Any, ...]

    @staticmethod
    def of(keys: Ints, *rows: Any) -> Kept:
        from noble_clay.core.field.key_table import key_table

        return Kept(keys, key_table(keys), tuple(each.copy() for each in rows))

    def find(self, keys: Ints) -> Ints:
        """(n,) in which row each key is, or -1."""
        from noble_clay.core.field.key_table import found_in

        found: Ints = found_in(self.table, self.keys, keys)
        return found

    @property
    def nbytes(self) -> int:
        return int(self.keys.nbytes + self.table.nbytes + sum(each.nbytes for each in self.rows))


class Memory:
    """The last surfaces' blocks and vertices, and the triangles of those that cross nowhere, each within a budget of
    bytes.
    """

    def __init__(self, budget: int) -> None:
        self._budget = budget
        self._kept: dict[str, deque[Kept]] = {}
        self._clean: deque[TriangleSet] = deque()

    def keep(self, kind: str, kept: Kept) -> None:
        every = self._kept.setdefault(kind, deque())
        every.appendleft(kept)
        self._within_budget(every)

    def keep_clean(self, triangles: TriangleSet) -> None:
        self._clean.appendleft(triangles)
        self._within_budget(self._clean)

    def _within_budget(self, every: deque[Any]) -> None:
        while every and sum(each.nbytes for each in every) > self._budget:
            every.pop()

    def clean_together(self, numbers: NDArray[np.uint64]) -> NDArray[np.bool_]:
        """(m,) which triangles of a surface were together in one that crosses nowhere: the one that had most of them,
        or the first that had the half.
        """
        most = np.zeros(len(numbers), dtype=np.bool_)
        for each in self._clean:
            held = each.holds(numbers)
            if held.sum() > most.sum():
                most = held
            if 2 * most.sum() >= len(most):
                break
        return most

    def fill(self, kind: str, keys: Ints, rows: tuple[Any, ...]) -> Ints:
        """Puts what is known into rows (n, ...) of each array; (n,) of which surface before, counted from the last one,
        each was known, -1 where it was not.
        """
        known = np.full(len(keys), -1)
        for number, kept in enumerate(self._kept.get(kind, ())):
            missing = np.flatnonzero(known < 0)
            if len(missing) == 0:
                break
            at = kept.find(keys[missing])
            there = at >= 0
            for into, each in zip(rows, kept.rows, strict=True):
                into[missing[there]] = each[at[there]]
            known[missing[there]] = number
        return known
