"""Meshes cut along the line where a number at their vertices passes zero, and first divided where that line may be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.half_edges import opposite
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

NEAREST = 0.2
"""Where the line passes an edge nearer to its end than this, as a share of it, it goes through that."""

MOST_ROUNDS = 12
"""Times that triangles are divided."""


@dataclass(frozen=True, eq=False)
class Cut:
    """What is kept of a mesh. triangle: (m,) of which of its triangles each comes. loops: its border, closed lines of
    vertices in the direction of its triangles.
    """

    mesh: Mesh
    triangle: Ints
    loops: list[Ints]


def divided(mesh: Mesh, margin: Callable[[Floats], Floats], longest: float) -> tuple[Mesh, Floats, Ints]:
    """The mesh with the triangles in which `margin` may pass zero divided until their edges are no longer than
    `longest`, in their planes; the margin at its vertices, and of which triangle each comes.

    margin: (n,) of points (n, 3), which grows or falls by a mm in a mm at most.
    """
    return divided_again(mesh, margin(mesh.vertices), np.arange(len(mesh.triangles)), margin, longest)


def divided_again(
    mesh: Mesh, values: Floats, source: Ints, margin: Callable[[Floats], Floats], longest: float
) -> tuple[Mesh, Floats, Ints]:
    """As `divided`, for a mesh whose values are known, and of which triangle each of its own comes."""
    vertices, triangles = mesh.vertices, mesh.triangles
    for _ in range(MOST_ROUNDS):
        of_corners = values[triangles]
        low, high = of_corners.min(axis=1), of_corners.max(axis=1)
        corners = vertices[triangles]
        lengths = np.sqrt(((corners[:, [1, 2, 0]] - corners) ** 2).sum(axis=2))
        side = lengths.max(axis=1)
        # An edge of which some may be under zero, or a triangle that may have it within.
        along = ((of_corners + of_corners[:, [1, 2, 0]]) < lengths).any(axis=1)
        may_pass = (high > -side) & (low < side) & (along | (high < side) | ((low < 0) & (high > 0)))
        wanted = (lengths > longest) & (lengths > 0.5 * side[:, None]) & may_pass[:, None]
        if not wanted.any():
            break
        vertices, values, triangles, source = _halved(vertices, values, triangles, source, wanted, margin)
    return Mesh(vertices, triangles), values, source


def _halved(
    vertices: Floats,
    values: Floats,
    triangles: Ints,
    source: Ints,
    wanted: NDArray[np.bool_],
    margin: Callable[[Floats], Floats],
) -> tuple[Floats, Floats, Ints, Ints]:
    """Every wanted edge with a vertex in its middle, in both triangles that share it."""
    ends = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=-1)
    codes = ends.min(axis=2) * len(vertices) + ends.max(axis=2)
    halved = np.unique(codes[wanted])
    at = np.minimum(np.searchsorted(halved, codes), len(halved) - 1)
    split = halved[at] == codes
    middles = (vertices[halved // len(vertices)] + vertices[halved % len(vertices)]) / 2
    new = np.where(split, len(vertices) + at, -1)
    number = split.sum(axis=1)
    found, origin = [triangles[number == 0]], [source[number == 0]]
    for count in (1, 2, 3):
        some = number == count
        if not some.any():
            continue
        t, n, s = triangles[some], new[some], split[some]
        # Turned so that the edge from the first corner is divided, with two the next one too, with one the others not.
        turn = np.argmax(s & ~np.roll(s, 1, axis=1), axis=1) if count < 3 else np.zeros(len(t), dtype=np.int64)
        columns = (turn[:, None] + np.arange(3)) % 3
        (a, b, c), (p, q, r) = np.take_along_axis(t, columns, 1).T, np.take_along_axis(n, columns, 1).T
        if count == 1:
            pieces = [(a, p, c), (p, b, c)]
        elif count == 2:
            pieces = [(a, p, c), (p, b, q), (p, q, c)]
        else:
            pieces = [(a, p, r), (p, b, q), (r, q, c), (p, q, r)]
        found += [np.column_stack(piece) for piece in pieces]
        origin += [source[some]] * len(pieces)
    return (
        np.concatenate([vertices, middles]),
        np.concatenate([values, margin(middles)]),
        np.concatenate(found),
        np.concatenate(origin),
    )


def cut(mesh: Mesh, values: Floats, movable: bool = False) -> Cut:
    """What of a mesh has values above zero, those (n,) at its vertices taken for straight along its edges. Where that
    line passes a vertex closely it goes through it, unless it would touch itself there. movable: such a vertex is moved
    onto the line, along its edge.
    """
    if not (values < 0).any():
        return Cut(mesh, np.arange(len(mesh.triangles)), _borders(mesh.triangles, len(mesh.vertices))[0])
    held = np.zeros(len(values), dtype=bool)
    while True:
        found, pinched = _cut_through(mesh, values, held, movable)
        if not len(pinched):
            return found
        held[pinched] = True


def _cut_through(mesh: Mesh, values: Floats, held: NDArray[np.bool_], movable: bool) -> tuple[Cut, Ints]:
    """held: vertices that the line does not go through. Also which it must not, in addition."""
    triangles = mesh.triangles
    signs = np.sign(values).astype(np.int64)
    signs[signs == 0] = 1
    some = np.flatnonzero(np.ptp(signs[triangles], axis=1) > 0)
    ends = np.stack([triangles[some], np.roll(triangles[some], -1, axis=1)], axis=-1).reshape(-1, 2)
    ends = ends[signs[ends[:, 0]] != signs[ends[:, 1]]]
    share = values[ends[:, 0]] / (values[ends[:, 0]] - values[ends[:, 1]])
    through = np.concatenate([ends[share < NEAREST, 0], ends[share > 1 - NEAREST, 1]])
    signs[through[~held[through]]] = 0
    corners = mesh.vertices
    if movable:
        corners = corners.copy()
        near = ((share < NEAREST) & ~held[ends[:, 0]]) | ((share > 1 - NEAREST) & ~held[ends[:, 1]])
        onto = mesh.vertices[ends[:, 0]] + (mesh.vertices[ends[:, 1]] - mesh.vertices[ends[:, 0]]) * share[:, None]
        corners[np.where(share < 0.5, ends[:, 0], ends[:, 1])[near]] = onto[near]
    of_corners = signs[triangles]
    plus, minus = (of_corners > 0).sum(axis=1), (of_corners < 0).sum(axis=1)
    kept = np.flatnonzero((minus == 0) & (plus > 0))
    mixed = np.flatnonzero((minus > 0) & (plus > 0))
    # Turned so that the corner that is alone comes first: the one above, or with two above the one below.
    t, sign = triangles[mixed], of_corners[mixed]
    alone = np.where(plus[mixed] == 1, 1, -1)
    turn = (np.argmax(sign == alone[:, None], axis=1)[:, None] + np.arange(3)) % 3
    (a, b, c), (_, on_b, on_c) = np.take_along_axis(t, turn, 1).T, np.take_along_axis(sign, turn, 1).T
    codes = np.stack(
        [np.minimum(a, b) * len(values) + np.maximum(a, b), np.minimum(a, c) * len(values) + np.maximum(a, c)]
    )
    crossed = np.stack([on_b == -alone, on_c == -alone])
    known, index = np.unique(codes[crossed], return_inverse=True)
    one, other = known // len(values), known % len(values)
    along = np.clip(values[one] / (values[one] - values[other]), NEAREST, 1 - NEAREST)
    points = mesh.vertices[one] + (mesh.vertices[other] - mesh.vertices[one]) * along[:, None]
    new = np.stack(
        [b, c]
    )  # where an edge from the corner that is alone ends: at the line, or at a vertex that it meets
    new[crossed] = index + len(values)
    p, q = new
    first, two = alone > 0, (alone < 0)
    pieces = [
        np.column_stack([a, p, q])[first],
        np.column_stack([p, b, c])[two & (p != b)],
        np.column_stack([p, c, q])[two & (q != c)],
    ]
    found = np.concatenate([triangles[kept], *pieces])
    source = np.concatenate([kept, mixed[first], mixed[two & (p != b)], mixed[two & (q != c)]])
    vertices = np.concatenate([corners, points])
    used = np.unique(found)
    renumbered = np.full(len(vertices), -1)
    renumbered[used] = np.arange(len(used))
    loops, twice = _borders(renumbered[found], len(used))
    pinched = used[twice]
    return Cut(Mesh(vertices[used], renumbered[found]), source, loops), pinched[pinched < len(values)]


def _borders(triangles: Ints, vertices: int) -> tuple[list[Ints], Ints]:
    """The closed lines of a border, in the direction of the triangles; and the vertices at which one meets another."""
    if len(triangles) == 0:
        return [], np.zeros(0, dtype=np.int64)
    starts, ends = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    edge = opposite(starts, ends, vertices) < 0
    starts, ends = starts[edge], ends[edge]
    known, times = np.unique(starts, return_counts=True)
    if (times > 1).any():
        return [], known[times > 1]
    after = dict(zip(starts.tolist(), ends.tolist(), strict=True))
    loops = []
    while after:
        first, at = after.popitem()
        loop = [first]
        while at != first:
            loop.append(at)
            at = after.pop(at)
        loops.append(np.array(loop))
    return loops, np.zeros(0, dtype=np.int64)
