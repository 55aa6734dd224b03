"""Zip cracks: rims that run along each other become one, also where points of one lie between those of the other."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.drop_useless import drop_useless
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.close_points import DIRECTION, near_pairs
from noble_clay.core.mesh.gather import distinct, lowest_of_components
from noble_clay.core.mesh.inspect import collapsed_faces
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology

WIDTHS = (1e-6, 1e-5, 1e-4, 1e-3)
"""How wide cracks may be, as shares of the mesh's size: tried from the narrowest on, while edges are open."""

SHORT = 0.4
"""Points further apart than this share of the shorter of their own rim edges stay apart."""


FROM_END = 0.05
"""A point on an edge is nearer to its end than this share of it only where it is that end, a little off."""


def zip_cracks(mesh: Mesh, widest: float | None = None, within: Floats | None = None) -> tuple[Mesh, Done]:
    """Merge points of rims, and split rim edges at points that lie on them, as long as that closes edges.

    Only points on open edges move, by at most the width of the crack. widest: mm, a thousandth of the mesh by default.
    within: (k, 2, 3) boxes; only open edges with both ends in one of them are zipped.
    """
    size = diagonal(mesh.vertices)
    before = len(Topology(mesh).open_halves)
    now, open_edges, used = mesh, before, 0.0
    for share in WIDTHS:
        distance = share * size
        if open_edges == 0 or (widest is not None and distance > widest):
            break
        for ready in (lambda m: m, lambda m, d=distance: _split_at_points(m, d, within)):
            found = drop_useless(_merged_rims(ready(now), distance, within))[0]
            left = Topology(found)
            overshared = int(np.sum(left.faces_per_edge > 2)) - int(np.sum(Topology(now).faces_per_edge > 2))
            if open_edges - len(left.open_halves) > max(0, 2 * overshared):
                now, open_edges, used = found, len(left.open_halves), distance
    more = {"widest_mm": used, "points_merged": len(mesh.vertices) - len(now.vertices)}
    return now, Done("zip_cracks", before - open_edges, more)


def _rim(mesh: Mesh, within: Floats | None) -> tuple[Ints, Ints, Ints]:
    """(k, 2) open edges along their faces, (r,) the points on them, and (k,) the faces."""
    topology = Topology(mesh)
    edges, faces = topology.open_half_edges, topology.open_halves // 3
    if within is not None:
        ends = mesh.vertices[edges][:, :, None]
        inside = np.any(np.all((ends >= within[:, 0]) & (ends <= within[:, 1]), axis=(1, 3)), axis=1)
        edges, faces = edges[inside], faces[inside]
    return edges, distinct(edges), faces


def _merged_rims(mesh: Mesh, distance: float, within: Floats | None) -> Mesh:
    """Rim points within the distance, and nearer to each other than their own edges are long, become one."""
    edges, rim, _ = _rim(mesh, within)
    if len(rim) < 2:
        return mesh
    reach = np.full(len(mesh.vertices), np.inf)
    lengths = np.linalg.norm(mesh.vertices[edges[:, 0]] - mesh.vertices[edges[:, 1]], axis=1)
    np.minimum.at(reach, edges.reshape(-1), np.repeat(lengths, 2))
    close = near_pairs(mesh.vertices[rim], mesh.vertices[rim] @ DIRECTION, distance)
    if len(close) == 0:
        return mesh
    pairs = rim[np.sort(close, axis=1)]
    apart = np.linalg.norm(mesh.vertices[pairs[:, 0]] - mesh.vertices[pairs[:, 1]], axis=1)
    keep = apart <= SHORT * np.minimum(reach[pairs[:, 0]], reach[pairs[:, 1]])
    to = lowest_of_components(len(mesh.vertices), pairs[keep])
    merged = Mesh(mesh.vertices, to[mesh.triangles])
    return merged.keep(~collapsed_faces(merged))


def _split_at_points(mesh: Mesh, distance: float, within: Floats | None) -> Mesh:
    """Rim edges split at rim points that lie on them: within the distance, and not near their ends."""
    for _ in range(3):  # one edge of a triangle at a time
        edges, rim, faces = _rim(mesh, within)
        if len(rim) < 3:
            return mesh
        edge, share, point = _points_on(mesh, edges, rim, distance)
        if len(edge) == 0:
            return mesh
        order = np.lexsort((share, edge, faces[edge]))
        edge, point = edge[order], point[order]
        first_edge = np.full(len(mesh.triangles), -1)
        first_edge[faces[edge[::-1]]] = edge[::-1]
        mine = first_edge[faces[edge]] == edge
        edge, point = edge[mine], point[mine]
        mesh = _split(mesh, edges, faces, edge, point)
    return mesh


def _points_on(mesh: Mesh, edges: Ints, rim: Ints, distance: float) -> tuple[Ints, Floats, Ints]:
    """Edges with, for each, points that lie on it: where along, and which."""
    start, end = mesh.vertices[edges[:, 0]], mesh.vertices[edges[:, 1]]
    length = np.linalg.norm(end - start, axis=1)
    edge, at = _within(mesh.vertices[rim], (start + end) / 2, length / 2 + distance)
    point = rim[at]
    way, to = end[edge] - start[edge], mesh.vertices[point] - start[edge]
    squared = np.maximum((way * way).sum(axis=1), SOME)
    share = (way * to).sum(axis=1) / squared
    off = np.linalg.norm(to - share[:, None] * way, axis=1)
    margin = np.maximum(FROM_END, 4 * distance / np.maximum(length[edge], SOME))
    on = (off <= distance) & (share > margin) & (share < 1 - margin)
    on &= (edges[edge, 0] != point) & (edges[edge, 1] != point)
    return edge[on], share[on], point[on]


FEW = 250_000
"""Pairs of which each is looked at sooner than a tree of points is loaded and made."""


def _within(points: Floats, middles: Floats, reach: Floats) -> tuple[Ints, Ints]:
    """Each of balls around middles (k, 3) with each of the points (n, 3) within its reach (k,), mm, in order."""
    if len(points) * len(middles) <= FEW:
        away = ((points[None] - middles[:, None]) ** 2).sum(axis=2)
        ball, at = np.nonzero(away <= reach[:, None] ** 2)
        return ball, at
    from scipy.spatial import cKDTree

    near = cKDTree(points).query_ball_point(middles, reach, return_sorted=True)
    counts = np.array([len(n) for n in near])
    at = np.concatenate([np.array(n, dtype=np.int64) for n in near])
    return np.repeat(np.arange(len(middles)), counts), at


def _split(mesh: Mesh, edges: Ints, faces: Ints, edge: Ints, point: Ints) -> Mesh:
    """Every edge's triangle becomes a fan from its far corner to the points along it, in order."""
    which, starts = np.unique(edge, return_index=True)
    new = []
    for e, points in zip(which, np.split(point, starts[1:]), strict=True):
        a, b = edges[e]
        (c,) = set(mesh.triangles[faces[e]].tolist()) - {int(a), int(b)} or {int(a)}
        along = [int(a), *dict.fromkeys(points.tolist()), int(b)]
        new += [(u, v, c) for u, v in zip(along[:-1], along[1:], strict=True) if c not in (u, v)]
    keep = np.ones(len(mesh.triangles), dtype=bool)
    keep[faces[which]] = False
    return Mesh(mesh.vertices, np.concatenate([mesh.triangles[keep], np.array(new, dtype=np.int64).reshape(-1, 3)]))
