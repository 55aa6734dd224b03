"""Close holes: every rim gets a patch, flat where the rim is, running on with the surface where that is round."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.patch import flat_patch, loop_normal, smooth_patch, spanned_patch
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology

MOST_EDGES = 20_000
"""A longer loop is not a hole."""

FEWEST_SMOOTH = 6
"""Edges of the smallest rim that is worth a smooth patch."""

ROUND = 0.35, 0.9995
"""A patch runs on smoothly where the faces at its rim face its own way as much as the first number, and no more than
the second: between a wall around it and a plane that it lies in.
"""


def close_holes(mesh: Mesh, loops: list[Ints] | None = None, odd: bool = False) -> tuple[Mesh, Done]:
    """Patch the open loops given, by default all; those that no patch fits stay open.

    A patch is refused where it would run along an edge that the mesh has already. odd: rims also run along edges of
    three faces, as cutting leaves them where rounding went against it.
    """
    topology = Topology(mesh)
    rims = topology.open_half_edges
    wanted = open_loops(np.concatenate([rims, _odd(topology)]) if odd else rims) if loops is None else loops
    if not wanted:
        return mesh, Done("close_holes", 0)
    on_rim = np.zeros(len(mesh.vertices), dtype=bool)
    on_rim[topology.open_half_edges] = True
    existing = {(int(a), int(b)) for a, b in topology.edges[on_rim[topology.edges].all(axis=1)]}
    facing = _rim_normals(mesh, topology)
    points: list[Floats] = [mesh.vertices]
    patches: list[Ints] = []
    closed, left, smooth = 0, 0, 0
    number = len(mesh.vertices)
    for loop in wanted:
        patch, more = _patch(mesh, loop, existing, facing, number)
        if patch is None:
            left += 1
            continue
        closed += 1
        patches.append(patch)
        if len(more):
            points.append(more)
            number += len(more)
            smooth += 1
    triangles = np.concatenate([mesh.triangles, *patches])
    said = {"triangles_added": int(sum(len(p) for p in patches)), "smooth": smooth, "left_open": left}
    return Mesh(np.concatenate(points), triangles), Done("close_holes", closed, said)


def _odd(topology: Topology) -> Ints:
    """(k, 2) edges of three faces or more that run once more one way than the other, as they do."""
    halves = np.flatnonzero((topology.faces_per_edge > 2)[topology.edge_of_half])
    start = topology.mesh.triangles.reshape(-1)[halves]
    low, high = topology.edges[topology.edge_of_half[halves]].T
    more = np.bincount(
        topology.edge_of_half[halves], weights=np.where(start == low, 1, -1), minlength=len(topology.edges)
    )
    up, down = topology.edges[more == 1], topology.edges[more == -1]
    return np.concatenate([up, down[:, ::-1]])


def open_loops(half_edges: Ints) -> list[Ints]:
    """Closed loops of vertices, each in the direction that a patch must run; half_edges (k, 2) run with their faces.

    A vertex where several loops meet splits them; what does not close is left out.
    """
    onward: dict[int, list[int]] = {}
    for start, end in half_edges.tolist():
        onward.setdefault(end, []).append(start)
    loops = []
    while onward:
        first = next(iter(onward))
        path, place = [first], {first: 0}
        while path and path[-1] in onward:
            ends = onward[path[-1]]
            step = ends.pop()
            if not ends:
                del onward[path[-1]]
            if step in place:
                loop = path[place[step] :]
                loops.append(np.array(loop))
                for vertex in loop[1:]:
                    del place[vertex]
                path = path[: place[step] + 1]
            else:
                place[step] = len(path)
                path.append(step)
    return [loop for loop in loops if len(loop) >= 3]


def _rim_normals(mesh: Mesh, topology: Topology) -> dict[tuple[int, int], Floats]:
    """The normals (3,) of the faces at open edges, by the edge as a patch runs along it."""
    faces = normals(mesh)[topology.open_halves // 3]
    return {(int(b), int(a)): n for (a, b), n in zip(topology.open_half_edges, faces, strict=True)}


def _patch(
    mesh: Mesh, loop: Ints, existing: set[tuple[int, int]], facing: dict[tuple[int, int], Floats], number: int
) -> tuple[Ints | None, Floats]:
    """Triangles and new points (k, 3), which count on from `number`; None where nothing fits."""
    nothing = np.zeros((0, 3))
    if len(loop) > MOST_EDGES:
        return None, nothing
    points = mesh.vertices[loop]
    if len(loop) >= FEWEST_SMOOTH:
        around = [facing[e] for e in zip(loop.tolist(), np.roll(loop, -1).tolist(), strict=True) if e in facing]
        alike = float(np.mean(np.array(around) @ loop_normal(points))) if around else 1.0
        if ROUND[0] < alike < ROUND[1]:
            smooth = smooth_patch(mesh, loop)
            if smooth is not None:
                more, triangles = smooth
                fresh = triangles >= len(mesh.vertices)
                return np.where(fresh, triangles + number - len(mesh.vertices), triangles), more
    for way in (flat_patch, spanned_patch):
        found = way(points)
        if found is not None and not _runs_along(loop[found], loop, existing):
            return loop[found], nothing
    # Nothing over the rim's own points: a fan around its middle.
    fan = np.column_stack([loop, np.roll(loop, -1), np.full(len(loop), number)])
    return fan, points.mean(axis=0)[None]


def _runs_along(patch: Ints, loop: Ints, existing: set[tuple[int, int]]) -> bool:
    inner = np.sort(np.stack([patch, np.roll(patch, -1, axis=1)], axis=-1).reshape(-1, 2), axis=1)
    rim = {(min(a, b), max(a, b)) for a, b in zip(loop.tolist(), np.roll(loop, -1).tolist(), strict=True)}
    return any((a, b) in existing and (a, b) not in rim for a, b in inner.tolist())
