"""How vertices of a list's surface are named before they are numbered, so that pieces that are found apart meet.

A node is where the surface crosses an edge of the lattice, or an edge of a part's own mesh crosses a face of a cell, or
a corner of such a mesh, or a point within a cell or its face that the surface on the lattice adds.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.mesh import Ints


class Nodes:
    """low: (3,) the lattice point from which points are counted. across: (3,) lattice points along each axis. corner:
    the key of the first corner of a mesh, behind those of all edges of the lattice. Edges of meshes have keys below 0.
    """

    def __init__(self, first: Ints, counts: Ints) -> None:
        """first: (3,) the first lattice point of a space, counts: (3,) how many it has along each axis."""
        self.low = first - 2
        self.across = counts + 4
        self.corner = int(np.prod(self.across)) * 3


@small
def face_key(point: Any, axis: Any, low: Any, across: Any) -> Any:
    """Of the face across an axis of the cell whose lower corner is `point`, the one at that corner."""
    return (((point[0] - low[0]) * across[1] + point[1] - low[1]) * across[2] + point[2] - low[2]) * 3 + axis


edge_key = face_key
"""Of the edge of the lattice from a point along an axis: numbered alike."""


@small
def mesh_edge_key(lo: Any, hi: Any, vertices: Any, axis: Any, plane: Any, across: Any) -> Any:
    """Of where the edge between two vertices of a mesh passes a plane of the lattice, counted from the lowest."""
    return -1 - (((lo * vertices + hi) * 3 + axis) * (across[0] + across[1] + across[2]) + plane)


@small
def ends_of(key: Any, low: Any, across: Any, point: Any) -> Any:
    """The lower corner of a numbered edge or face of the lattice, into point (3,); its axis."""
    axis = key % 3
    rest = key // 3
    point[2] = rest % across[2] + low[2]
    rest //= across[2]
    point[1] = rest % across[1] + low[1]
    point[0] = rest // across[1] + low[0]
    return axis


@compiled
def numbered(keys: Any) -> Any:
    """(n,) each key's number, by when it first came, and (m,) where in `keys` each number first came."""
    size = 16
    while size < 2 * len(keys):
        size *= 2
    slots = np.full(size, -1, dtype=np.int64)
    number, first = np.empty(len(keys), dtype=np.int64), np.empty(len(keys), dtype=np.int64)
    count = 0
    for n in range(len(keys)):
        key = keys[n]
        at = (key * 0x9E3779B97F4A7C1) & (size - 1)
        at = ((at >> 7) ^ (key * 0x1B873593)) & (size - 1)
        while slots[at] >= 0 and keys[first[slots[at]]] != key:
            at = (at + 1) & (size - 1)
        if slots[at] < 0:
            slots[at] = count
            first[count] = n
            count += 1
        number[n] = slots[at]
    return number, first[:count].copy()
