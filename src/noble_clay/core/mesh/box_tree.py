"""A tree of boxes around triangles: leaves of neighbours along a Morton curve, pairs of nodes under each other.

G. M. Morton, "A computer oriented geodetic data base", 1966; the tree is implicit, as in a heap: the children of node i
are 2 i + 1 and 2 i + 2, the leaves are the last nodes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import SOME

LEAF = 4
"""Triangles in a leaf."""


@dataclass(frozen=True, eq=False)
class Tree:
    """order: (m,) triangles along the curve; leaf k holds order[4 k : 4 k + 4]. boxes: (nodes, 6) lowest and highest
    corner of every node. leaves: how many leaves there are room for, a power of two; the first is node `leaves` - 1.
    tight: (m, 6) the boxes of the triangles, in `order`.
    """

    order: Ints
    boxes: Floats
    leaves: int
    tight: Floats

    @staticmethod
    def of(mesh: Mesh, reach: float = 0.0) -> Tree:
        """reach: mm, by which boxes may be apart and still have a point in common."""
        tight = _tight(mesh.vertices, mesh.triangles)
        if reach:
            tight += np.repeat([-reach / 2, reach / 2], 3)
        order = _in_order(_codes(tight))
        tight = tight[order]
        leaves = 1
        while leaves * LEAF < len(order):
            leaves *= 2
        return Tree(order, _nodes(tight, leaves), leaves, tight)


@compiled
def _tight(points: Any, triangles: Any) -> Any:
    found = np.empty((len(triangles), 6))
    for i in range(len(triangles)):
        for k in range(3):
            a, b, c = points[triangles[i, 0], k], points[triangles[i, 1], k], points[triangles[i, 2], k]
            found[i, k] = min(a, b, c)
            found[i, k + 3] = max(a, b, c)
    return found


@small
def _spread(value: Any) -> Any:
    """The lowest ten bits of a number, two zeros put between each."""
    value = (value | (value << 16)) & 0x030000FF
    value = (value | (value << 8)) & 0x0300F00F
    value = (value | (value << 4)) & 0x030C30C3
    return (value | (value << 2)) & 0x09249249


@compiled
def _codes(tight: Any) -> Any:
    """(m,) places of the middles of boxes on a Morton curve of 1024 cells a side."""
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for i in range(len(tight)):
        for k in range(3):
            middle = tight[i, k] + tight[i, k + 3]
            low[k] = min(low[k], middle)
            high[k] = max(high[k], middle)
    side = max((high - low).max(), SOME)
    found = np.empty(len(tight), dtype=np.uint32)
    for i in range(len(tight)):
        code = 0
        for k in range(3):
            cell = int((tight[i, k] + tight[i, k + 3] - low[k]) / side * 1023.0)
            code |= _spread(cell) << k
        found[i] = code
    return found


DIGIT = 10
"""Bits of a code that are sorted by at a time: it has three times as many."""


@compiled
def _in_order(codes: Any) -> Any:
    """(m,) the places of codes in ascending order, of equal ones the lower first: sorted by their digits."""
    order, onward = np.arange(len(codes)), np.empty(len(codes), dtype=np.int64)
    for turn in range(3):
        starts = np.zeros((1 << DIGIT) + 1, dtype=np.int64)
        for code in codes:
            starts[((code >> (DIGIT * turn)) & ((1 << DIGIT) - 1)) + 1] += 1
        for digit in range(1 << DIGIT):
            starts[digit + 1] += starts[digit]
        for i in order:
            digit = (codes[i] >> (DIGIT * turn)) & ((1 << DIGIT) - 1)
            onward[starts[digit]] = i
            starts[digit] += 1
        order, onward = onward, order
    return order


@compiled
def _nodes(tight: Any, leaves: Any) -> Any:
    boxes = np.empty((2 * leaves - 1, 6))
    boxes[:, :3] = np.inf
    boxes[:, 3:] = -np.inf
    for i in range(len(tight)):
        node = leaves - 1 + i // LEAF
        for k in range(3):
            boxes[node, k] = min(boxes[node, k], tight[i, k])
            boxes[node, k + 3] = max(boxes[node, k + 3], tight[i, k + 3])
    for node in range(leaves - 2, -1, -1):
        for k in range(3):
            boxes[node, k] = min(boxes[2 * node + 1, k], boxes[2 * node + 2, k])
            boxes[node, k + 3] = max(boxes[2 * node + 1, k + 3], boxes[2 * node + 2, k + 3])
    return boxes


@small
def apart(a: Any, i: Any, b: Any, j: Any) -> Any:
    """Whether box i of `a` and box j of `b`, both (n, 6), have no point in common."""
    return (
        a[i, 0] > b[j, 3]
        or b[j, 0] > a[i, 3]
        or a[i, 1] > b[j, 4]
        or b[j, 1] > a[i, 4]
        or a[i, 2] > b[j, 5]
        or b[j, 2] > a[i, 5]
    )


@small
def put_children(stack: Any, size: Any, node: Any) -> Any:
    """Put both children of a node on a stack that holds `size`; how many it holds then."""
    stack[size], stack[size + 1] = 2 * node + 1, 2 * node + 2
    return size + 2


@small
def held_by(node: Any, leaves: Any, number: Any) -> Any:
    """From where to where in the tree's order, of so many triangles, those of a leaf are."""
    first = (node - leaves + 1) * LEAF
    return first, min(first + LEAF, number)


def meeting_boxes(mesh: Mesh, faces: Ints) -> Ints:
    """(k, 2): each of some triangles with each whose box meets its own, the lower first; sorted, no two alike.

    faces: (j,) indices.
    """
    tree = Tree.of(mesh)
    place = np.empty(len(tree.order), dtype=np.int64)
    place[tree.order] = np.arange(len(tree.order))
    counts = _meeting(tree.boxes, tree.tight, tree.leaves, place[faces], np.zeros(len(faces), np.int64), False)[0]
    starts = np.concatenate([[0], np.cumsum(counts)])
    found = tree.order[_meeting(tree.boxes, tree.tight, tree.leaves, place[faces], starts, True)[1]]
    pairs = np.sort(np.column_stack([np.repeat(faces, counts), found]), axis=1)
    code = distinct((pairs @ [len(mesh.triangles), 1])[pairs[:, 0] != pairs[:, 1]])
    return np.column_stack(np.divmod(code, len(mesh.triangles)))


@compiled
def _meeting(boxes: Any, tight: Any, leaves: Any, which: Any, starts: Any, fill: Any) -> Any:
    """How many boxes meet that of each of `which`, and, from `starts` on, which."""
    counts = np.zeros(len(which), dtype=np.int64)
    found = np.empty(starts[-1] if fill else 0, dtype=np.int64)
    stack = np.empty(64, dtype=np.int64)
    for at in range(len(which)):
        i = which[at]
        stack[0] = 0
        size = 1
        while size:
            size -= 1
            node = stack[size]
            if apart(tight, i, boxes, node):
                continue
            if node < leaves - 1:
                size = put_children(stack, size, node)
                continue
            first, last = held_by(node, leaves, len(tight))
            for j in range(first, last):
                if not apart(tight, i, tight, j):
                    if fill:
                        found[starts[at] + counts[at]] = j
                    counts[at] += 1
    return counts, found
