"""Which block of a list's space a cell is in, and what the cell is."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.field.lattice import BLOCK, TILE
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.gather import unique_rows
from noble_clay.core.mesh.mesh import Ints


class BlockMap:
    """first: (3,) the lattice point at which the largest blocks begin, whole cells. tiles: (a, b, c) of each largest
    block, which of `inside` it is, or -1 for nothing. inside: (t, 16, 16, 16) of each smallest block, which of those
    looked at it is, or -1 for nothing, or -2 - n for the n-th that is one step's own.
    """

    def __init__(self, first: Ints, shape: tuple[int, ...]) -> None:
        self.first = first
        self.tiles = np.full(shape, -1)
        self.inside = np.full((0, TILE, TILE, TILE), -1, dtype=np.int32)

    @property
    def arrays(self) -> tuple[Any, Any, Any]:
        """What the compiled loops need to tell which block a cell is in, with `block_of`."""
        return self.first, self.tiles, self.inside

    def fill(self, corners: Ints, wide: int, numbers: Ints) -> None:
        """Puts numbers into smallest blocks, `wide` of them along each axis. corners: (n, 3) the first cell of each,
        counted from `first`.
        """
        if len(corners) == 0:
            return
        self.make_room(corners)
        places = corners // BLOCK
        _put(self.inside, self.tiles[tuple((places // TILE).T)], places % TILE, wide, numbers)

    def make_room(self, corners: Ints) -> None:
        """For smallest blocks in the largest ones that hold cells (n, 3), counted from `first`."""
        tiles = corners // (BLOCK * TILE)
        missing = self.tiles[tuple(tiles.T)] < 0
        if missing.any():
            new = unique_rows(tiles[missing])
            self.tiles[tuple(new.T)] = len(self.inside) + np.arange(len(new))
            empty = np.full((len(new), TILE, TILE, TILE), -1, dtype=np.int32)
            self.inside = np.concatenate([self.inside, empty])

    def around(self, corners: Ints, ways: Ints) -> Ints:
        """(n, w) which of the blocks that are looked at are about blocks (n, 3), so many blocks off, or -1."""
        found: Ints = _around(*self.arrays, corners, ways)
        return found


@compiled
def _put(inside: Any, tile: Any, at: Any, wide: Any, numbers: Any) -> None:
    for n in range(len(tile)):
        x, y, z = at[n]
        inside[tile[n], x : x + wide, y : y + wide, z : z + wide] = numbers[n]


@small
def block_of(first: Any, tiles: Any, inside: Any, x: Any, y: Any, z: Any) -> Any:
    """Which of the blocks that are looked at a cell is in, or -1 for nothing, or -2 - n for the n-th of one step."""
    x, y, z = (x - first[0]) >> 2, (y - first[1]) >> 2, (z - first[2]) >> 2
    tx, ty, tz = x >> 4, y >> 4, z >> 4
    if tx < 0 or ty < 0 or tz < 0 or tx >= tiles.shape[0] or ty >= tiles.shape[1] or tz >= tiles.shape[2]:
        return -1
    tile = tiles[tx, ty, tz]
    return -1 if tile < 0 else int(inside[tile, x & 15, y & 15, z & 15])


@small
def what_is(first: Any, tiles: Any, inside: Any, own_step: Any, cells: Any, x: Any, y: Any, z: Any) -> Any:
    """Of which step's own a cell is, or `NOTHING`, or `LATTICE`."""
    block = block_of(first, tiles, inside, x, y, z)
    if block >= 0:
        return int(cells[block, (x - first[0]) & 3, (y - first[1]) & 3, (z - first[2]) & 3])
    return -1 if block == -1 else int(own_step[-2 - block])


@small
def what_is_beside(
    first: Any, tiles: Any, inside: Any, own_step: Any, cells: Any, corners: Any, block: Any, n: Any, face: Any
) -> Any:
    """What the cell across a face of a block's n-th cell is, as `what_is` tells it."""
    i, j, k = n // (BLOCK * BLOCK), n // BLOCK % BLOCK, n % BLOCK
    way = 1 if face % 2 else -1
    if face < 2:
        i += way
    elif face < 4:
        j += way
    else:
        k += way
    if 0 <= i < BLOCK and 0 <= j < BLOCK and 0 <= k < BLOCK:
        return int(cells[block, i, j, k])
    x, y, z = corners[block, 0] + i, corners[block, 1] + j, corners[block, 2] + k
    return what_is(first, tiles, inside, own_step, cells, x, y, z)


@compiled
def _around(first: Any, tiles: Any, inside: Any, corners: Any, ways: Any) -> Any:
    found = np.full((len(corners), len(ways)), -1)
    for b in range(len(corners)):
        for n in range(len(ways)):
            x, y, z = corners[b] + ways[n] * BLOCK
            found[b, n] = max(-1, block_of(first, tiles, inside, x, y, z))
    return found
