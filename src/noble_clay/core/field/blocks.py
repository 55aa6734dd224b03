"""The blocks of a list's space: each holds nothing, or no surface but one step's own, or is looked at cell by cell.
Then each cell is again a step's own, or of the lattice.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from noble_clay.core.field.at_points import field_at
from noble_clay.core.field.block_keys import block_keys
from noble_clay.core.field.block_map import block_of, what_is
from noble_clay.core.field.block_values import agree, copy, look, tell
from noble_clay.core.field.fold import Fold
from noble_clay.core.field.halving import Lists, halved
from noble_clay.core.field.lattice import BEFORE, BLOCK, LATTICE, ODD, TILE
from noble_clay.core.field.memory import Kept, Memory
from noble_clay.core.field.nodes import Nodes, ends_of
from noble_clay.core.field.threads import in_slices, in_told_slices
from noble_clay.core.loops import compiled
from noble_clay.core.mesh.gather import unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints

AT_A_TIME = 250
"""Blocks that one thread looks at before it is told that the work goes on."""

POINTS_AT_A_TIME = 2_000
"""Points at which one thread asks for the field."""


class Blocks:
    """cell: of the lattice, mm. map: in which block a cell is. corners: (m, 3) of the blocks that are looked at, whole
    cells, and the lists of the forms that matter there. own_step, own: of those that are one step's own, which step's,
    and their lists. values: (m, 5, 5, 5) the field at their lattice points, mm: right to the side only, far from the
    surface. pushed: (m, 5, 5, 5) whether a value was put on the other side, to agree with a part's own mesh. cells:
    (m, 4, 4, 4) of each cell, of which step's own it is, or `LATTICE`.
    """

    def __init__(self, fold: Fold, cell: float, box: Floats, everywhere: bool = False, many: int | None = None) -> None:
        """box: (2, 3), mm. everywhere: all of the surface is found on the lattice. many: of twice the smallest side,
        where there may be fewer than can be held. Raises MeshError for too many.
        """
        self.fold, self.cell, self.everywhere = fold, cell, everywhere
        found = halved(fold, cell, box, everywhere, many)
        self.map, self.corners, self.lists = found.map, found.corners, found.lists
        self.own_step, self.own = found.own_step, found.own
        self.values, self.owners, self.pushed = _no_values(len(self.corners))
        self.cells = np.full((len(self.corners), BLOCK, BLOCK, BLOCK), LATTICE, dtype=np.int32)

    @property
    def cell_map(self) -> tuple[Any, Any, Any, Any, Any]:
        """What the compiled loops need to tell what a cell is, with `what_is`."""
        return *self.map.arrays, self.own_step, self.cells

    @property
    def placed_lists(self) -> tuple[Ints, Ints, Ints]:
        """What the compiled loops need to tell where a block is, and which forms matter in it."""
        return self.corners, self.lists.starts, self.lists.active

    def look(self, memory: Memory, go_on: Callable[[float], None]) -> None:
        """Looks at the field at all lattice points of the blocks, and tells what their cells are. memory: of those that
        were looked at before. go_on: told which share is done, every now and then.
        """
        neighbours = self._neighbours()
        keys = self.keys
        known = memory.fill("blocks", keys, (self.values, self.owners))
        missing = np.flatnonzero(known < 0)
        turn = np.full(len(keys), -1)
        turn[missing] = np.arange(len(missing)) // AT_A_TIME
        in_told_slices(lambda mine: self._look(missing[mine], neighbours, turn), len(missing), AT_A_TIME, go_on)
        agree(neighbours, known, self.values, self.owners)
        if len(missing):
            memory.keep("blocks", Kept.of(keys, self.values, self.owners))
        if not self.everywhere:
            tell(self.owners, self.cells)

    def _look(self, some: Ints, neighbours: Ints, turn: Ints) -> None:
        found = self.values, self.owners
        look(*self.fold.arrays, *self.placed_lists, neighbours, self.cell, some, turn, *found)

    @property
    def keys(self) -> Ints:
        """(m,) of each block that is looked at, by all that shapes it."""
        found: Ints = block_keys(*self.placed_lists, self.fold.digests, hash((self.cell, BLOCK)))
        return found

    @property
    def nodes(self) -> Nodes:
        return Nodes(self.map.first, np.array(self.map.tiles.shape) * (BLOCK * TILE))

    def field_at(self, points: Floats, block: Ints) -> Floats:
        """(n, 6) as `fold_many` has it, at points (n, 3) in cells. block: (n,) in which each is."""
        order = np.argsort(block, kind="stable")
        places, of = (points[order] + ODD) * self.cell, block[order]

        def some(mine: slice) -> Any:
            lists = self.lists.starts, self.lists.active
            return field_at(*self.fold.arrays, *lists, places[mine], of[mine], self.cell)

        found = np.empty((len(points), 6))
        found[order] = np.concatenate(list(in_slices(some, len(order), POINTS_AT_A_TIME)))
        return found

    def about(self, cells: Ints) -> Ints:
        """(n,) the blocks that are looked at of cells (k, 3) and about them."""
        ways = np.concatenate([BEFORE, -BEFORE, np.zeros((1, 3), dtype=np.int64)])
        places = unique_rows(np.floor_divide(cells - self.map.first, BLOCK))
        every = unique_rows((places[:, None, :] + ways).reshape(-1, 3)) * BLOCK + self.map.first
        found = self.map.around(every, ways[-1:]).reshape(-1)
        return found[found >= 0]

    def own_about(self, edges: Ints) -> Ints:
        """(n, 3) the cells about edges of the lattice that are not the lattice's."""
        found, nodes, point = [], self.nodes, np.empty(3, dtype=np.int64)
        for key in edges.tolist():
            axis = ends_of(key, nodes.low, nodes.across, point)
            for way in ((0, 0), (0, 1), (1, 0), (1, 1)):
                cell = point.copy()
                cell[(axis + 1) % 3] -= way[0]
                cell[(axis + 2) % 3] -= way[1]
                if what_is(*self.cell_map, *cell) != LATTICE:
                    found.append(cell)
        return np.array(found, dtype=np.int64).reshape(-1, 3)

    def open(self, cells: Ints) -> None:
        """Gives cells (n, 3) to the lattice; what of them was not looked at is now."""
        blocks = unique_rows(np.floor_divide(cells, BLOCK))
        number = np.array([block_of(*self.map.arrays, *(block * BLOCK)) for block in blocks])
        new = blocks[number < 0] * BLOCK
        if len(new):
            self._add(new, -2 - number[number < 0])
        _give(*self.map.arrays, self.cells, cells)

    def _add(self, corners: Ints, own: Ints) -> None:
        """Looks at blocks that were a step's own; own: (n,) which of these, or -1 for nothing."""
        before, end = len(self.corners), len(self.corners) + len(corners)
        step = np.full(len(own), LATTICE)
        step[own >= 0] = self.own_step[own[own >= 0]]
        new = np.broadcast_to(step[:, None, None, None], (len(own), BLOCK, BLOCK, BLOCK)).astype(np.int32)
        self.cells = np.concatenate([self.cells, new])
        self.corners = np.concatenate([self.corners, corners])
        self.lists += (Lists.of_one(self.fold.every) + self.own).of_some(own + 1)
        added = zip((self.values, self.owners, self.pushed), _no_values(len(own)), strict=True)
        self.values, self.owners, self.pushed = (np.concatenate(both) for both in added)
        self.map.fill(corners - self.map.first, 1, np.arange(before, end))
        neighbours = self._neighbours(both=True)
        self._look(np.arange(before, end), neighbours, np.where(np.arange(end) < before, -2, 0))
        copy(neighbours, before, end, self.values, self.pushed)

    def _neighbours(self, both: bool = False) -> Ints:
        """(m, 13) which of the blocks are a block's neighbours before it in order, or -1; (m, 26): on both sides."""
        return self.map.around(self.corners, np.concatenate([BEFORE, -BEFORE]) if both else BEFORE)


def _no_values(count: int) -> tuple[Any, Any, Any]:
    """Values, owners and whether they were pushed, of so many blocks, to be looked at."""
    points = (count, BLOCK + 1, BLOCK + 1, BLOCK + 1)
    return np.zeros(points), np.zeros(points, dtype=np.int32), np.zeros(points, dtype=np.bool_)


@compiled
def _give(first: Any, tiles: Any, inside: Any, cells: Any, some: Any) -> None:
    for n in range(len(some)):
        x, y, z = some[n]
        block = block_of(first, tiles, inside, x, y, z)
        cells[block, (x - first[0]) & 3, (y - first[1]) & 3, (z - first[2]) & 3] = LATTICE
