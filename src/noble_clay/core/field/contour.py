"""A list's surface on a lattice: closed where all of it is looked at, with a border where the blocks end."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from noble_clay.core.field.blocks import BLOCK, ODD, Blocks, in_order, lattice_values
from noble_clay.core.field.compiled import compiled
from noble_clay.core.field.fold import Fold, fold_many
from noble_clay.core.field.marching_cubes import lattice_edges, marched, table
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

ROOT_STEPS = 2
"""Steps towards the surface along a lattice edge."""

AT_A_TIME = 2_000
"""Blocks that are gone through before it is told that the work goes on."""

INSET = 0.002
"""How near to the ends of its lattice edge a vertex may be, as a share of it."""


@dataclass(frozen=True, eq=False)
class Contour:
    """margins: (n,) at the vertices, mm, as `fold` has them; steps: (n,) the nearest."""

    mesh: Mesh
    margins: Floats
    steps: Ints

    @property
    def step_of_triangles(self) -> Ints:
        """(m,): that of two of its vertices, else of the first."""
        a, b, c = self.steps[self.mesh.triangles].T
        return np.where(b == c, b, a)


def contour(fold: Fold, blocks: Blocks, go_on: Callable[[float], None] = lambda share: None) -> Contour:
    """The surface in some blocks of a lattice. go_on: told which share is done, every now and then."""
    if len(blocks.corners) == 0:
        return Contour(Mesh.empty(), np.zeros(0), np.zeros(0, dtype=np.int64))
    blocks, neighbours = in_order(blocks)
    side = BLOCK + 1
    values = np.empty((len(blocks.corners), side, side, side))
    for begin in range(0, len(values), AT_A_TIME):
        end = min(len(values), begin + AT_A_TIME)
        lists = blocks.corners, blocks.starts, blocks.active
        lattice_values(*fold.arrays, *lists, neighbours, blocks.cell, begin, end, values)
        go_on(end / len(values) / 2)
    low = blocks.corners.min(axis=0)
    across = blocks.corners.max(axis=0) - low + 8
    keys, owner = marched(values, blocks.corners, low, across, *table())
    known, first, index = np.unique(keys.reshape(-1), return_index=True, return_inverse=True)
    ends, axes = lattice_edges(known, low, across)
    block = owner[first // 3]
    local = ends - blocks.corners[block]
    one = values[block, *local.T]
    local[np.arange(len(axes)), axes] += 1
    other = values[block, *local.T]
    order = np.argsort(block, kind="stable")
    in_turn = block[order]
    told = np.empty((len(ends), 9))
    at = 0
    while at < len(order):
        end = int(np.searchsorted(in_turn, in_turn[at] + AT_A_TIME))
        some = order[at:end]
        told[some] = _on_edges(
            *fold.arrays,
            ends[some],
            axes[some],
            one[some],
            other[some],
            in_turn[at:end],
            blocks.starts,
            blocks.active,
            blocks.cell,
        )
        go_on(0.5 + end / len(order) / 2)
        at = end
    return Contour(Mesh(told[:, :3].copy(), index.reshape(-1, 3)), told[:, 7], told[:, 8].astype(np.int64))


@compiled
def _on_edges(
    rows: Any,
    steps: Any,
    numbers: Any,
    blocks: Any,
    values: Any,
    ends: Any,
    axes: Any,
    one: Any,
    other: Any,
    block: Any,
    starts: Any,
    active: Any,
    cell: Any,
) -> Any:
    """(n, 9): where the field passes zero along lattice edges, with the field, its gradient, margin and nearest step
    there. one, other: (n,) the field at their ends, of which one is inside. block: (n,) in ascending order.
    """
    found = np.empty((len(ends), 9))
    longest, most = 1, 1
    first = 0
    while first < len(ends):
        last = _end_of_block(block, first)
        longest = max(longest, starts[block[first] + 1] - starts[block[first]])
        most = max(most, last - first)
        first = last
    each = np.empty((2, longest, most, 4))
    share, low, high = np.empty(most), np.empty(most), np.empty(most)
    first = 0
    while first < len(ends):
        last = _end_of_block(block, first)
        points, told = found[first:last, :3], found[first:last, 3:]
        low[:], high[:] = 0.0, 1.0
        for _ in range(ROOT_STEPS + 1):
            for i in range(first, last):
                n = i - first
                # Illinois: the end that stays counts half.
                share[n] = low[n] - one[i] * (high[n] - low[n]) / (other[i] - one[i])
                share[n] = min(1 - INSET, max(INSET, share[n]))
                for axis in range(3):
                    points[n, axis] = (ends[i, axis] + ODD + (share[n] if axis == axes[i] else 0.0)) * cell
            fold_many(
                rows,
                steps,
                numbers,
                blocks,
                values,
                active,
                starts[block[first]],
                starts[block[first] + 1],
                points,
                cell,
                1e-3 * cell,
                each,
                told,
            )
            for i in range(first, last):
                n = i - first
                if (told[n, 0] < 0) == (one[i] < 0):
                    low[n], one[i], other[i] = share[n], told[n, 0], other[i] / 2
                else:
                    high[n], other[i], one[i] = share[n], told[n, 0], one[i] / 2
        first = last
    return found


@compiled
def _end_of_block(block: Any, first: Any) -> Any:
    last = first + 1
    while last < len(block) and block[last] == block[first]:
        last += 1
    return last
