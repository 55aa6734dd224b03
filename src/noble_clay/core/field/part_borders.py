"""The lines along which the parts of a surface that is built anew meet, as near to one as to the other."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.field.borders import cut_at, owned_most
from noble_clay.core.mesh.half_edges import edge_codes
from noble_clay.core.mesh.long_edges import halved_once
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import CONTACT

BESIDE = 0.05
"""Share of an edge: a corner as near as this to a line on it is taken for being on the line."""

SHORTEST = 3 * CONTACT / BESIDE
"""mm. Shorter edges stay whole: points on several from one corner could be taken for one."""

MOST_SAMPLES = 12
"""Rows of points at which a large triangle is asked whether it is of one part."""

PartAt = Callable[[Floats], Ints]
"""(n,) the part that is nearest to points (n, 3)."""


def with_part_borders(
    mesh: Mesh, part_at: PartAt, some: NDArray[np.bool_] | None = None, beside: float = np.inf
) -> tuple[Mesh, Ints, Ints]:
    """The mesh with its triangles divided where the nearest part changes along their edges, (m,) the part of each, and
    (m,) which triangle of before it is a piece of.

    some: (k,) the triangles to ask about, all when left out; others stay as they are, with the edges that they share,
    and have no part (-1). beside: mm; a corner as near as this to a line, and as `BESIDE`, is taken for being on it.
    """
    asked = np.arange(len(mesh.triangles)) if some is None else np.flatnonzero(some)
    triangles, points = mesh.triangles[asked], mesh.vertices
    corners = np.unique(triangles)
    whose = np.full(len(points), -1)
    whose[corners] = part_at(points[corners])
    names = edge_codes(triangles, np.roll(triangles, -1, axis=1), len(points))
    found = np.unique(names[whose[triangles] != np.roll(whose[triangles], -1, axis=1)])
    if some is not None:
        others = mesh.triangles[~some]
        found = np.setdiff1d(found, edge_codes(others, np.roll(others, -1, axis=1), len(points)))
    found, more = _on_lines(points, found, whose, part_at, beside)
    part = owned_most(whose, triangles)
    unknown = part < 0
    part[unknown] = part_at(points[triangles[unknown]].mean(axis=1))
    whole = np.full(len(mesh.triangles), -1)
    whole[asked] = part
    if len(found) == 0:
        return mesh, whole, np.arange(len(whole))
    pieces, part_of_pieces, source = cut_at(mesh.triangles, asked, names, found, whose, whole)
    return Mesh(np.concatenate([points, more]), pieces), part_of_pieces, source


def _on_lines(points: Floats, edges: Ints, whose: Ints, part_at: PartAt, beside: float) -> tuple[Ints, Floats]:
    """Which edges (k,), named as `edge_codes` does, are to be cut, and where (k, 3). whose: (n,) the part of each, made
    none (-1) for points that are nearly on a line.
    """
    ends = np.column_stack(np.divmod(edges, len(points)))
    lengths = np.linalg.norm(points[ends[:, 0]] - points[ends[:, 1]], axis=1)
    long = lengths >= SHORTEST
    edges, ends, near = edges[long], ends[long], np.minimum(BESIDE, beside / lengths[long])
    share = _where_it_changes(points, ends, whose, part_at, float(near.min(initial=BESIDE)) / 4)
    whose[ends[share < near, 0]] = whose[ends[share > 1 - near, 1]] = -1
    kept = (whose[ends] >= 0).all(axis=1)
    ends, share = ends[kept], share[kept, None]
    return edges[kept], points[ends[:, 0]] * (1 - share) + points[ends[:, 1]] * share


def faces_with_part_borders(mesh: Mesh, part_at: PartAt, length: float) -> tuple[Mesh, Ints]:
    """The same of a closed mesh of large triangles, and (m,) the part of each: where a part begins and ends within one,
    or its border is curved, that is halved as long as it is longer than `length` mm.
    """
    while True:
        divided, part, source = with_part_borders(mesh, part_at, beside=BESIDE * length)
        mixed = np.zeros(len(mesh.triangles), dtype=bool)
        mixed[source[_of_several(divided, part, part_at, length)]] = True
        finer, _ = halved_once(mesh, mixed, length)
        if finer is mesh:
            return divided, part
        mesh = finer


def _of_several(mesh: Mesh, part: Ints, part_at: PartAt, length: float) -> Ints:
    """(k,) triangles, thought to be of `part` (m,), that are of another at some point within."""
    corners = mesh.corners
    longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    rows = np.clip(np.ceil(longest / length).astype(np.int64), 1, MOST_SAMPLES)
    found = [np.zeros(0, dtype=np.int64)]
    for many in np.unique(rows):
        some = np.flatnonzero((rows == many) & (longest > length))
        at = np.array([(i, j, many - 1 - i - j) for i in range(many) for j in range(many - i)])
        points = ((at + 1 / 3) / many) @ corners[some]
        other = part_at(points.reshape(-1, 3)).reshape(len(some), len(at)) != part[some, None]
        found.append(some[other.any(axis=1)])
    return np.concatenate(found)


def _where_it_changes(points: Floats, ends: Ints, whose: Ints, part_at: PartAt, exact: float) -> Floats:
    """(k,) how far along each edge (k, 2) the part of its first end ends, as a share, as exact as `exact`."""
    first, along = points[ends[:, 0]], points[ends[:, 1]] - points[ends[:, 0]]
    low, high = np.zeros(len(ends)), np.ones(len(ends))
    for _ in range(math.ceil(-math.log2(exact))):
        half = (low + high) / 2
        same = part_at(first + half[:, None] * along) == whose[ends[:, 0]]
        low, high = np.where(same, half, low), np.where(same, high, half)
    return (low + high) / 2
