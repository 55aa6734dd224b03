"""Faces that are almost level with each other: the step between them is a strip of slivers, too low to print."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.gather import groups
from noble_clay.core.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.needs.need import Looked, Need, Remedy, heights, move

STEP_MM, LEAST_LONG_MM = 0.01, 0.5
"""Triangles lower and longer are slivers: no layer shows such a step (common practice: 0.05 mm and more)."""

CREASE = 0.8
"""Cosine: a sliver's faces on both sides turn away from it more than this."""

LEVEL = 0.99
MOST_STEPS = 40


def almost_flush(looked: Looked) -> Iterator[Need]:
    """Strips of slivers between faces that look the same way, those of the same parts together; the longest first, at
    most `MOST_STEPS`.
    """
    mesh, result = looked.result.mesh, looked.result
    low, longest = heights(mesh)
    sliver = (low < STEP_MM) & (longest > LEAST_LONG_MM)
    if not sliver.any():
        return
    facing = looked.facing
    found: dict[tuple[int, ...], list[tuple[Ints, Ints]]] = {}
    for strip in _strips(looked, sliver, longest):
        found.setdefault(tuple(np.unique(result.part_of[np.concatenate(strip)])), []).append(strip)
    steps = [
        (which, np.concatenate([s for s, _ in strips]), np.concatenate([b for _, b in strips]))
        for which, strips in found.items()
    ]
    for which, faces, beside in sorted(steps, key=lambda s: -float(longest[s[1]].sum()))[:MOST_STEPS]:
        parts = tuple(result.part_ids[p] for p in which)
        corners = mesh.corners[faces]
        points = corners.reshape(-1, 3)
        level = facing[beside].mean(axis=0)
        step = float(low[faces].max())
        yield Need(
            "almost_flush",
            parts,
            (points.min(axis=0) + points.max(axis=0)) / 2,
            diagonal(points),
            {"step_mm": step, "count": len(faces)},
            faces=corners,
            remedies=tuple(_level(looked, mesh, faces, beside, level)),
        )


def _strips(looked: Looked, sliver: NDArray[np.bool_], longest: Floats) -> Iterator[tuple[Ints, Ints]]:
    """Slivers that hang together, with the faces along both of their long sides; only where those are level."""
    mesh, facing = looked.result.mesh, looked.facing
    halves, _ = looked.topology.pairs
    faces = halves // 3
    some = sliver[faces].any(axis=1)
    faces, halves = faces[some], halves[some]
    within = sliver[faces].all(axis=1)
    own = np.flatnonzero(sliver)
    place = np.full(len(mesh.triangles), -1)
    place[own] = np.arange(len(own))
    number, label = groups(len(own), np.ascontiguousarray(place[faces[within]]))
    ends = mesh.vertices[mesh.triangles[halves[:, 0] // 3, halves[:, 0] % 3]]
    others = mesh.vertices[mesh.triangles[halves[:, 0] // 3, (halves[:, 0] + 1) % 3]]
    length = np.linalg.norm(ends - others, axis=1)
    out = ~within
    inner = np.where(sliver[faces[:, 0]], faces[:, 0], faces[:, 1])
    outer = np.where(sliver[faces[:, 0]], faces[:, 1], faces[:, 0])
    out &= length > 0.5 * longest[inner]
    of = label[place[inner]]
    for strip in range(number):
        mine = out & (of == strip)
        if mine.sum() < 2:
            continue
        creased = np.einsum("ij,ij->i", facing[inner[mine]], facing[outer[mine]]) < CREASE
        around = facing[outer[mine]]
        if creased.all() and (around @ around[0] > LEVEL).all():
            yield own[label == strip], np.unique(outer[mine])


def _level(looked: Looked, mesh: Mesh, faces: Ints, beside: Ints, normal: Floats) -> Iterator[Remedy]:
    """Moving the part on one side of the step, so that both are level."""
    normal = normal / np.linalg.norm(normal)
    part_of, ids = looked.result.part_of, looked.result.part_ids
    names = [ids[p] for p in part_of[beside]]
    tops = (mesh.corners[beside] @ normal).mean(axis=1)
    for name in sorted(set(names), key=looked.bulk):
        mine = np.array([n == name for n in names])
        if mine.all() or not looked.movable(name):
            continue
        by = float(tops[~mine].mean() - tops[mine].mean())
        yield Remedy("make_flush", name, abs(by), move(name, normal * by))
        return
