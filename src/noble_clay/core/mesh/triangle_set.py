"""A set of triangles by where they stand, to find again which of a mesh were in another.

Open addressing with linear probing: D. E. Knuth, "The Art of Computer Programming", volume 3, 6.4. A triangle is its
nine coordinates, from one of its corners on, mixed to 64 bits (by the constants of MurmurHash3's end): two that are not
alike are taken for one in about one of 10¹⁰ meshes of 10⁵ triangles.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import compiled, prange, small, spread
from noble_clay.core.mesh.mesh import Mesh


@dataclass(frozen=True, eq=False)
class TriangleSet:
    """table: the triangles' numbers, each at the first free place from its own on; 0 where there is none."""

    table: NDArray[np.uint64]

    @staticmethod
    def of(numbers: NDArray[np.uint64]) -> TriangleSet:
        """numbers: (m,), as `triangle_numbers` gives them."""
        size = 4
        while size < 2 * len(numbers):
            size *= 2
        return TriangleSet(_put(numbers, np.zeros(size, dtype=np.uint64)))

    def holds(self, numbers: NDArray[np.uint64]) -> NDArray[np.bool_]:
        """(m,) which of some triangles are in here."""
        found: NDArray[np.bool_] = _there(numbers, self.table)
        return found

    @property
    def nbytes(self) -> int:
        return int(self.table.nbytes)


def triangle_numbers(mesh: Mesh, seed: float = 0.0) -> NDArray[np.uint64]:
    """(m,) a number for each triangle, never 0: alike where all nine coordinates and the seed are, bit by bit."""
    start = np.array([seed]).view(np.uint64)[0]
    found: NDArray[np.uint64] = _mixed(np.ascontiguousarray(mesh.vertices), mesh.triangles, start)
    return found


@spread
def _mixed(points: Any, triangles: Any, start: Any) -> Any:
    bits = points.view(np.uint64)
    found = np.empty(len(triangles), dtype=np.uint64)
    for t in prange(len(triangles)):
        number = start
        for k in range(3):
            for axis in range(3):
                number = (number ^ bits[triangles[t, k], axis]) * np.uint64(0xFF51AFD7ED558CCD)
                number ^= number >> np.uint64(33)
                number *= np.uint64(0xC4CEB9FE1A85EC53)
                number ^= number >> np.uint64(33)
        found[t] = max(number, np.uint64(1))
    return found


@small
def _place(number: Any, table: Any) -> Any:
    """Where in a table a number is, or would be put."""
    at = number & np.uint64(len(table) - 1)
    while table[at] != 0 and table[at] != number:
        at = (at + np.uint64(1)) & np.uint64(len(table) - 1)
    return at


@compiled
def _put(numbers: Any, table: Any) -> Any:
    for number in numbers:
        table[_place(number, table)] = number
    return table


@spread
def _there(numbers: Any, table: Any) -> Any:
    found = np.empty(len(numbers), dtype=np.bool_)
    for t in prange(len(numbers)):
        found[t] = table[_place(numbers[t], table)] == numbers[t]
    return found
