"""Patch over: the last few triangles that cross come out of each other by hairs, or are cut out, and the holes closed
as any others are.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.close_holes import close_holes, open_loops
from noble_clay.core.mend.known_crossings import crossings_since, known_crossings
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.small_changes import small_changes
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.window import Window, box_of, tangles, with_rings
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mass import volume
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology

MOST_SHARE, FEW = 0.05, 60
"""Of the triangles, that may cross, or be cut out for one tangle; and so many may be of a mesh of few."""

MOST_LOST = 1e-3
"""Of the volume of the box around the whole: what a patch may take or add at most."""

RINGS = 4
"""How many rings of neighbours are cut out with them at most, and one more."""

MOST_AROUND = 10_000
"""Triangles near what is cut out, where more than one ring is: among more, larger holes are hardly ever patched."""

MOST_TANGLES = 60
"""So many are looked at, one after the other, those of few triangles first."""

MOST_SMALL = 8
"""Pairs in one place that may come apart by small changes: more are no hair's work."""

MOST_TRIES = 300
"""Twos of small changes, where no single one helps and no more pairs than those are left in all."""


def patch_over(mesh: Mesh, resisted: set[int] | None = None) -> tuple[Mesh, Done]:
    """Each tangle by itself: with changes too small to be seen, or with the smallest hole whose patch is closed and
    leaves fewer pairs that cross; else as it was.

    resisted: tangles, with all that is around them, that were tried in vain; those are passed over, and new ones added.
    """
    resisted = set() if resisted is None else resisted
    pairs = known_crossings(mesh)
    before = len(pairs)
    if before == 0 or len(distinct(pairs)) > _most(mesh):
        return mesh, Done("patch_over", 0)
    now, cut_out = mesh, 0
    for box in tangles(mesh, pairs)[:MOST_TANGLES]:
        now, number = _patched_in(now, box, resisted)
        cut_out += number
    left = len(known_crossings(now))
    if 0 < left <= MOST_SMALL:
        for box in tangles(now, known_crossings(now)):
            now = _changed_twice_in(now, box)
        left = len(known_crossings(now))
    if left >= before:
        return mesh, Done("patch_over", 0)
    return now.compact(), Done("patch_over", before - left, {"left": left, "cut_out": cut_out})


def taken_apart(mesh: Mesh, where: Ints) -> tuple[Mesh, Done]:
    """Some triangles (k,) out of whatever they cross, by changes too small to be seen; all as it was where a pair there
    would be left.
    """
    some = np.zeros(len(mesh.triangles), dtype=bool)
    some[where] = True
    crossed = _crossed(mesh, box_of(mesh, some))
    window = Window.about(mesh, crossed | some, 1)
    before, found = crossing_pairs(window.mesh), _with_small_changes(window)
    left = crossings_since(window.mesh, before, found)
    if len(before) == 0 or len(left):
        return mesh, Done("patch_over", 0)
    return window.put_back(found).compact(), Done("patch_over", len(before), {"left": 0, "cut_out": 0})


def _most(mesh: Mesh) -> float:
    return max(FEW, MOST_SHARE * len(mesh.triangles))


def _patched_in(mesh: Mesh, box: Floats, resisted: set[int]) -> tuple[Mesh, int]:
    """The mesh with what crosses in a box patched as far as that goes, and how many triangles were cut out."""
    before, cut_out, crossed = mesh, 0, _crossed(mesh, box)
    if not crossed.any():
        return mesh, 0
    whole = Window.about(mesh, crossed, RINGS + 1).mesh
    tangle = hash((box.tobytes(), whole.vertices.tobytes(), whole.triangles.tobytes()))
    if tangle in resisted:
        return mesh, 0
    for rings in range(-1, RINGS):
        if not crossed.any():
            break
        window = Window.about(mesh, crossed, rings + 2)
        if rings > 0 and len(window.mesh.triangles) > MOST_AROUND:
            break
        found, number = (_with_small_changes(window), 0) if rings < 0 else _with_patches(window, rings)
        if found is not window.mesh:
            mesh, cut_out = window.put_back(found), cut_out + number
            crossed = _crossed(mesh, box)
    if mesh is before:
        resisted.add(tangle)
    return mesh, cut_out


def _changed_twice_in(mesh: Mesh, box: Floats) -> Mesh:
    crossed = _crossed(mesh, box)
    if not crossed.any():
        return mesh
    window = Window.about(mesh, crossed, 1)
    return window.put_back(_with_two_changes(window))


def _crossed(mesh: Mesh, box: Floats) -> NDArray[np.bool_]:
    """(m,) triangles that cross and reach into a box."""
    window = Window.on(mesh, box)
    found = np.zeros(len(mesh.triangles), dtype=bool)
    found[np.flatnonzero(window.inside)[crossing_pairs(window.mesh)]] = True
    return found


def _with_small_changes(window: Window) -> Mesh:
    """The window's mesh with those changes that leave fewer pairs, as long as there are any."""
    mesh, pairs = window.mesh, crossing_pairs(window.mesh)
    while 0 < len(pairs) <= MOST_SMALL:
        for found in _changed(window, mesh, pairs):
            left = crossings_since(mesh, pairs, found)
            if len(left) < len(pairs):
                mesh, pairs = found, left
                break
        else:
            break
    return mesh


def _changed(window: Window, mesh: Mesh, pairs: Ints) -> Iterator[Mesh]:
    for pair in pairs:
        yield from filter(window.takes, small_changes(mesh, pair))


def _with_two_changes(window: Window) -> Mesh:
    """The same with the first two changes, one after the other, of which the first alone does not help."""
    pairs = crossing_pairs(window.mesh)
    tries = islice(
        (
            (again, crossings_since(found, left, again))
            for found in _changed(window, window.mesh, pairs)
            for left in [crossings_since(window.mesh, pairs, found)]
            if len(left) <= len(pairs) + 1
            for again in _changed(window, found, left)
        ),
        MOST_TRIES,
    )
    return next((again for again, left in tries if len(left) < len(pairs)), window.mesh)


def _with_patches(window: Window, rings: int) -> tuple[Mesh, int]:
    """The window's mesh with what crosses, and so many rings around it, cut out and patched, and how much that was."""
    mesh, pairs = window.mesh, crossing_pairs(window.mesh)
    gone = np.zeros(len(mesh.triangles), dtype=bool)
    gone[pairs] = True
    gone = with_rings(mesh, gone, rings)
    if gone.sum() > _most(window.whole):
        return mesh, 0
    cut = Mesh(mesh.vertices, mesh.triangles[~gone])
    rim = Topology(cut).open_half_edges
    at_cut = np.zeros(len(mesh.vertices), dtype=bool)
    at_cut[mesh.triangles[gone]] = True
    loops = open_loops(rim[~window.held[rim].all(axis=1)])
    found = close_holes(cut, [loop for loop in loops if at_cut[loop].any()])[0]
    free = np.ones(len(found.vertices), dtype=bool)
    free[: len(window.held)] = ~window.held
    found = separate(found, np.flatnonzero(free))[0]
    most = MOST_LOST * float(np.prod(np.ptp(window.whole.vertices, axis=0)))
    better = window.takes(found) and abs(volume(found) - volume(mesh)) <= most
    better = better and len(crossings_since(mesh, pairs, found)) < len(pairs)
    return (found, int(gone.sum())) if better else (mesh, 0)
