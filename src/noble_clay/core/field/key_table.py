"""Where each of many keys is, by open addressing with linear probing (Knuth, "The Art of Computer Programming", volume
3, 6.4): for tens of thousands of mixed numbers several times as quick as sorting them and searching.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small


@compiled
def key_table(keys: Any) -> Any:
    """(s,) which of the keys (n,) is at each place, -1 for none."""
    size = 4
    while size < 2 * len(keys):
        size *= 2
    table = np.full(size, -1, dtype=np.int32)
    for n in range(len(keys)):
        table[_place(table, keys, keys[n])] = n
    return table


@compiled
def found_in(table: Any, keys: Any, wanted: Any) -> Any:
    """(k,) which of the keys each wanted one (k,) is, or -1."""
    found = np.empty(len(wanted), dtype=np.int64)
    for n in range(len(wanted)):
        found[n] = table[_place(table, keys, wanted[n])]
    return found


@small
def _place(table: Any, keys: Any, key: Any) -> Any:
    """Where a key is in a table, or would be put."""
    at = (key ^ (key >> 32)) & (len(table) - 1)
    while table[at] >= 0 and keys[table[at]] != key:
        at = (at + 1) & (len(table) - 1)
    return at
