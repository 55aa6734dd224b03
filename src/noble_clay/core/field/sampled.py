"""The distance to a mesh, sampled on a lattice near its surface: for what no closed form is at hand for."""

from __future__ import annotations

import math

import numpy as np

from noble_clay.core.field.forms import GRID_BLOCK, Form, grid
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.gather import row_codes
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

MOST_SAMPLED = 2_000
"""Blocks of 9³ samples at most."""

MOST_BLOCKS = 500_000
"""Blocks, sampled or not."""

HALVES = (GRID_BLOCK // 2 + 1,) * 3
"""Points of a block at which the distance is always worked out: every other one."""

AGREED = math.cos(math.radians(6))
"""How long the mean of the ways in which it grows at the neighbours of a point must be, for it to follow from them."""


def sampled_form(mesh: Mesh, cell: float, reach: float) -> Form:
    """A closed mesh as a form, in its own frame. cell: of the lattice, mm, or coarser where that would be too many
    samples. reach: how far from the surface the distance matters, mm.
    """
    while True:
        found = _sampled(mesh, cell, reach)
        if found is not None:
            return found
        cell *= 2


def _sampled(mesh: Mesh, cell: float, reach: float) -> Form | None:
    bounds = mesh.bounds
    assert bounds is not None, "an empty mesh has no distance"
    distance = MeshDistance(mesh)
    side = GRID_BLOCK * cell
    low = bounds[0] - reach - cell
    counts = np.maximum(1, np.ceil((bounds[1] + reach + cell - low) / side)).astype(np.int64)
    if float(np.prod(counts.astype(float))) > MOST_BLOCKS:
        return None
    corners = np.stack(np.meshgrid(*(np.arange(c) for c in counts), indexing="ij"), axis=-1).reshape(-1, 3)
    # Coarse blocks first: most of space is far from the surface.
    half = side * np.sqrt(3) / 2
    coarse = np.full(len(corners), np.inf)
    groups = corners // 4
    _, first, group = np.unique(row_codes(groups), return_index=True, return_inverse=True)
    middles = low + (groups[first] + 0.5) * 4 * side
    around = distance(middles)
    near = np.abs(around) <= reach + 4 * half
    coarse[:] = np.sign(around[group]) * np.maximum(np.abs(around[group]) - 4 * half, reach)
    some = np.flatnonzero(near[group])
    middle = distance(low + (corners[some] + 0.5) * side)
    coarse[some] = np.sign(middle) * np.maximum(np.abs(middle) - half, reach)
    wanted = some[np.abs(middle) <= reach + half]
    if len(wanted) > MOST_SAMPLED:
        return None
    blocks = np.full(len(corners), -1)
    blocks[wanted] = np.arange(len(wanted))
    return grid(low, cell, counts, blocks, coarse, _samples(distance, low, cell, corners[wanted]))


def _samples(distance: MeshDistance, low: Floats, cell: float, corners: Ints) -> Floats:
    """(k, 9, 9, 9) the distances at the points of blocks, whose first corners (k, 3) are counted in blocks from `low`.

    At every other point along each axis the distance is worked out, and the way in which it grows. Between them, where
    those ways hardly differ, it follows from both: the mean of f + g · d / 2 over the neighbours at d is exact for all
    that curves evenly. Where they differ, an edge or the middle of the part is near, and it is worked out too.
    """
    first = corners * GRID_BLOCK
    every_other = np.stack(np.meshgrid(*[np.arange(0, GRID_BLOCK + 1, 2)] * 3, indexing="ij"), axis=-1)
    some, of = _distinct((first[:, None, :] + every_other.reshape(-1, 3)).reshape(-1, 3))
    known, ways = distance.rising(low + some * cell)
    f, g = known[of].reshape(-1, *HALVES), ways[of].reshape(-1, *HALVES, 3)
    values = np.empty((len(corners), *[GRID_BLOCK + 1] * 3))
    values[:, ::2, ::2, ::2] = f
    unsure = np.zeros(values.shape, dtype=bool)
    for odd in list(np.ndindex(2, 2, 2))[1:]:
        neighbours = list(np.ndindex(*(1 + o for o in odd)))
        total = np.zeros((len(corners), *(h - o for h, o in zip(HALVES, odd, strict=True))))
        way = np.zeros((*total.shape, 3))
        for side in neighbours:
            # Before or after the point, along those axes along which it is between two.
            there = tuple(slice(s, s + h - o) for s, h, o in zip(side, HALVES, odd, strict=True))
            towards = np.array([cell * (1 - 2 * s) * o for s, o in zip(side, odd, strict=True)])
            total += f[:, *there] + g[:, *there] @ towards / 2
            way += g[:, *there]
        here = tuple(slice(o, None, 2) for o in odd)
        values[:, *here] = total / len(neighbours)
        unsure[:, *here] = np.einsum("...i,...i->...", way, way) < (len(neighbours) * AGREED) ** 2
    block, *at = np.nonzero(unsure)
    some, of = _distinct(first[block] + np.column_stack(at))
    values[unsure] = distance(low + some * cell)[of]
    return values


def _distinct(numbers: Ints) -> tuple[Ints, Ints]:
    """The different ones of points (n, 3) of a lattice, in rows along z, and which of those each is (n,)."""
    size = numbers.max(axis=0, initial=0) + 1
    keys, of = np.unique(np.ravel_multi_index(tuple(numbers.T), tuple(size)), return_inverse=True)
    return np.column_stack(np.unravel_index(keys, tuple(size))), of.reshape(-1)
