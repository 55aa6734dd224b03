"""A list run together: each part's own triangles where nothing rounds them, the field's surface where it is rounded,
and a strip of triangles between.

The parts' meshes are cut where the margin is zero, the surface on the lattice a little within, and the two borders,
which run side by side, are joined by the shorter diagonal. Where they do not pair, because what remains of a part
there is too small for the lattice, a ball around the place is given to the lattice, then a larger one, then all of it:
that always closes.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial import cKDTree

from noble_clay.core.errors import MeshError
from noble_clay.core.field.blocks import blocks_of
from noble_clay.core.field.compiled import compiled
from noble_clay.core.field.contour import Contour, contour
from noble_clay.core.field.fold import STEP, Fold
from noble_clay.core.field.margin_cut import Cut, cut, divided, divided_again
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

WITHIN = (1.0, 1.5, 0.7, 2.0)
"""How far within the margin the surface on the lattice begins, in cells; the others where the first does not do."""

WIDEST = 4.0
"""How wide a strip may be, in cells."""

MOST_TRIANGLES = 300_000
"""About how many triangles the whole surface on the lattice may have."""

ATTEMPTS = 4
"""Times that places are given to the lattice before all of it is."""


@dataclass(frozen=True, eq=False)
class RunTogether:
    """mesh: closed. step: (m,) of which step each triangle is nearest or of whose own surface it is a piece. own: (m,)
    which triangle of that step's mesh it is a piece of, -1 for none. given: (k, 4) balls that were given to the
    lattice.
    """

    mesh: Mesh
    step: Ints
    own: Ints
    given: Floats


NONE_GIVEN = np.zeros((0, 4))


def run_together(
    fold: Fold,
    meshes: list[Mesh],
    cell: float,
    given: Floats = NONE_GIVEN,
    begin: Callable[[int, str], None] = lambda step, stage: None,
) -> RunTogether:
    """meshes: of the steps' parts with their copies, closed. given: balls that are known to be needed. begin: told of
    which step its own mesh ("blend") or its share of the lattice ("run") is next; it may end the work by raising.

    Raises MeshError when the lattice is too fine.
    """
    boxes = [mesh.bounds for mesh in meshes]
    own = []
    for step, mesh in enumerate(meshes):
        begin(step, "blend")
        own.append(_Own(fold, step, mesh, _margin_near(fold, boxes, step), cell))
    box = _bounds(fold, boxes)

    def go_on(share: float) -> None:
        begin(int(share * (len(meshes) - 1)), "run")

    for _ in range(ATTEMPTS):
        found, wrong = _attempt(fold, own, box, cell, given, go_on)
        if found is not None:
            return found
        given = _with_balls(given, wrong, cell)
    return all_of_it(fold, meshes, cell, go_on)


class _Own:
    """A step's own mesh, divided where its margin is about zero."""

    def __init__(self, fold: Fold, step: int, mesh: Mesh, margin: Callable[[Floats], Floats], cell: float) -> None:
        self.step = step
        self.op = fold.steps[step].op
        self._margin = margin
        self._cell = cell
        self._longest = max(fold.reach / 3, cell)
        self._divided = divided(mesh, margin, self._longest)

    def kept(self, given: Floats) -> tuple[Cut, Ints]:
        """What is kept of it where balls are given to the lattice, and of which of its triangles each is a piece."""
        if len(given):

            def margin(points: Floats) -> Floats:
                found: Floats = np.minimum(self._margin(points), to_balls(points, given))
                return found

            mesh, values, source = self._divided
            values = np.minimum(values, to_balls(mesh.vertices, given))
            self._divided = divided_again(mesh, values, source, margin, self._longest)
        mesh, values, source = self._divided
        found = cut(mesh, _without_shallows(mesh, values, min(WITHIN) * self._cell))
        if self.op == "difference":
            mesh = Mesh(found.mesh.vertices, found.mesh.triangles[:, ::-1])
            found = Cut(mesh, found.triangle, [loop[::-1] for loop in found.loops])
        return found, source[found.triangle]


def _without_shallows(mesh: Mesh, values: Floats, depth: float) -> Floats:
    """The margins (n,) at a mesh's vertices, above zero also where a place below it is nowhere deeper than `depth`: the
    surface on the lattice does not begin there, and is off the part's own by next to nothing.
    """
    below = values <= 0
    if not below.any():
        return values
    ends = np.stack([mesh.triangles, np.roll(mesh.triangles, -1, axis=1)], axis=-1).reshape(-1, 2)
    ends = ends[below[ends].all(axis=1)]
    number, place = connected_components(len(values), ends)
    deepest = np.zeros(number)
    np.minimum.at(deepest, place[below], values[below])
    shallow = below & (deepest[place] > -depth)
    return np.where(shallow, depth, values)


def _attempt(
    fold: Fold, own: list[_Own], box: Floats, cell: float, given: Floats, go_on: Callable[[float], None]
) -> tuple[RunTogether | None, Floats]:
    """The list run together, or none and balls around the places where it cannot be."""
    surface = contour(fold, blocks_of(fold, cell, box, given), go_on)
    margins = np.minimum(surface.margins, to_balls(surface.mesh.vertices, given))
    kept = [one.kept(given) for one in own]
    widest = max(WIDEST * cell, float(fold.arrays[1][:, 1].max()) / 2)
    wrong = NONE_GIVEN
    for within in WITHIN:
        inner = cut(surface.mesh, -margins - within * cell, movable=True)
        found, amiss = _joined(surface, inner, own, kept, widest, cell, given)
        if found is not None:
            return found, NONE_GIVEN
        wrong = wrong if len(wrong) else amiss
    return None, wrong


def _joined(
    surface: Contour,
    inner: Cut,
    own: list[_Own],
    kept: list[tuple[Cut, Ints]],
    widest: float,
    cell: float,
    given: Floats,
) -> tuple[RunTogether | None, Floats]:
    """The contour within, what is kept of the parts' own meshes, and the strips between."""
    starts = np.cumsum([len(inner.mesh.vertices), *(len(piece.mesh.vertices) for piece, _ in kept)])
    every = np.concatenate([inner.mesh.vertices, *(piece.mesh.vertices for piece, _ in kept)])
    loops = [loop + start for (piece, _), start in zip(kept, starts, strict=False) for loop in piece.loops]
    strips, wrong = zipped(every, loops, inner.loops, widest, cell)
    if len(wrong):
        return None, wrong
    triangles = [
        inner.mesh.triangles,
        *(piece.mesh.triangles + start for (piece, _), start in zip(kept, starts, strict=False)),
    ]
    crossing = _crossing(every, triangles, strips)
    if len(crossing):
        return None, _around(crossing, cell)
    step_of_strips = [one.step for one, (piece, _) in zip(own, kept, strict=True) for _ in piece.loops]
    steps = [
        surface.step_of_triangles[inner.triangle],
        *(np.full(len(source), one.step) for one, (_, source) in zip(own, kept, strict=True)),
        *(np.full(len(strip), step) for strip, step in zip(strips, step_of_strips, strict=True)),
    ]
    sources = [np.full(len(inner.triangle), -1), *(source for _, source in kept)]
    sources += [np.full(len(strip), -1) for strip in strips]
    mesh = Mesh(every, np.concatenate([*triangles, *strips]))
    return RunTogether(mesh, np.concatenate(steps), np.concatenate(sources), given), NONE_GIVEN


def _crossing(points: Floats, triangles: list[Ints], strips: list[Ints]) -> Floats:
    """(k, 3) the middles of triangles that cross others in the strips and about them."""
    if not strips:
        return np.zeros((0, 3))
    strip = np.concatenate(strips)
    touched = np.zeros(len(points), dtype=bool)
    touched[strip] = True
    about = np.concatenate([strip, *(t[touched[t].any(axis=1)] for t in triangles)])
    mesh = Mesh(points, about).compact()
    pairs = crossing_pairs(mesh)
    return mesh.corners[np.unique(pairs)].mean(axis=1) if len(pairs) else np.zeros((0, 3))


def _margin_near(fold: Fold, boxes: list[Floats | None], step: int) -> Callable[[Floats], Floats]:
    """The margin on a step's own surface, from the forms that can matter there: its own, those near it, and what all
    must be within.
    """
    own = boxes[step]
    assert own is not None, "an empty part enters no list"
    low, high = own[0] - fold.reach, own[1] + fold.reach
    wanted = []
    for other, box in enumerate(boxes):
        meets = box is not None and bool(np.all(box[0] <= high) and np.all(box[1] >= low))
        if meets or fold.steps[other].op == "intersection":
            wanted.append(other)
    active = np.flatnonzero(np.isin(fold.arrays[0][:, STEP], wanted))
    return lambda points: fold.margin(points, active)


def _bounds(fold: Fold, boxes: list[Floats | None]) -> Floats:
    """(2, 3): the box of all that the surface can be in."""
    united = zip(boxes, fold.steps, strict=True)
    every = np.array([box for box, step in united if step.op == "union" and box is not None])
    return np.array([every[:, 0].min(axis=0) - fold.reach, every[:, 1].max(axis=0) + fold.reach])


@compiled
def to_balls(points: Any, balls: Any) -> Any:
    """(n,) how far points (n, 3) are from being in one of the balls (k, 4), middle and radius."""
    found = np.full(len(points), np.inf)
    for i in range(len(points)):
        for k in range(len(balls)):
            x, y, z = points[i, 0] - balls[k, 0], points[i, 1] - balls[k, 1], points[i, 2] - balls[k, 2]
            found[i] = min(found[i], math.sqrt(x * x + y * y + z * z) - balls[k, 3])
    return found


def _with_balls(given: Floats, places: Floats, cell: float) -> Floats:
    """The balls with new ones (k, 4) where there were none; where it went wrong again they are twice as large."""
    balls = given.copy()
    new = places[:0]
    for place in places:
        gap = np.linalg.norm(balls[:, :3] - place[:3], axis=1) - balls[:, 3]
        again = gap < place[3]
        balls[again & (balls[:, 3] == given[:, 3]), 3] *= 2
        if not again.any() and not np.any(np.linalg.norm(new[:, :3] - place[:3], axis=1) < new[:, 3]):
            new = np.concatenate([new, place[None]])
    return np.concatenate([balls, new])


def is_much(fold: Fold, meshes: list[Mesh], cell: float, most: int) -> bool:
    """Whether the surface may be rounded in more than so many blocks of the lattice."""
    try:
        return len(blocks_of(fold, cell, _bounds(fold, [mesh.bounds for mesh in meshes]), NONE_GIVEN).corners) > most
    except MeshError:
        return True


def all_of_it(
    fold: Fold, meshes: list[Mesh], cell: float, go_on: Callable[[float], None] = lambda share: None
) -> RunTogether:
    """The whole surface on the lattice, coarser where that would be too much: sharp edges are cut off by part of a
    cell, and it always closes.
    """
    area = sum(float(areas(m).sum()) for m, each in zip(meshes, fold.steps, strict=True) if each.op == "union")
    radii = fold.arrays[1][:, 1]
    coarsest = float(radii[radii > 0].min(initial=np.inf)) / 3
    cell = max(cell, min(coarsest, math.sqrt(3 * area / MOST_TRIANGLES)))
    box = _bounds(fold, [mesh.bounds for mesh in meshes])
    found = contour(fold, blocks_of(fold, cell, box, NONE_GIVEN, everywhere=True), go_on)
    none = np.full(len(found.mesh.triangles), -1)
    return RunTogether(found.mesh, found.step_of_triangles, none, NONE_GIVEN)


def zipped(
    points: Floats, outer: list[Ints], inner: list[Ints], widest: float, cell: float
) -> tuple[list[Ints], Floats]:
    """Strips (k, 3) between borders that run side by side, each closed line of the one with one of the other; and (p,
    4) balls around the places where that cannot be.
    """
    if not outer and not inner:
        return [], NONE_GIVEN
    if not outer or not inner:
        return [], np.concatenate([_around(points[loop], cell) for loop in outer or inner])
    partner, wrong = _partners(points, outer, inner)
    back, more = _partners(points, inner, outer)
    wrong += more
    if wrong:
        return [], np.concatenate([_around(places, cell) for places in wrong])
    strips = []
    used = set()
    for i, j in enumerate(partner):
        if back[j] != i:
            wrong.append(points[outer[i]])
            continue
        used.add(j)
        strip = _strip(points, outer[i][::-1], inner[j])
        sides = np.linalg.norm(points[strip] - points[np.roll(strip, -1, axis=1)], axis=2).max(axis=1)
        if (sides > widest).any():
            wrong.append(points[strip[sides > widest]].mean(axis=1))
        strips.append(strip)
    wrong += [points[loop] for j, loop in enumerate(inner) if j not in used]
    return strips, np.concatenate([NONE_GIVEN, *(_around(places, cell) for places in wrong)])


def _around(places: Floats, cell: float) -> Floats:
    """Balls (k, 4) around places: one around all of them where they are close together, else one around those that are
    close to each other.
    """
    middle = places.mean(axis=0)
    reach = float(np.linalg.norm(places - middle, axis=1).max())
    if reach < 12 * cell:
        return np.array([[*middle, reach + 4 * cell]])
    _, first = np.unique(np.floor(places / (6 * cell)), axis=0, return_index=True)
    return np.column_stack([places[first], np.full(len(first), 8 * cell)])


def _partners(points: Floats, lines: list[Ints], others: list[Ints]) -> tuple[list[int], list[Floats]]:
    """Of each line which of the others runs beside it, -1 for more than one; and the places where one gives way to the
    next.
    """
    tree = cKDTree(points[np.concatenate(others)])
    owner = np.repeat(np.arange(len(others)), [len(o) for o in others])
    partners, places = [], []
    for line in lines:
        votes = owner[tree.query(points[line])[1]]
        most = int(np.bincount(votes).argmax())
        if np.all(votes == most):
            partners.append(most)
        else:
            partners.append(-1)
            places.append(points[line[votes != np.roll(votes, 1)]])
    return partners, places


def _strip(points: Floats, one: Ints, other: Ints) -> Ints:
    """Triangles between two closed lines that run the same way, on the left of `one`: always the shorter diagonal."""
    a = points[one]
    first = int(np.argmin(np.linalg.norm(points[other] - a[0], axis=1)))
    other = np.roll(other, -first)
    return _between(np.ascontiguousarray(a), points[other], one, other)


@compiled
def _between(a: Any, b: Any, one: Any, other: Any) -> Any:
    n, m = len(a), len(b)
    found = np.empty((n + m, 3), dtype=np.int64)
    i = j = 0
    for at in range(n + m):
        next_a, next_b = a[(i + 1) % n], b[(j + 1) % m]
        by_a = by_b = 0.0
        for k in range(3):
            by_a += (next_a[k] - b[j % m, k]) ** 2
            by_b += (next_b[k] - a[i % n, k]) ** 2
        if j == m or (i < n and by_a <= by_b):
            found[at, 0], found[at, 1], found[at, 2] = one[i % n], one[(i + 1) % n], other[j % m]
            i += 1
        else:
            found[at, 0], found[at, 1], found[at, 2] = one[i % n], other[(j + 1) % m], other[j % m]
            j += 1
    return found
