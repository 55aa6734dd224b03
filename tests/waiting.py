"""Waiting for what is to come about: looked for again and again, and told when it never does."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")

PAUSE_SECONDS = 0.05


def wait_until(true: Callable[[], T], otherwise: str = "it never comes about", patience: float = 60) -> T:
    """What `true` gives, once that is something."""
    end = time.monotonic() + patience
    while not (found := true()):
        assert time.monotonic() < end, otherwise
        time.sleep(PAUSE_SECONDS)
    return found
