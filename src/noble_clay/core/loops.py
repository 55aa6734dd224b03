"""How the loops of the core are compiled, and how what was compiled is read again.

All are kept on disk, run without Python's lock, and divide as numpy does: by nought without an error. Read again they
cost a hundredth of a second each, and no more: before it reads the first, numba loads all it knows of compiling (0.2 s,
and SciPy's linear algebra another 0.2 s), which only what is not kept yet has need of.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from numba import njit, prange
from numba.core import environment
from numba.core.caching import FunctionCache
from numba.core.runtime import rtsys

__all__ = ["compiled", "prange", "small", "spread"]

Loop = TypeVar("Loop", bound=Callable[..., Any])


def compiled(loop: Loop) -> Loop:
    return _kept(loop)


def spread(loop: Loop) -> Loop:
    """Of one whose `prange` runs on all cores at once."""
    return _kept(loop, parallel=True)


def small(loop: Loop) -> Loop:
    """Of a few lines that other loops call over and over: without counting who holds the arrays. It makes none and
    gives none back; it may write into those that it is given.

    A compiled function that is given an array counts itself among its holders, and itself out again at its end. Of a
    few lines that look something up in four arrays that took ten times as long as the lines themselves.
    """
    return _kept(loop, _nrt=False)


def _kept(loop: Loop, **options: Any) -> Loop:
    found = njit(cache=True, nogil=True, error_model="numpy", **options)(loop)
    found._cache.__class__ = _Kept  # noqa: SLF001
    return found  # type: ignore[no-any-return]


class _Kept(FunctionCache):  # type: ignore[misc]
    """numba's own, but that it reads without loading what compiling needs: that is loaded where one is compiled."""

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        rtsys.initialize(target_context)  # what counts the holders of arrays: all that a loop needs to run
        with self._guard_against_spurious_io_errors(), _without_modules():
            return self._load_overload(sig, target_context)


@contextmanager
def _without_modules() -> Iterator[None]:
    """Within it what is read does not import the modules it was compiled from, numba's own among them: only what runs
    in Python looks at their names, and no loop of ours does.
    """

    def rebuilt(module: str, constants: Any, name: str) -> Any:
        found = environment.lookup_environment(name)
        if found is None:
            names = vars(sys.modules[module]) if module in sys.modules else {"__name__": module}
            found = environment.Environment(names)
            found.consts[:] = constants
            found.env_name = name
            environment.Environment._memo[name] = found  # noqa: SLF001
        return found

    before, environment._rebuild_env = environment._rebuild_env, rebuilt  # noqa: SLF001
    try:
        yield
    finally:
        environment._rebuild_env = before  # noqa: SLF001
