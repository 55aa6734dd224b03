"""Solids damaged on purpose, each in one way; for the reference tests and for `bench/mend.py`."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.primitives.registry import PRIMITIVES

Rng = np.random.Generator
Damage = Callable[[Mesh, Rng], Mesh]


def primitive(kind: str, at: tuple[float, float, float] = (0, 0, 0), **fields: object) -> Mesh:
    mesh = PRIMITIVES[kind].model_validate({"kind": kind, **fields}).mesh()
    return Mesh(mesh.vertices + at, mesh.triangles)


def together(*meshes: Mesh) -> Mesh:
    starts = np.cumsum([0, *(len(m.vertices) for m in meshes[:-1])])
    return Mesh(
        np.concatenate([m.vertices for m in meshes]),
        np.concatenate([m.triangles + s for m, s in zip(meshes, starts, strict=True)]),
    )


def without(mesh: Mesh, gone: np.ndarray) -> Mesh:
    keep = np.ones(len(mesh.triangles), dtype=bool)
    keep[gone] = False
    return mesh.keep(keep)


def size_of(mesh: Mesh) -> float:
    return float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))


def loose(mesh: Mesh, rng: Rng) -> Mesh:
    """Every triangle with corners of its own."""
    return Mesh(mesh.corners.reshape(-1, 3), np.arange(3 * len(mesh.triangles)).reshape(-1, 3))


def jittered(mesh: Mesh, rng: Rng) -> Mesh:
    apart = loose(mesh, rng)
    return Mesh(apart.vertices + rng.uniform(-1e-6, 1e-6, apart.vertices.shape) * size_of(mesh), apart.triangles)


def flipped(mesh: Mesh, rng: Rng) -> Mesh:
    turned = rng.random(len(mesh.triangles)) < 0.3
    return Mesh(mesh.vertices, np.where(turned[:, None], mesh.triangles[:, ::-1], mesh.triangles))


def inside_out(mesh: Mesh, rng: Rng) -> Mesh:
    return Mesh(mesh.vertices, mesh.triangles[:, ::-1])


def holed(mesh: Mesh, rng: Rng) -> Mesh:
    return without(mesh, rng.choice(len(mesh.triangles), 3, replace=False))


def torn(mesh: Mesh, rng: Rng) -> Mesh:
    """A hole of several triangles: all around one vertex and its neighbours."""
    middles = mesh.corners.mean(axis=1)
    away = np.linalg.norm(middles - middles[rng.integers(len(middles))], axis=1)
    return without(mesh, away < 0.04 * size_of(mesh))


def doubled(mesh: Mesh, rng: Rng) -> Mesh:
    again = mesh.triangles[rng.choice(len(mesh.triangles), 20)]
    return Mesh(mesh.vertices, np.concatenate([mesh.triangles, again[:10], again[10:, ::-1]]))


def crumbed(mesh: Mesh, rng: Rng) -> Mesh:
    size = size_of(mesh)
    crumbs = []
    for _ in range(4):
        crumb = primitive("box", size=[1, 1, 1])
        at = mesh.vertices.max(axis=0) + rng.uniform(0.05, 0.3, 3) * size
        crumbs.append(Mesh(crumb.vertices * 0.004 * size + at, crumb.triangles))
    return together(mesh, *crumbs)


def cracked(mesh: Mesh, rng: Rng) -> Mesh:
    """Cut along a plane, and one half a hair off the other."""
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    upper = mesh.corners[:, :, 2].mean(axis=1) > low[2] + 0.55 * (high - low)[2]
    one, other = mesh.keep(upper), mesh.keep(~upper)
    return together(Mesh(one.vertices + 2e-5 * size_of(mesh), one.triangles), other)


def stepped(mesh: Mesh, rng: Rng) -> Mesh:
    """T-junctions: some triangles halved while their neighbours are not."""
    some = rng.choice(len(mesh.triangles), 12, replace=False)
    a, b, c = mesh.triangles[some].T
    middle = (mesh.vertices[a] + mesh.vertices[b]) / 2
    new = len(mesh.vertices) + np.arange(len(some))
    halves = np.concatenate([np.column_stack([a, new, c]), np.column_stack([new, b, c])])
    rest = np.delete(mesh.triangles, some, axis=0)
    return Mesh(np.concatenate([mesh.vertices, middle]), np.concatenate([rest, halves]))


def kinked(mesh: Mesh, rng: Rng) -> Mesh:
    """A few points pulled through the surface beside them, so that triangles fold over each other."""
    points = mesh.vertices.copy()
    for face in rng.choice(len(mesh.triangles), 4, replace=False):
        a, b, c = mesh.triangles[face]
        points[a] = points[a] + 1.15 * ((points[b] + points[c]) / 2 - points[a])
    return Mesh(points, mesh.triangles)


DAMAGES: dict[str, list[Damage]] = {
    "loose": [loose],
    "jittered": [jittered],
    "flipped": [flipped],
    "inside out": [inside_out],
    "holed": [holed],
    "torn": [torn],
    "doubled": [doubled],
    "crumbed": [crumbed],
    "cracked": [cracked],
    "stepped": [stepped],
    "holed, flipped and loose": [holed, flipped, jittered],
    "all": [holed, stepped, flipped, doubled, crumbed, jittered],
}


def damaged(mesh: Mesh, steps: list[Damage], seed: int = 11) -> Mesh:
    rng = np.random.default_rng(seed)
    for step in steps:
        mesh = step(mesh, rng)
    return mesh
