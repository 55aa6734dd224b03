"""How the small functions are compiled that loops call over and over: without counting who holds the arrays.

A compiled function that is given an array counts itself among its holders, and itself out again at its end. Of a few
lines that look something up in four arrays that took ten times as long as the lines themselves.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

Small = TypeVar("Small", bound=Callable[..., Any])


def small(function: Small) -> Small:
    """Of a function that makes no array and gives none back; it may write into those that it is given. Kept on disk,
    without the lock, numbers as numpy has them.
    """
    found: Small = njit(cache=True, nogil=True, error_model="numpy", _nrt=False)(function)
    return found
