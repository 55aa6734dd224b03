"""Faces that are almost level with each other: the step between them is a strip of slivers, too low to print."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.needs.need import InspectionContext, Need, Remedy, heights, move

STEP_MM, LEAST_LONG_MM = 0.01, 0.5
"""Triangles lower and longer are slivers: no layer shows such a step (common practice: 0.05 mm and more)."""

CREASE = 0.8
"""Cosine: a sliver's faces on both sides turn away from it more than this."""

LEVEL = 0.99
MOST_STEPS = 40


def almost_flush(context: InspectionContext) -> Iterator[Need]:
    """Strips of slivers between faces that look the same way, those of the same parts together; the longest first, at
    most `MOST_STEPS`.
    """
    mesh, result = context.result.mesh, context.result
    low, longest = heights(mesh)
    sliver = (low < STEP_MM) & (longest > LEAST_LONG_MM)
    if not sliver.any():
        return
    facing = context.facing
    found: dict[tuple[int, ...], list[tuple[Ints, Ints]]] = {}
    for strip in _strips(context, sliver, longest):
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
            remedies=tuple(_level(context, mesh, faces, beside, level)),
        )


def _strips(context: InspectionContext, sliver: NDArray[np.bool_], longest: Floats) -> Iterator[tuple[Ints, Ints]]:
    """Slivers that hang together, with the faces along both of their long sides; only where those are level."""
    mesh, facing = context.result.mesh, context.facing
    halves, _ = context.topology.pairs
    faces = halves // 3
    some = sliver[faces].any(axis=1)
    faces, halves = faces[some], halves[some]
    within = sliver[faces].all(axis=1)
    own = np.flatnonzero(sliver)
    place = np.full(len(mesh.triangles), -1)
    place[own] = np.arange(len(own))
    number, label = connected_components(len(own), np.ascontiguousarray(place[faces[within]]))
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


def _level(context: InspectionContext, mesh: Mesh, faces: Ints, beside: Ints, normal: Floats) -> Iterator[Remedy]:
    """Moving the part on one side of the step, so that both are level."""
    normal = normal / np.linalg.norm(normal)
    part_of, ids = context.result.part_of, context.result.part_ids
    names = [ids[p] for p in part_of[beside]]
    tops = (mesh.corners[beside] @ normal).mean(axis=1)
    for name in sorted(set(names), key=context.bulk):
        mine = np.array([n == name for n in names])
        if mine.all() or not context.movable(name):
            continue
        by = float(tops[~mine].mean() - tops[mine].mean())
        yield Remedy("make_flush", name, abs(by), move(normal * by, name))
        return
