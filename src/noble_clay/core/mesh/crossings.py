"""Where a surface runs through itself: the pairs of triangles that cross by the rule of `cross`, found by a tree."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from types import FunctionType
from typing import Any, NamedTuple

import numpy as np
from numba import njit, prange

from noble_clay.core.mesh.box_tree import LEAF, Tree, apart
from noble_clay.core.mesh.cross import NEARLY_ONE_PLANE, RULE, slack_of
from noble_clay.core.mesh.mass import heights, normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh


def _compiled(rule: Sequence[Callable[..., Any]]) -> Any:
    """The last of some plain functions compiled, calling the others compiled."""
    together: dict[str, Any] = {"np": np, "NEARLY_ONE_PLANE": NEARLY_ONE_PLANE}
    for plain in rule:
        assert isinstance(plain, FunctionType)
        again = FunctionType(plain.__code__, together, plain.__name__)
        again.__module__ = plain.__module__
        together[plain.__name__] = njit(cache=True)(again)
    return together[rule[-1].__name__]


cross = _compiled(RULE)


def crossing_pairs(mesh: Mesh, slack: float | None = None) -> Ints:
    """(k, 2) triangles that cross, the lower first, sorted. slack: mm, by default `slack_of` the mesh.

    Triangles that name a vertex twice cross nothing; nor do those that are no higher than the slack.
    """
    if len(mesh.triangles) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    tree = Tree.of(mesh)
    least = slack_of(mesh) if slack is None else slack
    facing = normals(mesh)
    facing[heights(mesh) <= least] = 0.0
    given = Given(
        np.ascontiguousarray(mesh.vertices),
        np.ascontiguousarray(mesh.triangles[tree.order]),
        np.ascontiguousarray(facing[tree.order]),
        least,
    )
    number = -(-len(tree.order) // LEAF)
    counts = _count(tree.boxes, tree.tight, tree.leaves, *given, number)
    leaves = np.flatnonzero(counts)
    if len(leaves) == 0:
        return np.zeros((0, 2), dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(counts[leaves])])
    found = _fill(tree.boxes, tree.tight, tree.leaves, *given, leaves, starts)
    pairs = np.sort(tree.order[found], axis=1)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]


class Given(NamedTuple):
    """What the loops below read: points (n, 3), triangles (m, 3) in the tree's order, their unit normals (m, 3), mm."""

    points: Floats
    triangles: Ints
    normals: Floats
    slack: float


@njit(cache=True, parallel=True)  # type: ignore[untyped-decorator]
def _count(
    boxes: Any, tight: Any, leaves: Any, points: Any, triangles: Any, normals: Any, slack: Any, number: Any
) -> Any:
    counts = np.zeros(number, dtype=np.int64)
    nothing = np.empty((0, 2), dtype=np.int64)
    for leaf in prange(number):
        counts[leaf] = _of_leaf(boxes, tight, leaves, points, triangles, normals, slack, leaf, nothing, 0)
    return counts


@njit(cache=True)  # type: ignore[untyped-decorator]
def _fill(
    boxes: Any, tight: Any, leaves: Any, points: Any, triangles: Any, normals: Any, slack: Any, which: Any, starts: Any
) -> Any:
    found = np.empty((starts[-1], 2), dtype=np.int64)
    for at in range(len(which)):
        _of_leaf(boxes, tight, leaves, points, triangles, normals, slack, which[at], found, starts[at])
    return found


@njit(cache=True)  # type: ignore[untyped-decorator]
def _of_leaf(
    boxes: Any,
    tight: Any,
    leaves: Any,
    points: Any,
    triangles: Any,
    normals: Any,
    slack: Any,
    leaf: Any,
    found: Any,
    at: Any,
) -> Any:
    """How many triangles cross one of this leaf and come later; written to `found` from `at` on where it has room."""
    stack = np.empty(64, dtype=np.int64)
    stack[0] = 0
    size = 1
    count = 0
    mine = leaves - 1 + leaf
    first, last = leaf * LEAF, min(leaf * LEAF + LEAF, len(triangles))
    while size:
        size -= 1
        node = stack[size]
        if apart(boxes, mine, boxes, node):
            continue
        if node < leaves - 1:
            for child in (2 * node + 2, 2 * node + 1):
                far = child
                while far < leaves - 1:
                    far = 2 * far + 2
                if far >= mine:  # leaves before mine have found their pairs with me already
                    stack[size] = child
                    size += 1
            continue
        other = (node - leaves + 1) * LEAF
        for i in range(first, last):
            for j in range(max(other, i + 1), min(other + LEAF, len(triangles))):
                if not apart(tight, i, tight, j) and cross(points, triangles, normals, i, j, slack):
                    if len(found):
                        found[at + count, 0] = i
                        found[at + count, 1] = j
                    count += 1
    return count
