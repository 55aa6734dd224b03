"""Importing this reads all compiled loops that are kept on disk, of all modules that have been imported by then.

For a process from which others are forked: each of those would else read them anew, one to three seconds of its
processor, at the first call of each. Nothing is run, and no thread begun: a fork has none but the one that forked it.
"""

from __future__ import annotations

import logging
import sys
from typing import Any

from numba.core.dispatcher import Dispatcher

LOG = logging.getLogger(__name__)


def loops() -> list[Any]:
    """The compiled loops of all our modules that are imported, each once. Those that run in parallel begin threads as
    soon as they are read, and are left out.
    """
    modules = [module for name, module in sorted(sys.modules.items()) if name.startswith("noble_clay.")]
    found = {id(f): f for module in modules for f in vars(module).values() if isinstance(f, Dispatcher)}
    return [loop for loop in found.values() if not loop.targetoptions.get("parallel")]


def read_kept(loop: Any) -> None:
    """Read what is kept of one: numba itself does so only at a call, with the types of its arguments."""
    cache = loop._cache  # noqa: SLF001
    for signature, *_ in cache._cache_file._load_index():  # noqa: SLF001
        if signature not in loop.overloads:
            found = cache.load_overload(signature, loop.targetctx)
            if found is not None:
                # So that it can be called from what is compiled only then.
                loop.targetctx.insert_user_function(found.entry_point, found.fndesc, [found.library])
                loop.add_overload(found)


try:
    for each in loops():
        read_kept(each)
except Exception:  # another numba may keep them otherwise; they are read at their first call then
    LOG.exception("the compiled loops could not be read beforehand")
