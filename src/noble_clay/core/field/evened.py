"""Where the surface on the lattice runs out into parts' own meshes, it is led from the true shape to their facets,
which are a little off it: over a few cells, so that there is no step to see.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.features import Rings, following
from noble_clay.core.loops import compiled
from noble_clay.core.mesh.mesh import Floats, Ints

ROUNDS = 6
"""Cells, about, over which it is led there."""

STEEP = 0.25
"""The least share of the field's slope along an edge of the lattice for which a vertex is moved along it."""

FURTHEST = 0.3
"""How far it is moved at most, in cells."""

INSET = 0.002
"""How near to the ends of its edge a vertex may come, in cells."""


def evened(rings: Rings, blocks: Blocks, on_lattice: Ints, keys: Ints, points: Floats, normals: Floats) -> Floats:
    """(v,) what the field is made to be at vertices, mm; those on the lattice are moved to where it is that.

    on_lattice: (n,) which vertices were found on edges of the lattice. keys: (v,) of all. points: (v, 3), in cells;
    changed. normals: (v, 3) the field's gradient at those on the lattice.
    """
    off = np.zeros(len(points))
    free = np.zeros(len(points), dtype=bool)
    free[on_lattice] = True
    held = np.flatnonzero(~free[rings.vertices])
    if len(held) == 0:
        return off
    vertices, first = np.unique(rings.vertices[held], return_index=True)
    ring = np.searchsorted(rings.starts, held[first], side="right") - 1
    off[vertices] = blocks.field_at(points[vertices], rings.blocks[ring])[:, 0]
    _led(rings.vertices, rings.vertices[following(rings.starts)], on_lattice, off)
    axis = keys[on_lattice] % 3
    slope = normals[on_lattice, axis]
    move = np.where(np.abs(slope) > STEEP, off[on_lattice] / np.where(slope == 0, 1, slope) / blocks.cell, 0)
    move = np.clip(move, -FURTHEST, FURTHEST)
    low = np.floor(points[on_lattice, axis])
    points[on_lattice, axis] = np.clip(points[on_lattice, axis] + move, low + INSET, low + 1 - INSET)
    return off


@compiled
def _led(one: Any, other: Any, free: Any, off: Any) -> None:
    """`off` (v,) led over its free vertices from the others: again and again each the mean of those beside it. one,
    other: (n,) the ends of lines between vertices.
    """
    count = np.zeros(len(off))
    for n in range(len(one)):
        count[one[n]] += 1
        count[other[n]] += 1
    forth, back = np.empty(len(off)), np.empty(len(off))
    for _ in range(ROUNDS):
        forth[:], back[:] = 0.0, 0.0
        for n in range(len(one)):
            forth[one[n]] += off[other[n]]
            back[other[n]] += off[one[n]]
        for v in free:
            off[v] = (forth[v] + back[v]) / count[v]
