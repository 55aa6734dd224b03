"""The lines along which one part's colour ends and another's begins, drawn through the middle of their run."""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.field.fold import FAR, STEP, Fold, placed_at
from noble_clay.core.loops import compiled
from noble_clay.core.mesh.half_edges import edge_codes
from noble_clay.core.mesh.mesh import Floats, Ints

BESIDE = 0.08
"""The least share of an edge that is on either side of a line."""


def with_borders(
    fold: Fold, points: Floats, triangles: Ints, whose: Ints, outer: Ints, to_mm: float
) -> tuple[Floats, Ints, Ints]:
    """(k, 3) more points on edges, after the n there are; (m, 3) the triangles divided by them, and (m,) the step of
    each: where two steps meet, as much nearer to one as to the other.

    points: (n, 3), of which one is `to_mm` mm. whose: (n,) the step that each is of, -1 where that is not known.
    outer: (j, 2) edges that others share and that stay.
    """
    step = owned_most(whose, triangles)
    of = whose[triangles]
    after = np.roll(of, -1, axis=1)
    mixed = (of != after) & (of >= 0) & (after >= 0)
    some = np.flatnonzero(mixed.any(axis=1))
    span = len(points)
    names = np.where(mixed[some], edge_codes(triangles[some], np.roll(triangles[some], -1, axis=1), span), -1)
    outer = outer[whose[outer[:, 0]] != whose[outer[:, 1]]]
    found = np.setdiff1d(names, np.append(edge_codes(outer[:, 0], outer[:, 1], span), -1))
    if len(found) == 0:
        return np.zeros((0, 3)), triangles, step
    ends = np.column_stack([found // span, found % span])
    rows, _, numbers, blocks, values = fold.arrays
    firsts = np.searchsorted(rows[:, STEP], np.arange(len(fold.steps) + 1))
    lean = _lean(rows, numbers, blocks, values, firsts, points * to_mm, ends, whose[ends])
    meets = (lean[:, 0] < 0) & (lean[:, 1] > 0)
    found, ends, lean = found[meets], ends[meets], lean[meets]
    if len(found) == 0:
        return np.zeros((0, 3)), triangles, step
    share = np.clip(lean[:, 0] / (lean[:, 0] - lean[:, 1]), BESIDE, 1 - BESIDE)[:, None]
    more = points[ends[:, 0]] * (1 - share) + points[ends[:, 1]] * share
    triangles, step, _ = cut_at(triangles, some, names, found, whose, step)
    return more, triangles, step


def owned_most(whose: Ints, triangles: Ints) -> Ints:
    """(m,) the step that most corners of each triangle are of, of those of which that is known; -1 for none."""
    a, b, c = whose[triangles].T
    a, b = np.where(a < 0, b, a), np.where(b < 0, c, b)
    found: Ints = np.where((b == c) & (b >= 0), b, np.where(a < 0, c, a))
    return found


def cut_at(triangles: Ints, some: Ints, names: Ints, found: Ints, whose: Ints, step: Ints) -> tuple[Ints, Ints, Ints]:
    """Triangles (m, 3), those that stay first and then the pieces of those with an edge that is `found`, the step of
    each, and which triangle it is of.

    some: (j,) those that may have such an edge, and names: (j, 3) what theirs are called, as `edge_codes` does or -1.
    found: (k,) edges, sorted, on each of which there is a point now; those points come after all of which `whose` (n,)
    tells the step. step: (m,) of each triangle.
    """
    at = np.minimum(np.searchsorted(found, names), len(found) - 1)
    middle = np.where(found[at] == names, len(whose) + at, -1)
    cut = (middle >= 0).any(axis=1)
    some, middle = some[cut], middle[cut]
    pieces, step_of_pieces, of = _cut_up(triangles[some], middle, whose, step[some])
    stays = np.ones(len(triangles), dtype=bool)
    stays[some] = False
    return (
        np.concatenate([triangles[stays], pieces]),
        np.concatenate([step[stays], step_of_pieces]),
        np.concatenate([np.flatnonzero(stays), some[of]]),
    )


def _cut_up(triangles: Ints, middle: Ints, whose: Ints, step: Ints) -> tuple[Ints, Ints, Ints]:
    """Triangles (m, 3) cut at points on their edges (m, 3), -1 for none, the first of them from corner 0 to 1; the step
    of each piece, and which triangle it is of.

    whose: the step of each point. step: (m,) of what is left in the middle of a triangle that is cut at all its edges.
    """
    found, steps, sources = [], [], []
    count = (middle >= 0).sum(axis=1)

    def turned(mine: Ints, first: Ints) -> tuple[Ints, ...]:
        """The corners and the points from corner `first` on."""
        ring = (first[:, None] + np.arange(3)) % 3
        rows = mine[:, None]
        return (*triangles[rows, ring].T, *middle[rows, ring].T)

    def put(mine: Ints, a: Ints, b: Ints, c: Ints, of: Ints) -> None:
        found.append(np.column_stack([a, b, c]))
        steps.append(of)
        sources.append(mine)

    one = np.flatnonzero(count == 1)
    a, b, c, m, _, _ = turned(one, np.argmax(middle[one] >= 0, axis=1))
    put(one, a, m, c, whose[a])
    put(one, m, b, c, whose[b])
    two = np.flatnonzero(count == 2)
    a, b, c, _, n, o = turned(two, np.argmax(middle[two] < 0, axis=1))
    put(two, c, o, n, whose[c])
    put(two, a, b, n, np.where(whose[b] >= 0, whose[b], whose[a]))
    put(two, a, n, o, whose[a])
    three = np.flatnonzero(count == 3)
    a, b, c, m, n, o = turned(three, np.zeros(len(three), dtype=np.int64))
    put(three, a, m, o, whose[a])
    put(three, b, n, m, whose[b])
    put(three, c, o, n, whose[c])
    put(three, m, n, o, step[three])
    return np.concatenate(found), np.concatenate(steps), np.concatenate(sources)


@compiled
def _lean(rows: Any, numbers: Any, blocks: Any, values: Any, firsts: Any, points: Any, ends: Any, whose: Any) -> Any:
    """(n, 2) at both ends of edges, how much nearer the step of the first end is than that of the second, below 0."""
    found = np.empty((len(ends), 2))
    for e in range(len(ends)):
        for k in range(2):
            x, y, z = points[ends[e, k]]
            near = np.full(2, FAR)
            for n in range(2):
                for form in range(firsts[whose[e, n]], firsts[whose[e, n] + 1]):
                    near[n] = min(near[n], abs(placed_at(rows, numbers, blocks, values, form, x, y, z)[0]))
            found[e, k] = near[0] - near[1]
    return found
