"""The keys by which it is remembered what blocks of the lattice hold: of all that shapes them."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.field.nodes import ends_of
from noble_clay.core.loops import compiled, small

MIX = 0x9E3779B97F4A7C1
"""An odd number with which keys are spread."""


@compiled
def block_keys(corners: Any, starts: Any, active: Any, digests: Any, begun: Any) -> Any:
    """(n,) a key of each block by its place and the forms that matter there. digests: of all forms, with the steps that
    they are of. begun: of the lattice.
    """
    found = np.empty(len(corners), dtype=np.int64)
    for b in range(len(corners)):
        key = begun
        for axis in range(3):
            key = _mixed(key, corners[b, axis])
        for n in range(starts[b], starts[b + 1]):
            key = _mixed(key, digests[active[n]])
        found[b] = key
    return found


@compiled
def edge_keys(keys: Any, block: Any, of_block: Any, low: Any, across: Any, corners: Any) -> Any:
    """(n,) a key of each vertex by its block's key and its edge's place in that. keys: (n,) of edges of the lattice."""
    found = np.empty(len(keys), dtype=np.int64)
    end = np.empty(3, dtype=np.int64)
    for n in range(len(keys)):
        axis = ends_of(keys[n], low, across, end)
        b = block[n]
        x, y, z = end[0] - corners[b, 0], end[1] - corners[b, 1], end[2] - corners[b, 2]
        found[n] = _mixed(of_block[b], ((x * 8 + y) * 8 + z) * 3 + axis)
    return found


@small
def _mixed(key: Any, value: Any) -> Any:
    key = (key ^ value) * MIX
    return (key ^ (key >> 29)) * MIX
