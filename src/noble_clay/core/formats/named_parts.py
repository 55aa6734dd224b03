"""Which part each triangle of a mesh is of, and what those parts are called and look like."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Ints


@dataclass(frozen=True, eq=False)
class NamedParts:
    """part_of: (m,) an index for every triangle. names: (name, #rrggbb) by index."""

    part_of: Ints
    names: list[tuple[str, str]]


def colours_of(parts: NamedParts) -> NDArray[np.uint8]:
    """(m, 3) red, green and blue of every triangle."""
    table = [[int(colour[i : i + 2], 16) for i in (1, 3, 5)] for _, colour in parts.names]
    return np.array(table, dtype=np.uint8).reshape(-1, 3)[parts.part_of]


def by_colour(triangles: int, parts: NamedParts | None) -> list[tuple[str, Ints]]:
    """Each colour there is, and the triangles that have it; white where nothing is known."""
    if parts is None:
        return [("#ffffff", np.arange(triangles))] if triangles else []
    colours = [colour.lower() for _, colour in parts.names]
    which = np.array([colours.index(c) for c in colours], dtype=np.int64)[parts.part_of]
    return [(colours[k], np.flatnonzero(which == k)) for k in np.unique(which)]
