"""Whether a mesh is closed and turned consistently, told in one pass."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, prange

from noble_clay.core.mesh.mesh import Ints


def is_closed(triangles: Ints) -> bool:
    """Whether every edge is passed as often one way as the other. Edges are not paired but summed, as numbers of 64
    bits, with those of the other way taken off: a mesh that is open is missed once in 2⁶⁴.

    triangles: (m, 3).
    """
    return bool(_left_over(np.ascontiguousarray(triangles)) == 0)


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _left_over(triangles: Any) -> Any:
    left = np.uint64(0)
    for t in prange(len(triangles)):
        for k in range(3):
            a, b = triangles[t, k], triangles[t, (k + 1) % 3]
            left += _number(a, b) - _number(b, a)
    return left


@njit(cache=True)  # type: ignore[untyped-decorator]
def _number(a: Any, b: Any) -> Any:
    """An edge's, mixed (S. Vigna, "SplitMix64", 2015)."""
    number = np.uint64(a) * np.uint64(0x9E3779B97F4A7C15) + np.uint64(b)
    number = (number ^ (number >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    number = (number ^ (number >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return number ^ (number >> np.uint64(31))
