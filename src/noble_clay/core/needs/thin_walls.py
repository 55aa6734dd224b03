"""Walls of nothing: what is left between two cutters that nearly meet, or under one that nearly comes through."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.measure.walls import Samples, spread, thickness
from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.topology import Topology
from noble_clay.core.needs.grow import grown
from noble_clay.core.needs.need import InspectionContext, Need, Remedy, move
from noble_clay.core.piece.tree import find

NOTHING_MM = 0.2
"""A wall thinner is no wall: half the line of a common nozzle (common practice)."""

WALL_MM = 0.8
"""A wall of two lines, which prints (common practice)."""

OVER_MM = 0.2
"""How far a cutter that is to come through goes beyond."""

APART_MM, MOST_SAMPLES = 0.4, 250_000
MOST_WALLS, MOST_DRAWN = 40, 500
LEAST_MM2 = 0.05
PARALLEL = 0.995
"""Faces that meet in an edge are a wall only where most of it is so parallel; else it is a thin edge."""


def thin_walls(context: InspectionContext) -> Iterator[Need]:
    """Places where the joined body is thinner than `NOTHING_MM`, the largest first, at most `MOST_WALLS`.

    An edge that tapers to nothing, as on a blade, is none; nor is a crumb, which is told as one.
    """
    mesh, result = context.result.mesh, context.result
    samples = spread(mesh, APART_MM, MOST_SAMPLES)
    deep, far_side = thickness(mesh, samples, NOTHING_MM)
    thin = np.flatnonzero(np.isfinite(deep) & ~context.of_crumbs[samples.triangle])
    if len(thin) == 0:
        return
    here, there = result.part_of[samples.triangle[thin]], result.part_of[far_side[thin]]
    places = _places(mesh, samples, thin, here, there)
    facing, beside = context.facing, _beside(context.topology)
    found = []
    for place in places:
        at = thin[place]
        near, far = samples.triangle[at], far_side[at]
        area = float(samples.area[at].sum()) / 2  # both sides were found
        parallel = -np.einsum("ij,ij->i", facing[near], facing[far])
        edge = beside(near, far).any() and np.mean(parallel > PARALLEL) < 0.5
        if area < LEAST_MM2 or edge:
            continue
        least = at[np.argmin(deep[at])]
        found.append((area, at, least))
    for area, at, least in sorted(found, key=lambda f: -f[0])[:MOST_WALLS]:
        yield _need(context, samples, at, int(least), area, deep, far_side)


def _places(mesh: Mesh, samples: Samples, thin: Ints, here: Ints, there: Ints) -> list[Ints]:
    """Thin samples in groups of the same two parts that lie near each other, or on triangles that share a corner;
    indices into `thin`.
    """
    from scipy.spatial import cKDTree

    low, high = np.minimum(here, there), np.maximum(here, there)
    _, pair = np.unique(np.column_stack([low, high]), axis=0, return_inverse=True)
    pair = pair.reshape(-1)
    reach = 3 * max(APART_MM, float(np.sqrt(samples.area[thin].max())))
    near = cKDTree(samples.points[thin]).query_pairs(reach, output_type="ndarray").astype(np.int64)
    near = near[pair[near[:, 0]] == pair[near[:, 1]]]
    # A corner, once for every pair of parts, ties the samples around it.
    corners = mesh.triangles[samples.triangle[thin]] + len(mesh.vertices) * pair[:, None]
    _, corner = np.unique(corners, return_inverse=True)
    tied = np.column_stack([np.repeat(np.arange(len(thin)), 3), len(thin) + corner.reshape(-1)])
    _, label = connected_components(
        len(thin) + int(corner.max()) + 1, np.ascontiguousarray(np.concatenate([near, tied]))
    )
    label = label[: len(thin)]
    order = np.argsort(label, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)


def _beside(topology: Topology) -> Callable[[Ints, Ints], NDArray[np.bool_]]:
    """A function that tells, for triangles (n,) and (n,), which pairs share an edge."""
    halves, _ = topology.pairs
    number = np.int64(len(topology.mesh.triangles))
    known = np.sort(np.sort(halves // 3, axis=1) @ np.array([number, 1]))

    def told(a: Ints, b: Ints) -> NDArray[np.bool_]:
        asked = np.minimum(a, b) * number + np.maximum(a, b)
        at = np.minimum(np.searchsorted(known, asked), max(0, len(known) - 1))
        found: NDArray[np.bool_] = known[at] == asked
        return found

    return told


def _need(
    context: InspectionContext,
    samples: Samples,
    at: Ints,
    least: int,
    area: float,
    deep: Floats,
    far_side: Ints,
) -> Need:
    names, facing = context.result.part_ids, context.facing
    sides = [(samples.triangle[least], 1.0), (far_side[least], -1.0)]
    thick = float(deep[least])
    inward = -facing[sides[0][0]]
    middle = samples.points[least] + inward * thick / 2
    parts = tuple(dict.fromkeys(names[context.result.part_of[face]] for face, _ in sides))
    ways = {names[context.result.part_of[face]]: inward * sign for face, sign in sides}
    return Need(
        "thin_wall",
        parts,
        middle,
        diagonal(samples.points[at]),
        {"thickness_mm": thick, "area_mm2": area},
        faces=_patches(samples, at, facing),
        remedies=tuple(_remedies(context, parts, ways, middle, thick)),
    )


def _remedies(
    context: InspectionContext, parts: tuple[str, ...], ways: dict[str, Floats], at: Floats, thick: float
) -> Iterator[Remedy]:
    """ways: for each part, (3,) unit, from its side of the wall to the other."""
    cutters = {part: ways[part] for part in parts if context.cuts(part)}
    if not cutters:
        yield from _thicker(context, parts, ways, at, thick)
        return
    # One cutter on both sides: its copies nearly meet, and each grows.
    both = len(cutters) == 1 and len(parts) == 1
    if both and not context.copied(parts[0]):
        return
    cutter, way = min(cutters.items(), key=lambda c: context.bulk(c[0]))
    through = thick + OVER_MM
    if edit := grown(context, cutter, at, way, through / 2 if both else through, both):
        yield Remedy("widen", cutter, through, edit)
    if both and (edit := grown(context, cutter, at, way, (thick - WALL_MM) / 2, both)):
        yield Remedy("narrow", cutter, WALL_MM - thick, edit)
    if context.movable(cutter) and not both:
        yield Remedy("move", cutter, through, move(way * through, cutter))
        yield Remedy("move_back", cutter, WALL_MM - thick, move(way * (thick - WALL_MM), cutter))


def _thicker(
    context: InspectionContext, parts: tuple[str, ...], ways: dict[str, Floats], at: Floats, thick: float
) -> Iterator[Remedy]:
    """A primitive that is as thin as that itself, and not hollowed so, is made thicker."""
    part = find(context.piece, parts[0]).part
    if len(parts) > 1 or part.primitive is None or part.changed:
        return
    if edit := grown(context, part.id, at, ways[part.id], (WALL_MM - thick) / 2, both=True):
        yield Remedy("thicken", part.id, WALL_MM - thick, edit)


def _patches(samples: Samples, at: Ints, facing: Floats) -> Floats:
    """(j, 3, 3): around each sample a small square on the skin, as two triangles; of many, every so many."""
    at = at[:: -(-2 * len(at) // MOST_DRAWN)]
    normal = facing[samples.triangle[at]]
    some = np.where(np.abs(normal[:, :1]) < 0.7, [[1.0, 0, 0]], [[0.0, 1, 0]])
    u = np.cross(normal, some)
    u /= np.linalg.norm(u, axis=1, keepdims=True)
    side = 0.5 * np.sqrt(np.maximum(samples.area[at], 0.01))[:, None]
    u, v = u * side, np.cross(normal, u) * side
    point = samples.points[at]
    corners = [point - u - v, point + u - v, point + u + v, point - u + v]
    halves = [np.stack([corners[i] for i in which], axis=1) for which in ((0, 1, 2), (0, 2, 3))]
    found: Floats = np.concatenate(halves)
    return found
