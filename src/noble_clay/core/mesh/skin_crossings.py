"""How often the skin of something joined crosses itself, found without looking through all of it."""

from __future__ import annotations

from functools import reduce

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.cross import cross, slack_of
from noble_clay.core.mesh.gather import compiled_for, unique_rows
from noble_clay.core.mesh.mass import areas, heights, normals
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.tolerances import CONTACT

FEW = 6_000
"""Triangles of a small mesh."""

SLIVER_SLACKS = 16
"""A triangle less high than so many times what counts as touching is a sliver."""

MOST_SUSPECTS = 300
"""Of more triangles than that, the whole is looked through."""

LOOKS = 200
"""What judging a pair of triangles weighs, in points that are gathered."""


def crossings_anywhere(mesh: Mesh, parts: int = 2) -> int:
    """How many pairs of triangles of a joined skin cross each other, though no part's own surface does. parts: of how
    many it is.

    What the kernel makes of surfaces that coincide but for a hair, and what rounding to float32 makes of those, may:
    where there are slivers, triangles hardly higher than a step of a float32, or layers closer than such steps. Where a
    sliver seems to cross, though it be too thin to tell, the whole is looked through; and so is a small mesh that lies
    so far out that what was not in contact may be now.
    """
    if len(mesh.triangles) == 0:
        return 0
    slack = slack_of(mesh)
    suspects = np.flatnonzero(heights(mesh) < SLIVER_SLACKS * slack)
    whole = len(suspects) > MOST_SUSPECTS
    if parts > 1 and slack > CONTACT and len(mesh.triangles) <= FEW:
        whole |= len(mesh.triangles) > MOST_SUSPECTS
        suspects = np.arange(len(mesh.triangles))
    if not whole and not (len(suspects) and _some_cross(mesh, suspects)):
        return 0
    from noble_clay.core.mesh.crossings import crossing_pairs

    return len(crossing_pairs(mesh))


def _some_cross(mesh: Mesh, suspects: Ints) -> bool:
    """Whether any of `suspects` (k,) seems to cross another triangle."""
    pairs = _near(mesh, suspects)
    rule = cross
    if compiled_for(LOOKS * len(pairs)):
        from noble_clay.core.mesh import crossings

        rule = crossings.cross
    given = (
        np.ascontiguousarray(mesh.vertices),
        np.ascontiguousarray(mesh.triangles),
        np.ascontiguousarray(normals(mesh)),
    )
    slack, area = slack_of(mesh), areas(mesh)
    first = area[pairs[:, 0]] >= area[pairs[:, 1]]  # the plane of a sliver is hardly told
    ordered = np.where(first[:, None], pairs, pairs[:, ::-1])
    return any(rule(*given, i, j, slack) for i, j in ordered)


def _near(mesh: Mesh, few: Ints) -> Ints:
    """(k, 2) pairs of triangles whose boxes meet, the lower first, no two alike, of which one is among `few`."""
    corners = [
        [axis[c] for c in np.ascontiguousarray(mesh.triangles.T)] for axis in np.ascontiguousarray(mesh.vertices.T)
    ]
    low, high = ([reduce(extreme, axis) for axis in corners] for extreme in (np.minimum, np.maximum))
    found = [np.zeros((0, 2), dtype=np.int64)]
    for i in few:
        near = np.flatnonzero((low[0] <= high[0][i]) & (high[0] >= low[0][i]))
        for axis in (1, 2):
            near = near[(low[axis][near] <= high[axis][i]) & (high[axis][near] >= low[axis][i])]
        found.append(np.column_stack([np.minimum(near, i), np.maximum(near, i)])[near != i])
    return unique_rows(np.concatenate(found))


def crossings_of(mesh: Mesh, part_of: NDArray[np.int64], part_ids: tuple[str, ...], parts: frozenset[str]) -> int:
    """How many pairs of triangles of some parts cross each other."""
    wanted = [i for i, name in enumerate(part_ids) if name in parts]
    if not wanted:
        return 0
    from noble_clay.core.mesh.crossings import crossing_pairs

    return len(crossing_pairs(mesh.keep(np.isin(part_of, wanted))))
