"""The loops under `topology`, compiled: which half edges share an edge, and which things hang together.

Half edge k starts at corner k of the triangles read row by row, and belongs to triangle k // 3.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small


@compiled
def edges_of(triangles: Any, vertices: Any) -> Any:
    """Edges (e, 2), the lower vertex first, sorted; the edge of every half edge (3m,); faces at each edge (e,).

    vertices: how many there are. Half edges are put into buckets by their lower vertex, each then sorted by the higher.
    """
    halves = 3 * len(triangles)
    starts = np.zeros(vertices + 1, dtype=np.int64)
    for f in range(len(triangles)):
        for k in range(3):
            starts[min(triangles[f, k], triangles[f, (k + 1) % 3]) + 1] += 1
    for v in range(vertices):
        starts[v + 1] += starts[v]
    place = starts[:-1].copy()
    members = np.empty(halves, dtype=np.int64)
    highs = np.empty(halves, dtype=np.int64)
    for f in range(len(triangles)):
        for k in range(3):
            a, b = triangles[f, k], triangles[f, (k + 1) % 3]
            low, high = min(a, b), max(a, b)
            at = place[low]
            place[low] += 1
            first = starts[low]
            while at > first and highs[at - 1] > high:  # few share a vertex, so sorting them in is quick
                highs[at], members[at] = highs[at - 1], members[at - 1]
                at -= 1
            highs[at], members[at] = high, 3 * f + k
    edge = np.empty(halves, dtype=np.int64)
    edges = np.empty((halves, 2), dtype=np.int64)
    counts = np.zeros(halves, dtype=np.int64)
    number = -1
    for low in range(vertices):
        last = np.int64(-1)
        for at in range(starts[low], starts[low + 1]):
            if highs[at] != last:
                number += 1
                last = highs[at]
                edges[number, 0], edges[number, 1] = low, last
            edge[members[at]] = number
            counts[number] += 1
    return edges[: number + 1].copy(), edge, counts[: number + 1].copy()


@compiled
def manifold_edge_pairs(edge: Any, counts: Any) -> Any:
    """(p, 2) the half edges of every edge that has exactly two, by edge, the lower first."""
    first = np.full(len(counts), -1, dtype=np.int64)
    number = 0
    for e in range(len(counts)):
        number += counts[e] == 2
    place = np.cumsum(counts == 2) - 1
    found = np.empty((number, 2), dtype=np.int64)
    for half in range(len(edge)):
        e = edge[half]
        if counts[e] != 2:
            continue
        if first[e] < 0:
            first[e] = half
        else:
            found[place[e], 0], found[place[e], 1] = first[e], half
    return found


@compiled
def is_closed_manifold(triangles: Any, vertices: Any) -> Any:
    """Whether every half edge has exactly one that runs the other way, and none that runs its own, and all triangles
    around each vertex are one fan.
    """
    starts = np.zeros(vertices + 1, dtype=np.int64)
    for f in range(len(triangles)):
        for k in range(3):
            starts[triangles[f, k] + 1] += 1
    for v in range(vertices):
        starts[v + 1] += starts[v]
    # By the vertex it is at, each corner: the vertices after and before it in its triangle.
    after, before = np.empty(3 * len(triangles), dtype=np.int32), np.empty(3 * len(triangles), dtype=np.int32)
    place = starts[:-1].copy()
    for f in range(len(triangles)):
        a, b, c = triangles[f]
        if a == b or b == c or c == a:
            return False
        for v, left, right in ((a, b, c), (b, c, a), (c, a, b)):
            after[place[v]], before[place[v]] = left, right
            place[v] += 1
    for v in range(vertices):
        first, last = starts[v], starts[v + 1]
        # Around the vertex: the triangle that goes on where one ends. Each that is met has to be there once.
        at, met = first, 0
        while met < last - first:
            met += 1
            onward = -1
            for other in range(first, last):
                if after[other] == before[at]:
                    if onward >= 0:
                        return False
                    onward = other
            if onward < 0:
                return False
            at = onward
            if at == first:
                break
        if met < last - first:
            return False
    return True


@small
def _root(parent: Any, i: Any) -> Any:
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


@compiled
def connected_components(number: Any, links: Any) -> Any:
    """How many, and for each of `number` things which, counted in the order of their first: links (k, 2) tie two."""
    parent = np.arange(number)
    for k in range(len(links)):
        a, b = _root(parent, links[k, 0]), _root(parent, links[k, 1])
        if a < b:
            parent[b] = a
        else:
            parent[a] = b
    label = np.empty(number, dtype=np.int64)
    count = 0
    for i in range(number):
        root = _root(parent, i)
        if root == i:
            label[i] = count
            count += 1
        else:
            label[i] = label[root]
    return count, label


@compiled
def consistent_winding(number: Any, pairs: Any, agree: Any) -> Any:
    """For each of `number` faces, whether it is turned against the first of its shell; and whether that contradicts
    itself somewhere in its shell. pairs: (k, 2) faces that meet; agree: (k,) whether they are turned alike.
    """
    parent = np.arange(number)
    against = np.zeros(number, dtype=np.bool_)  # to the parent
    broken = np.zeros(number, dtype=np.bool_)  # of roots
    for k in range(len(pairs)):
        a, b = pairs[k, 0], pairs[k, 1]
        odd = not agree[k]
        while parent[a] != a:
            odd ^= against[a]
            a = parent[a]
        while parent[b] != b:
            odd ^= against[b]
            b = parent[b]
        if a == b:
            broken[a] |= odd
        else:
            if b < a:
                a, b = b, a
            parent[b] = a
            against[b] = odd
            broken[a] |= broken[b]
        # Shorten the way from both faces to the root.
        for end in (pairs[k, 0], pairs[k, 1]):
            _shorten(parent, against, end)
    turned = np.empty(number, dtype=np.bool_)
    torn = np.empty(number, dtype=np.bool_)
    for i in range(number):
        _shorten(parent, against, i)
        turned[i] = against[i]
        torn[i] = broken[parent[i]]
    return turned, torn


@small
def _shorten(parent: Any, against: Any, i: Any) -> None:
    root, odd, at = i, False, i
    while parent[root] != root:
        odd ^= against[root]
        root = parent[root]
    while parent[at] != at:
        onward, step = parent[at], against[at]
        parent[at], against[at] = root, odd
        odd ^= step
        at = onward
    against[root] = False


@compiled
def equal_corners(points: Any) -> Any:
    """(n,) for each of the points (n, 3) the first point that is equal to it, by its place among the first ones; and
    the places (k,) of those. Found by a table of hashes; -0 and 0 are equal.
    """
    size = 16
    while size < 2 * len(points):
        size *= 2
    table = np.full(size, -1, dtype=np.int64)
    index = np.empty(len(points), dtype=np.int64)
    firsts = np.empty(len(points), dtype=np.int64)
    bits = (points + 0.0).view(np.uint64)
    count = 0
    for i in range(len(points)):
        mixed = bits[i, 0] * np.uint64(0x9E3779B97F4A7C15)
        mixed = (mixed ^ (mixed >> np.uint64(29)) ^ bits[i, 1]) * np.uint64(0xBF58476D1CE4E5B9)
        mixed = (mixed ^ (mixed >> np.uint64(32)) ^ bits[i, 2]) * np.uint64(0x94D049BB133111EB)
        at = np.int64((mixed ^ (mixed >> np.uint64(31))) & np.uint64(size - 1))
        while True:
            known = table[at]
            if known < 0:
                table[at] = count
                firsts[count] = i
                index[i] = count
                count += 1
                break
            other = firsts[known]
            if bits[i, 0] == bits[other, 0] and bits[i, 1] == bits[other, 1] and bits[i, 2] == bits[other, 2]:
                index[i] = known
                break
            at = (at + 1) & (size - 1)
    return index, firsts[:count].copy()


@compiled
def repeated(triangles: Any, vertices: Any) -> Any:
    """(m,) triangles on the same three vertices as an earlier one."""
    number = len(triangles)
    found = np.zeros(number, dtype=np.bool_)
    newest = np.full(
        vertices, -1, dtype=np.int64
    )  # by lowest vertex: the newest triangle, and from each to the one before
    before = np.empty(number, dtype=np.int64)
    for i in range(number):
        a, b, c = triangles[i, 0], triangles[i, 1], triangles[i, 2]
        low, total, high = min(a, b, c), a + b + c, max(a, b, c)
        other = newest[low]
        while other >= 0:
            p, q, r = triangles[other, 0], triangles[other, 1], triangles[other, 2]
            if max(p, q, r) == high and p + q + r == total:
                found[i] = True
                break
            other = before[other]
        before[i] = newest[low]
        newest[low] = i
    return found


@compiled
def thin_triangles(points: Any, triangles: Any, share: Any) -> Any:
    """(m,) triangles whose double area is at most `share` of their longest side's square; also collapsed ones."""
    found = np.empty(len(triangles), dtype=np.bool_)
    for i in range(len(triangles)):
        a, b, c = triangles[i, 0], triangles[i, 1], triangles[i, 2]
        ux, uy, uz = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
        vx, vy, vz = points[c, 0] - points[a, 0], points[c, 1] - points[a, 1], points[c, 2] - points[a, 2]
        wx, wy, wz = vx - ux, vy - uy, vz - uz
        longest = max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz)
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        found[i] = a == b or b == c or c == a or x * x + y * y + z * z <= (share * longest) ** 2
    return found


@compiled
def boxes_by(shell: Any, number: Any, points: Any, triangles: Any) -> Any:
    """Lowest and highest corner, each (number, 3), of the triangles (m, 3) of every shell (m,)."""
    low, high = np.full((number, 3), np.inf), np.full((number, 3), -np.inf)
    for i in range(len(triangles)):
        for k in range(3):
            for axis in range(3):
                value = points[triangles[i, k], axis]
                low[shell[i], axis] = min(low[shell[i], axis], value)
                high[shell[i], axis] = max(high[shell[i], axis], value)
    return low, high
