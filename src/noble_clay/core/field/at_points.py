"""The field at points that are in order of the blocks they are in: what is near a block is worked out once for all."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.field.fold import fold_many
from noble_clay.core.loops import compiled, small


@small
def end_of_run(numbers: Any, first: Any) -> Any:
    """Where a run of equal numbers ends."""
    last = first + 1
    while last < len(numbers) and numbers[last] == numbers[first]:
        last += 1
    return last


@compiled
def longest_list(block: Any, starts: Any) -> Any:
    """The most points that are in one block, and the most forms in one's list. block: (n,) in order."""
    longest, most = 1, 1
    first = 0
    while first < len(block):
        last = end_of_run(block, first)
        longest = max(longest, starts[block[first] + 1] - starts[block[first]])
        most = max(most, last - first)
        first = last
    return most, longest


@compiled
def field_at(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    starts: Any,
    active: Any,
    points: Any,
    block: Any,
    cell: Any,
) -> Any:
    found = np.empty((len(points), 6))
    most, longest = longest_list(block, starts)
    each = np.empty((2, longest, most, 4))
    first = 0
    while first < len(points):
        last = end_of_run(block, first)
        fold_many(
            rows,
            steps,
            numbers,
            blocks,
            values,
            active,
            starts[block[first]],
            starts[block[first] + 1],
            points[first:last],
            cell,
            1e-3 * cell,
            each,
            found[first:last],
        )
        first = last
    return found
