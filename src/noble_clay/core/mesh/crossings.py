"""Where a surface runs through itself: the pairs of triangles that cross by the rule of `cross`, found by a tree."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from types import FunctionType
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.loops import compiled, prange, small, spread
from noble_clay.core.mesh.box_tree import LEAF, Tree, apart, held_by
from noble_clay.core.mesh.cross import CROSSES, NEARLY_ONE_PLANE, RULE, slack_of
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.through_edges import goes_through


def _compiled(rule: Sequence[Callable[..., Any]]) -> Any:
    """The last of some plain functions compiled, calling the others compiled."""
    together: dict[str, Any] = {"np": np, "NEARLY_ONE_PLANE": NEARLY_ONE_PLANE}
    for plain in rule:
        assert isinstance(plain, FunctionType)
        again = FunctionType(plain.__code__, together, plain.__name__)
        again.__module__ = plain.__module__
        together[plain.__name__] = small(again)
    return together[rule[-1].__name__]


cross = _compiled(RULE)


def crossing_pairs(
    mesh: Mesh, slack: float | None = None, fresh: NDArray[np.bool_] | None = None, reach: float = 0.0
) -> Ints:
    """(k, 2) triangles that cross, the lower first, sorted. slack: mm, by default `slack_of` the mesh. fresh: (m,) of
    which triangles to look; it is known of the others that they do not cross one another.

    reach: mm, by which their boxes may be apart: within the slack, triangles in one plane cross though they are apart.

    Triangles that name a vertex twice cross nothing; nor do those that are no higher than the slack.
    """
    if len(mesh.triangles) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    tree = Tree.of(mesh, reach)
    least = slack_of(mesh) if slack is None else slack
    points, triangles = np.ascontiguousarray(mesh.vertices), mesh.triangles[tree.order]
    given = Given(
        tree.boxes,
        tree.tight,
        tree.leaves,
        points,
        triangles,
        _facing(points, triangles, least),
        least,
        np.ones(len(tree.order), dtype=np.bool_) if fresh is None else fresh[tree.order],
        fresh is None or bool(fresh.all()),
    )
    leaves = np.unique(np.flatnonzero(given.fresh) // LEAF)
    counts = (_count if len(leaves) > FEW else _count_few)(given, leaves)
    leaves, counts = leaves[counts > 0], counts[counts > 0]
    if len(leaves) == 0:
        return np.zeros((0, 2), dtype=np.int64)
    found = _fill(given, leaves, np.concatenate([[0], np.cumsum(counts)]))
    how = found[:, 2]
    kept = how == CROSSES
    if not kept.all():
        kept |= goes_through(points, triangles, given.normals, found[:, :2], how, least)
    pairs = np.sort(tree.order[found[kept, :2]], axis=1)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]


@compiled
def _facing(points: Any, triangles: Any, slack: Any) -> Any:
    """(m, 3) unit normals; zero for triangles that are no higher than the slack."""
    found = np.zeros((len(triangles), 3))
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ux, uy, uz = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
        vx, vy, vz = points[c, 0] - points[a, 0], points[c, 1] - points[a, 1], points[c, 2] - points[a, 2]
        wx, wy, wz = vx - ux, vy - uy, vz - uz
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        double = np.sqrt(x * x + y * y + z * z)
        longest = max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz)
        if double > slack * np.sqrt(longest):
            found[t, 0], found[t, 1], found[t, 2] = x / double, y / double, z / double
    return found


class Given(NamedTuple):
    """What the loops below read: the tree's boxes, tight boxes and leaves; points (n, 3); in the tree's order triangles
    (m, 3), their unit normals (m, 3) and whether each (m,) is looked at; mm; and whether all of them are.
    """

    boxes: Floats
    tight: Floats
    leaves: int
    points: Floats
    triangles: Ints
    normals: Floats
    slack: float
    fresh: NDArray[np.bool_]
    all_fresh: bool


FEW = 1_000
"""Leaves that one thread looks at by itself: to begin others takes longer."""

IN_A_ROW = 64
"""Leaves that one of several threads looks at in a row."""


@spread
def _count(given: Any, which: Any) -> Any:
    counts = np.zeros(len(which), dtype=np.int64)
    for row in prange((len(which) + IN_A_ROW - 1) // IN_A_ROW):
        _count_row(given, which, row * IN_A_ROW, min(len(which), (row + 1) * IN_A_ROW), counts)
    return counts


@compiled
def _count_few(given: Any, which: Any) -> Any:
    counts = np.zeros(len(which), dtype=np.int64)
    _count_row(given, which, 0, len(which), counts)
    return counts


@compiled
def _count_row(given: Any, which: Any, first: Any, last: Any, counts: Any) -> None:
    """How many pairs each of the leaves which[first:last] finds, into counts."""
    nothing = np.empty((0, 3), dtype=np.int64)
    for at in range(first, last):
        counts[at] = _of_leaf(given, which[at], nothing, 0)


@compiled
def _fill(given: Any, which: Any, starts: Any) -> Any:
    found = np.empty((starts[-1], 3), dtype=np.int64)
    for at in range(len(which)):
        _of_leaf(given, which[at], found, starts[at])
    return found


@compiled
def _of_leaf(given: Any, leaf: Any, found: Any, at: Any) -> Any:
    """How many triangles cross a fresh one of this leaf, or may, and are not fresh themselves or come later; written
    to `found` from `at` on where it has room, with what `cross` says.
    """
    boxes, tight, leaves, triangles, fresh = given.boxes, given.tight, given.leaves, given.triangles, given.fresh
    count = 0
    first, last = leaf * LEAF, min(leaf * LEAF + LEAF, len(triangles))
    stack, mine = np.empty(64, dtype=np.int64), np.empty((1, 6))
    mine[0, :3], mine[0, 3:] = np.inf, -np.inf
    for i in range(first, last):
        if fresh[i]:
            for k in range(3):
                mine[0, k] = min(mine[0, k], tight[i, k])
                mine[0, k + 3] = max(mine[0, k + 3], tight[i, k + 3])
    stack[0] = 0
    size = 1
    while size:
        size -= 1
        node = stack[size]
        if apart(mine, 0, boxes, node):
            continue
        if node < leaves - 1:
            for child in (2 * node + 2, 2 * node + 1):
                farthest = child
                while farthest < leaves - 1:
                    farthest = 2 * farthest + 2
                if farthest >= leaves - 1 + leaf or not given.all_fresh:
                    stack[size] = child  # else its leaves come before this one, and have found their pairs with it
                    size += 1
            continue
        start, end = held_by(node, leaves, len(triangles))
        for i in range(first, last):
            if not fresh[i]:
                continue
            for j in range(start, end):
                if j <= i and fresh[j] or apart(tight, i, tight, j):
                    continue
                how = cross(given.points, triangles, given.normals, min(i, j), max(i, j), given.slack)
                if how:
                    if len(found):
                        found[at + count, 0] = min(i, j)
                        found[at + count, 1] = max(i, j)
                        found[at + count, 2] = how
                    count += 1
    return count
