"""How the loops of the fields are compiled: kept on disk, without the lock, numbers as numpy has them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

Loop = TypeVar("Loop", bound=Callable[..., Any])


def compiled(loop: Loop) -> Loop:
    found: Loop = njit(cache=True, nogil=True, error_model="numpy")(loop)
    return found
