"""What solvers need, loaded once, in a process from which each of them is forked.

It imports next to nothing: a server begins with it, and loads its own things meanwhile.
"""

from __future__ import annotations

from noble_clay.core.heavy import HEAVY
from noble_clay.machine import load_beforehand


def get_ready() -> None:
    load_beforehand("noble_clay.solvers.process", *HEAVY)
