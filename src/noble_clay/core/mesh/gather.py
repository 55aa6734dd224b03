"""Gathering what belongs together: points that are equal, things that are linked, the boxes around groups.

Compiled loops do it quickest, but take a third of a second to be loaded. A process that has them uses them; one that
has not, such as one command on a small piece, gathers by sorting, with the same result, unless there is much to do.
"""

from __future__ import annotations

import sys

import numpy as np

from noble_clay.core.mesh.mesh import Floats, Ints

MUCH, MUCH_BESIDE_OTHERS = 1_500_000, 20_000
"""Points, or links, for which the loops are worth loading: with all that compiles them, and where that is there."""

MIXERS = np.array([0x9E3779B97F4A7C15, 0xBF58476D1CE4E5B9, 0x94D049BB133111EB], dtype=np.uint64)
"""Odd numbers that spread the bits of coordinates (the steps of splitmix64)."""


def compiled_for(many: int) -> bool:
    """Whether the compiled loops are at hand, or worth loading for so many points or links."""
    if "noble_clay.core.mesh.pairing" in sys.modules:
        return True
    return many >= (MUCH_BESIDE_OTHERS if "numba" in sys.modules else MUCH)


def equal_corners(points: Floats) -> tuple[Ints, Ints]:
    """(n,) for each of the points (n, 3) the first point that is equal to it, by its place among the first ones; and
    the places (k,) of those. -0 and 0 are equal.
    """
    if compiled_for(len(points)):
        from noble_clay.core.mesh import pairing

        return pairing.equal_corners(np.ascontiguousarray(points))  # type: ignore[no-any-return]
    if _all_differ(points):
        return np.arange(len(points)), np.arange(len(points))
    order = np.lexsort(points.T)
    ordered = points[order]
    new = np.concatenate([[True], np.any(ordered[1:] != ordered[:-1], axis=1)])[: len(points)]
    # The sort keeps the order of equal points, so that the first of each run comes first of all.
    firsts = order[new]
    rank = np.empty(len(firsts), dtype=np.int64)
    rank[np.argsort(firsts)] = np.arange(len(firsts))
    index = np.empty(len(points), dtype=np.int64)
    index[order] = rank[np.cumsum(new) - 1]
    return index, np.sort(firsts)


def _all_differ(points: Floats) -> bool:
    """Whether no two of the points (n, 3) are equal; seldom false where that is so."""
    bits = (np.ascontiguousarray(points) + 0.0).view(np.uint64) * MIXERS
    mixed = bits[:, 0] ^ (bits[:, 1] >> np.uint64(7)) ^ (bits[:, 2] >> np.uint64(13))
    mixed.sort()
    return not np.any(mixed[1:] == mixed[:-1])


def connected_components(number: int, links: Ints) -> tuple[int, Ints]:
    """How many, and for each of `number` things which, counted in the order of their first: links (k, 2) tie two."""
    if compiled_for(len(links)):
        from noble_clay.core.mesh import pairing

        count, label = pairing.connected_components(number, np.ascontiguousarray(links, dtype=np.int64))
        return int(count), label
    # Each thing points to the lowest of its tree; of two trees that are linked, the higher is hung into the lower
    # (Shiloach & Vishkin, "An O(log n) parallel connectivity algorithm", 1982).
    lowest, (a, b) = np.arange(number), links.T
    while len(a):
        np.minimum.at(lowest, np.maximum(a, b), np.minimum(a, b))
        while not np.array_equal(lowest, above := lowest[lowest]):
            lowest = above
        a, b = lowest[a], lowest[b]
        apart = a != b
        a, b = a[apart], b[apart]
    roots = lowest == np.arange(number)
    return int(roots.sum()), (np.cumsum(roots) - 1)[lowest]


def lowest_of_components(nodes: int, links: Ints) -> Ints:
    """(nodes,) for every node the lowest of those that links (k, 2) tie it to, itself among them."""
    number, label = connected_components(nodes, links)
    lowest = np.full(number, nodes)
    np.minimum.at(lowest, label, np.arange(nodes))
    found: Ints = lowest[label]
    return found


def boxes_by(shell: Ints, number: int, points: Floats, triangles: Ints) -> tuple[Floats, Floats]:
    """Lowest and highest corner, each (number, 3), of the triangles (m, 3) of every shell (m,)."""
    if compiled_for(len(triangles)):
        from noble_clay.core.mesh import pairing

        return pairing.boxes_by(shell, number, points, triangles)  # type: ignore[no-any-return]
    low, high = np.full((number, 3), np.inf), np.full((number, 3), -np.inf)
    order = np.argsort(shell, kind="stable")
    names, starts = np.unique(shell[order], return_index=True)
    for axis in range(3):
        a, b, c = (points[corner, axis] for corner in triangles[order].T)
        if len(starts):
            low[names, axis] = np.minimum.reduceat(np.minimum(np.minimum(a, b), c), starts)
            high[names, axis] = np.maximum.reduceat(np.maximum(np.maximum(a, b), c), starts)
    return low, high


def edges_of(triangles: Ints, vertices: int) -> tuple[Ints, Ints, Ints]:
    """Edges (e, 2) of triangles (m, 3) over so many vertices, the lower vertex first, sorted; for every half edge (3m,)
    its edge; and how many faces use each edge (e,).
    """
    if compiled_for(len(triangles)):
        from noble_clay.core.mesh import pairing

        return pairing.edges_of(np.ascontiguousarray(triangles), vertices)  # type: ignore[no-any-return]
    ends = np.column_stack([triangles.reshape(-1), np.roll(triangles, -1, axis=1).reshape(-1)])
    keys = ends.min(axis=1) * np.int64(max(vertices, 1)) + ends.max(axis=1)
    found, edge, counts = np.unique(keys, return_inverse=True, return_counts=True)
    return np.column_stack(np.divmod(found, max(vertices, 1))), edge.reshape(-1), counts


def manifold_edge_pairs(edge_of_half: Ints, faces_per_edge: Ints) -> Ints:
    """(p, 2) the half edges of every edge that has exactly two, by edge, the lower first."""
    if compiled_for(len(edge_of_half) // 3):
        from noble_clay.core.mesh import pairing

        return pairing.manifold_edge_pairs(edge_of_half, faces_per_edge)  # type: ignore[no-any-return]
    order = np.argsort(edge_of_half, kind="stable")
    return order[(faces_per_edge == 2)[edge_of_half[order]]].reshape(-1, 2)


def distinct(numbers: Ints) -> Ints:
    """Those of whole numbers of any shape, each once, in order: on many the library's own is far slower."""
    order = np.sort(numbers, axis=None)
    new = np.ones(len(order), dtype=bool)
    np.not_equal(order[1:], order[:-1], out=new[1:])
    found: Ints = order[new]
    return found


def row_codes(rows: Ints) -> Ints:
    """(n,) one number for each of rows (n, k) of whole numbers, in the rows' order: equal where they are. Sorting those
    is several times as quick as sorting rows.
    """
    first, *others = rows.astype(np.int64).T - rows.min(axis=0, initial=0)[:, None]
    code: Ints = first
    for column in others:
        wide = int(column.max(initial=0)) + 1
        if int(code.max(initial=0)) >= MOST_CODE // wide:
            code = np.unique(code, return_inverse=True)[1].reshape(-1)
        code = code * wide + column
    return code


MOST_CODE = 2**62


def unique_rows(rows: Ints) -> Ints:
    """The rows (n, k) of whole numbers without those that are there already, in order."""
    return rows[np.unique(row_codes(rows), return_index=True)[1]]


def spans(starts: Ints, lengths: Ints) -> Ints:
    """The indices start, start + 1, … of each start, so many of each."""
    ends = np.cumsum(lengths)
    found: Ints = np.repeat(starts - (ends - lengths), lengths) + np.arange(ends[-1] if len(ends) else 0)
    return found
