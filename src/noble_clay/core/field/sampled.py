"""The distance to a mesh, sampled on a lattice near its surface: for what no closed form is at hand for."""

from __future__ import annotations

import numpy as np

from noble_clay.core.field.forms import GRID_BLOCK, Form, grid
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mesh import Mesh

MOST_SAMPLED = 2_000
"""Blocks of 9³ samples at most."""

MOST_BLOCKS = 500_000
"""Blocks, sampled or not."""


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
    _, first, group = np.unique(groups, axis=0, return_index=True, return_inverse=True)
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
    steps = np.arange(GRID_BLOCK + 1)
    offsets = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(-1, 3)
    points = low + (corners[wanted][:, None, :] * GRID_BLOCK + offsets) * cell
    values = distance(points.reshape(-1, 3)).reshape(-1, GRID_BLOCK + 1, GRID_BLOCK + 1, GRID_BLOCK + 1)
    return grid(low, cell, counts, blocks, coarse, values)
