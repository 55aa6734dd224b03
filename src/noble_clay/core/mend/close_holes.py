"""Close plain holes: loops of open edges that a flat or gently bent patch can fill."""

from __future__ import annotations

import numpy as np
from manifold3d import triangulate

from noble_clay.core.mend.step import Done
from noble_clay.core.mend.topology import Topology
from noble_clay.core.mesh import Floats, Ints, Mesh

MOST_EDGES = 5_000
"""A longer loop is not a plain hole."""


def close_holes(mesh: Mesh) -> tuple[Mesh, Done]:
    """Fill every open loop that, seen along its own normal, is a simple polygon; leave the others.

    A patch is triangulated in the loop's mean plane and uses no new points. It is refused when it would run along an
    edge that the mesh has already.
    """
    topology = Topology(mesh)
    existing = {(int(a), int(b)) for a, b in topology.edges} if len(topology.open_half_edges) else set()
    patches, closed, left = [], 0, 0
    for loop in open_loops(topology.open_half_edges):
        patch = _patch(mesh.vertices, loop, existing)
        if patch is None:
            left += 1
            continue
        closed += 1
        patches.append(patch)
    triangles = np.concatenate([mesh.triangles, *patches]) if patches else mesh.triangles
    more = {"triangles_added": int(sum(len(p) for p in patches)), "left_open": left}
    return Mesh(mesh.vertices, triangles), Done("close_holes", closed, more)


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


def loop_normal(points: Floats) -> Floats:
    """(3,) unit normal of a closed polygon (n, 3) by Newell's method; zero when it encloses no area."""
    middle = points - points.mean(axis=0)
    total = np.cross(middle, np.roll(middle, -1, axis=0)).sum(axis=0)
    length = np.linalg.norm(total)
    found: Floats = total / length if length > 1e-12 else np.zeros(3)
    return found


def _patch(vertices: Floats, loop: Ints, existing: set[tuple[int, int]]) -> Ints | None:
    if len(loop) > MOST_EDGES:
        return None
    points = vertices[loop]
    normal = loop_normal(points)
    if not normal.any():
        return None
    side = np.cross(normal, [1.0, 0, 0] if abs(normal[0]) < 0.9 else [0, 1.0, 0])
    side /= np.linalg.norm(side)
    flat = np.column_stack([points @ side, points @ np.cross(normal, side)])
    try:
        found = np.array(triangulate([flat]), dtype=np.int64).reshape(-1, 3)
    except (ValueError, RuntimeError):
        return None
    if len(found) != len(loop) - 2 or not _covers(flat, found):
        return None
    patch: Ints = loop[found]
    inner = np.sort(np.stack([patch, np.roll(patch, -1, axis=1)], axis=-1).reshape(-1, 2), axis=1)
    rim = {(min(a, b), max(a, b)) for a, b in zip(loop.tolist(), np.roll(loop, -1).tolist(), strict=True)}
    if any((a, b) in existing and (a, b) not in rim for a, b in inner.tolist()):
        return None
    return patch


def _covers(flat: Floats, triangles: Ints) -> bool:
    """Whether the triangles are all turned one way and together as large as the polygon: then it is simple."""
    a, b, c = flat[triangles].transpose(1, 0, 2)
    double = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    x, y = flat.T
    whole = float(x @ np.roll(y, -1) - y @ np.roll(x, -1))
    return bool(whole > 0 and double.min() > -1e-9 * whole and abs(double.sum() - whole) < 1e-6 * whole)
