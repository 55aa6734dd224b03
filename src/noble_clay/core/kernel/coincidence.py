"""Faces meant to meet do: where neighbours differ by less than the contact distance they are made to agree.

Binary fractions turn 0.1 + 0.2 into something other than 0.3, and the kernel, which is exact, sees a gap or a hair of
overlap there. Before solids are combined:

1. flat faces square to x, y or z whose coordinates lie within `CONTACT` of each other get the same coordinate;
2. vertices of different solids within `CONTACT` of each other become the same point;
3. slanted flat faces, whose vertices cannot lie exactly on one plane, are moved `HAIR` past the plane they touch (in
   a union into the neighbour, in a cut out of the body), so that the kernel has no tie to break.
"""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.close_points import DIRECTION, close_pairs, near_pairs
from noble_clay.core.mesh.gather import equal_corners
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import CONTACT, HAIR, ROUNDING, SHARE

KEY_DIRECTION = np.array([*DIRECTION, 1.0]) / math.sqrt(2)
"""Along which planes, each its normal and offset, are sorted."""


def snap_coincident(solids: list[Solid], ops: list[str] | None = None) -> list[Solid]:
    """The same solids, some warped by less than 2 · `CONTACT` so that those in contact share faces or overlap.

    ops: how each enters; all united when left out. The first counts as the body.
    """
    if sum(not s.empty for s in solids) < 2:
        return solids
    vertices = [s.vertices for s in solids]
    planes = [s.planes for s in solids]
    moved = [v.copy() for v in vertices]
    _level(planes, moved)
    coincident = _weld(moved)
    _push(planes, ops or ["union"] * len(solids), moved)
    return [
        replace(s, has_coincident_faces=s.has_coincident_faces or coincident)
        if np.array_equal(new, old)
        else s.warped(old, new)
        for s, old, new in zip(solids, vertices, moved, strict=True)
    ]


def _level(planes: list[Planes], moved: list[Floats]) -> None:
    """Step 1: equal coordinates for faces square to an axis."""
    owners = np.repeat(np.arange(len(planes)), [len(p.reaches) for p in planes])
    every = Planes.together(planes)
    for axis in range(3):
        square = np.abs(every.normals[:, axis]) > 1 - SHARE
        values, owner, exact = every.points[square, axis], owners[square], every.exact[square]
        order = np.argsort(values, kind="stable")
        values, owner, exact = values[order], owner[order], exact[order]
        starts = [*_group_starts(values), len(values)]
        for start, end in pairwise(starts):
            group, who = values[start:end], owner[start:end]
            if who.min() == who.max() or (group[0] == group[-1] and exact[start:end].all()):
                continue
            target = group[np.argmin(who)]
            for value, solid in zip(group, who, strict=True):
                here = moved[solid][:, axis]
                here[np.abs(here - value) < ROUNDING] = target


def _group_starts(values: Floats) -> list[int]:
    """Where, in sorted values, each run begins whose members lie within `CONTACT` of its first."""
    if len(values) == 0:
        return []
    starts = [0]
    # A gap of at least CONTACT always begins a run; only long chains of smaller gaps need the walk.
    wide = np.flatnonzero(np.diff(values) >= CONTACT) + 1
    for block_start, block_end in pairwise([0, *wide, len(values)]):
        if block_start:
            starts.append(int(block_start))
        at = block_start
        while values[block_end - 1] - values[at] >= CONTACT:
            at += int(np.searchsorted(values[at:block_end] - values[at], CONTACT))
            starts.append(int(at))
    return starts


def _weld(moved: list[Floats]) -> bool:
    """Step 2: one point for vertices of different solids that nearly coincide.

    Returns whether two of them share three points or more, so that faces may coincide.
    """
    every = np.concatenate(moved)
    owner = np.repeat(np.arange(len(moved)), [len(m) for m in moved])
    pairs = close_pairs(every, owner, CONTACT)
    coincident = bool(len(pairs)) and np.unique(owner[pairs], axis=0, return_counts=True)[1].max() >= 3
    pairs = pairs[np.any(every[pairs[:, 0]] != every[pairs[:, 1]], axis=1)]
    # Points of earlier solids come first, so later ones are drawn to where the earlier stand.
    for first, second in pairs:
        every[second] = every[first]
    for i, part in enumerate(np.split(every, np.cumsum([len(m) for m in moved])[:-1])):
        moved[i] = part
    return bool(coincident)


def _push(planes: list[Planes], ops: list[str], moved: list[Floats]) -> None:
    """Step 3: slanted faces in contact past each other by a hair."""
    slanted = [_slanted(p) for p in planes]
    owners = np.repeat(np.arange(len(slanted)), [len(p.reaches) for p in slanted])
    every = Planes.together(slanted)
    if len(every.reaches) < 2 or owners[0] == owners[-1]:
        return
    # A plane and its reverse have the same sign-free key, so one tree finds flush and facing pairs alike.
    lead = every.normals[np.arange(len(every.normals)), np.argmax(np.abs(every.normals) > 1e-6, axis=1)]
    sign = np.where(lead < 0, -1.0, 1.0)
    keys = np.column_stack([every.normals * sign[:, None], every.offsets * sign])
    pairs = near_pairs(keys, keys @ KEY_DIRECTION, CONTACT)
    done: set[int] = set()
    for a, b in sorted(pairs.tolist()):
        first, second = (a, b) if owners[a] < owners[b] else (b, a)
        apart = np.linalg.norm(every.middles[a] - every.middles[b]) > every.reaches[a] + every.reaches[b] + CONTACT
        if owners[a] == owners[b] or apart or second in done:
            continue
        facing = float(every.normals[a] @ every.normals[b]) < 0
        way = _way_past(ops[owners[second]], facing)
        points = moved[owners[second]]
        on_face = _on_face(points, every, second)
        if way == 0 or not np.any(on_face) or _shares_all(points[on_face], moved[owners[first]]):
            continue
        normal = every.normals[second]
        gap = _gap(every, first, second)
        points[on_face] += normal * (gap + way * HAIR)
        done.add(second)


def _way_past(op: str, facing: bool) -> int:
    """Along its own normal, out (1) or back (-1), or leave it (0): where a face of a later part goes."""
    if facing:
        return 1 if op == "union" else -1
    return 0 if op == "union" else 1


def _gap(planes: Planes, first: int, second: int) -> float:
    """How far `second`'s plane is from `first`'s, along `second`'s normal, mm."""
    return float(planes.normals[second] @ (planes.points[first] - planes.points[second]))


def _on_face(points: Floats, planes: Planes, index: int) -> NDArray[np.bool_]:
    off = np.abs((points - planes.points[index]) @ planes.normals[index])
    inside = np.linalg.norm(points - planes.middles[index], axis=1) <= planes.reaches[index] + CONTACT
    found: NDArray[np.bool_] = (off < 2 * CONTACT) & inside
    return found


def _shares_all(points: Floats, others: Floats) -> bool:
    """Whether every point is also a vertex of the other solid: then the faces agree already."""
    index, _ = equal_corners(np.concatenate([others, points]))
    return bool(np.isin(index[len(others) :], index[: len(others)]).all())


def _slanted(planes: Planes) -> Planes:
    keep = np.abs(planes.normals).max(axis=1, initial=0.0) <= 1 - SHARE
    return Planes(
        planes.normals[keep], planes.points[keep], planes.middles[keep], planes.reaches[keep], planes.exact[keep]
    )
