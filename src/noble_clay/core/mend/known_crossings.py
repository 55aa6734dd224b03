"""The triangles of a mesh that cross, as each mending step asks for them: looked for once, and after a step only among
what it changed.
"""

from __future__ import annotations

from weakref import WeakKeyDictionary, ref

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

MOST_FRESH = 0.5
"""Of a mesh's triangles, that may be others than those looked at last for only those to be looked for."""

_known: WeakKeyDictionary[Mesh, Ints] = WeakKeyDictionary()
_last: list[ref[Mesh]] = []
"""The mesh that was looked at last."""


def known_crossings(mesh: Mesh) -> Ints:
    """As `crossing_pairs` of the mesh, which does not change while it is."""
    found = _known.get(mesh)
    if found is None:
        before = _last[0]() if _last else None
        found = None if before is None else _since(mesh, before)
        found = _known[mesh] = crossing_pairs(mesh) if found is None else found
    _last[:] = [ref(mesh)]
    return found


def _since(mesh: Mesh, before: Mesh) -> Ints | None:
    """The same by what is known of another mesh, of which it has most triangles; None where it has not."""
    if len(before.triangles) == 0 or slack_of(mesh) != slack_of(before):
        return None
    now = _same(mesh, before)
    if (now >= 0).sum() < (1 - MOST_FRESH) * len(mesh.triangles):
        return None
    pairs = np.sort(_left_and_new(mesh, _known[before], now), axis=1)
    return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]


def crossings_since(before: Mesh, pairs: Ints, after: Mesh) -> Ints:
    """(k, 2) the triangles of a mesh that cross, by those, pairs (j, 2), of another over the same points; new ones may
    have come after those, and some may have moved.
    """
    number = len(after.vertices)
    moved = np.ones(number, dtype=bool)
    moved[: len(before.vertices)] = np.any(after.vertices[: len(before.vertices)] != before.vertices, axis=1)
    was = np.arange(len(after.triangles))
    if after.triangles is not before.triangles:
        code = np.array([number**2, number, 1])
        old, new = before.triangles @ code, after.triangles @ code
        order = np.argsort(old)
        was = order[np.minimum(np.searchsorted(old[order], new), len(old) - 1)]
        was = np.where(old[was] == new, was, -1)
    same = ~moved[after.triangles].any(axis=1) & (was >= 0)
    now = np.full(len(before.triangles), -1, dtype=np.int64)
    now[was[same]] = np.flatnonzero(same)
    return _left_and_new(after, pairs, now)


def _left_and_new(mesh: Mesh, pairs: Ints, now: Ints) -> Ints:
    """(k, 2) what crosses: of the pairs (j, 2) known of a mesh before, those of triangles that are there still, by
    where they are now (its m,), -1 for those that are not; and what crosses with all others.
    """
    fresh = np.ones(len(mesh.triangles), dtype=bool)
    fresh[now[now >= 0]] = False
    left = now[pairs]
    return np.concatenate([left[(left >= 0).all(axis=1)], crossing_pairs(mesh, fresh=fresh)])


def _same(mesh: Mesh, before: Mesh) -> Ints:
    """(before's m,) the triangle of the mesh on the same places, whatever way it is turned; -1 where there is none, or
    several, or where its points hang together with others than they did.
    """
    spots = [_mixed(m.vertices) for m in (before, mesh)]
    old, new = (spot[m.triangles] for spot, m in zip(spots, (before, mesh), strict=True))
    _, code = np.unique(np.concatenate([old.sum(axis=1), new.sum(axis=1)]), return_inverse=True)
    old_code, new_code = np.split(code.reshape(-1), [len(old)])
    once = (np.bincount(old_code, minlength=len(code)) == 1) & (np.bincount(new_code, minlength=len(code)) == 1)
    at = np.full(len(code), -1, dtype=np.int64)
    at[new_code] = np.arange(len(new))
    found: Ints = np.where(once[old_code], at[old_code], -1)
    ours = np.flatnonzero(found >= 0)
    turn = np.argmax(old[ours][:, :, None] == new[found[ours]][:, None, :], axis=2)
    one, other = before.triangles[ours], np.take_along_axis(mesh.triangles[found[ours]], turn, axis=1)
    kept = (before.vertices[one] == mesh.vertices[other]).all(axis=(1, 2))
    one, other = one[kept], other[kept]
    found[ours[~kept]] = -1
    ties = distinct(one.reshape(-1) * len(mesh.vertices) + other.reshape(-1))
    parted = np.bincount(ties // len(mesh.vertices), minlength=len(before.vertices)) > 1
    joined = np.bincount(ties % len(mesh.vertices), minlength=len(mesh.vertices)) > 1
    found[ours[kept][(parted[one] | joined[other]).any(axis=1)]] = -1
    return found


MIXED = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], dtype=np.uint64)


def _mixed(points: Floats) -> NDArray[np.uint64]:
    """(n,) a number for each of points (n, 3), which two have only where they are on one spot, or by chance."""
    bits = (np.ascontiguousarray(points) + 0.0).view(np.uint64)  # -0 is 0
    found: NDArray[np.uint64] = (bits * MIXED).sum(axis=1)
    found ^= found >> np.uint64(29)
    found *= MIXED[1]
    return found
