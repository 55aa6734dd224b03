"""Faces meant to meet do: where neighbours differ by less than the contact distance they are made to agree.

Binary fractions turn 0.1 + 0.2 into something other than 0.3, and the kernel, which is exact, sees a gap or a hair of
overlap there. Before solids are combined:

1. flat faces square to x, y or z whose coordinates lie within `CONTACT` of each other get the same coordinate;
2. vertices of different solids within `CONTACT` of each other become the same point;
3. slanted faces, whose vertices cannot lie exactly on one plane, get the triangles of those that they touch, or go a
   hair past them (`touching`).
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np

from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.kernel.touching import settle_faces
from noble_clay.core.mesh.close_points import close_pairs
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import CONTACT, ROUNDING, SHARE


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
    sharing = _weld(moved)
    triangles = settle_faces(solids, ops or ["union"] * len(solids), moved, sharing)
    return [
        _settled(s, old, new, triangles.get(i), len(sharing) > 0)
        for i, (s, old, new) in enumerate(zip(solids, vertices, moved, strict=True))
    ]


def _settled(solid: Solid, old: Floats, new: Floats, triangles: Ints | None, meets: bool) -> Solid:
    """The solid with its vertices, now at `old` (n, 3), at `new`, and with other triangles where some are given."""
    if triangles is not None:
        _, part_of, names = solid.mesh_with_parts()
        made = Solid.from_parts(Mesh(new, triangles), part_of, names, planes=solid.planes)
        return replace(made, has_coincident_faces=True)
    if np.array_equal(new, old):
        return replace(solid, has_coincident_faces=solid.has_coincident_faces or meets)
    return solid.warped(old, new)


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


def _weld(moved: list[Floats]) -> Ints:
    """Step 2: one point for vertices of different solids that nearly coincide.

    Returns those (n, 2) that share three points or more, so that faces may coincide, the earlier first.
    """
    every = np.concatenate(moved)
    owner = np.repeat(np.arange(len(moved)), [len(m) for m in moved])
    pairs = close_pairs(every, owner, CONTACT)
    solids, shared = np.unique(np.sort(owner[pairs], axis=1), axis=0, return_counts=True)
    pairs = pairs[np.any(every[pairs[:, 0]] != every[pairs[:, 1]], axis=1)]
    # Points of earlier solids come first, so later ones are drawn to where the earlier stand.
    for first, second in pairs:
        every[second] = every[first]
    for i, part in enumerate(np.split(every, np.cumsum([len(m) for m in moved])[:-1])):
        moved[i] = part
    return solids[shared >= 3]


def were_moved(solids: list[Solid], snapped: list[Solid]) -> bool:
    """Whether any of some solids was moved to meet another."""
    return any(now.shape is not before.shape for before, now in zip(solids, snapped, strict=True))
