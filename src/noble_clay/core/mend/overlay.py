"""Triangles that overlap in one plane, laid over each other: cut up along each other's edges, and of every piece one
triangle of as many as lie there, or none where as many face one way as the other.

The edges of all that overlap are put on a grid as fine as what triangles may touch by (snap rounding, J. Hobby,
"Practical segment intersection with finite precision output", 1999, as `shapely` has it), so that no piece is narrower
than that. Triangles beyond that share an edge are split where that edge is.
"""

from __future__ import annotations

from dataclasses import dataclass
from heapq import heappop, heappush
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from noble_clay.core.mend.facets import cut_triangles
from noble_clay.core.mend.in_plane import sheets_of
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import distinct, lowest_of_components
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

BESIDE = 2.0
"""How far off an edge, in cells of the grid, points along it may come to lie."""

MOST = 4
"""Triangles for every one that a mesh has, and for every pair that crosses, that laying over may make at most: needles
that lie along each other cross each other everywhere, and would make a hundred times as many.
"""

Edge = tuple[int, int]


def overlaid(mesh: Mesh, pairs: Ints) -> Mesh:
    """The mesh without triangles that overlap in one plane, of those `pairs` (k, 2) that cross, and with edges that lie
    in the plane of a triangle as edges there too.

    Its own points come first, where they were. What several triangles covered, turned alike, only one does.
    """
    grid = slack_of(mesh)
    number = len(mesh.vertices)
    laid: list[_Laid] = []
    for own, marks in sheets_of(mesh, pairs):
        try:
            found = _laid(mesh, own, marks, grid, number)
        except shapely.GEOSException:  # as where it runs against its own rounding
            continue
        if found is not None:
            laid.append(found)
            number += len(found.points)
    if not laid:
        return mesh
    points = np.concatenate([mesh.vertices, *(one.points for one in laid)])
    rest = np.ones(len(mesh.triangles), dtype=bool)
    rest[np.concatenate([one.own for one in laid])] = False
    triangles = np.concatenate([mesh.triangles[rest], *(one.triangles for one in laid)])
    to = _as_one(points, len(mesh.vertices), laid, grid)
    split = _lasting(_split(points, _lasting(to[triangles]), _between(points, laid, to)))
    return Mesh(points, split) if len(split) <= MOST * (len(mesh.triangles) + len(pairs)) else mesh


def _lasting(triangles: Ints) -> Ints:
    """Those that name three points."""
    a, b, c = triangles.T
    return triangles[(a != b) & (b != c) & (c != a)]


def _as_one(points: Floats, old: int, laid: list[_Laid], grid: float) -> Ints:
    """(n,) the point that each becomes: those on one spot, and new ones, from `old` on, that two sheets both have."""
    from scipy.spatial import cKDTree

    same = [one.same for one in laid]
    new = np.arange(old, len(points))
    if len(new):
        used = np.union1d(new, np.concatenate([np.concatenate(one.paths) for one in laid if one.paths] or [new]))
        near = cKDTree(points[new]).sparse_distance_matrix(cKDTree(points[used]), 2 * grid, output_type="ndarray")
        same.append(np.column_stack([new[near["i"]], used[near["j"]]]))
    return lowest_of_components(len(points), np.ascontiguousarray(np.concatenate(same)))


@dataclass
class _Laid:
    """Triangles `own` (k,) of one plane laid over each other. points: (p, 3) that are new. triangles: (t, 3) of the
    pieces. same: (s, 2) points of the mesh that lie on one spot. paths: for every edge with points on it those points,
    ends and all.
    """

    own: Ints
    points: Floats
    triangles: Ints
    same: Ints
    paths: list[list[int]]


def _laid(mesh: Mesh, own: Ints, marks: Ints, grid: float, first: int) -> _Laid | None:
    """marks: (e, 2) edges of others to cut them up along. first: the number of the first new point. None where an edge
    cannot be followed on the grid.
    """
    solid = mesh.vertices[mesh.triangles[own]]
    flat_of, lifted = _plane_of(solid)
    corners = flat_of(solid)
    edges = np.concatenate([*(mesh.triangles[own][:, [k, (k + 1) % 3]] for k in range(3)), marks])
    sides = flat_of(mesh.vertices[edges])
    noded = shapely.unary_union(shapely.multilinestrings(shapely.linestrings(sides)), grid_size=grid)
    pieces = shapely.get_parts(shapely.polygonize([noded]))
    vertices = distinct(edges)
    along, line = shapely.get_coordinates(shapely.get_parts(noded), return_index=True)
    ends = np.stack([along[:-1], along[1:]], axis=1)[line[:-1] == line[1:]]
    nodes = _Nodes(vertices, flat_of(mesh.vertices[vertices]), ends.reshape(-1, 2), grid, first)
    paths = _paths(edges, nodes, nodes.at(ends))
    if paths is None:
        return None
    sums = _facing(pieces, corners)
    parts, of = shapely.get_parts(shapely.constrained_delaunay_triangles(pieces[sums != 0]), return_index=True)
    places = shapely.get_coordinates(parts).reshape(-1, 4, 2)[:, :3]
    triangles = nodes.at(places)
    wrong = _doubled(places) * sums[sums != 0][of] < 0
    triangles = np.where(wrong[:, None], triangles[:, ::-1], triangles)
    return _Laid(own, lifted(nodes.new), triangles, nodes.same, paths)


def _plane_of(corners: Floats) -> tuple[Any, Any]:
    """Points (…, 3) as (…, 2) in the plane of the largest of some triangles (k, 3, 3), and back."""
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    sizes = np.linalg.norm(across, axis=1)
    lead = int(np.argmax(sizes))
    normal, origin = across[lead] / sizes[lead], corners[lead, 0]
    along = np.cross(normal, np.eye(3)[np.argmin(np.abs(normal))])
    along /= np.linalg.norm(along)
    axes = np.stack([along, np.cross(normal, along)])
    return (lambda points: (points - origin) @ axes.T), (lambda flat: origin + flat @ axes)


class _Nodes:
    """Where edges end or meet on the grid. ids: of each, a vertex of the mesh or a new point. places: (k, 2). new:
    (p, 2) places of the new. same: (s, 2) vertices on one spot.
    """

    def __init__(self, vertices: Ints, flat: Floats, ends: Floats, grid: float, first: int) -> None:
        self.grid = grid
        keys, index = np.unique(self._keys(np.concatenate([flat, ends])), axis=0, return_inverse=True)
        index = index.reshape(-1)
        self.places = keys * grid
        self.ids = np.full(len(keys), -1, dtype=np.int64)
        self.ids[index[: len(flat)][::-1]] = vertices[::-1]
        self.same = np.column_stack([self.ids[index[: len(flat)]], vertices])
        self.same = self.same[self.same[:, 0] != self.same[:, 1]]
        missing = self.ids < 0
        self.new = self.places[missing]
        self.ids[missing] = first + np.arange(len(self.new))
        self._order = {(int(x), int(y)): int(i) for (x, y), i in zip(keys, self.ids, strict=True)}

    def _keys(self, places: Floats) -> Ints:
        return np.floor(places / self.grid + 0.5).astype(np.int64)

    def at(self, places: Floats) -> Ints:
        """(…,) the nodes at places (…, 2)."""
        keys = self._keys(places)
        found = [self._order[x, y] for x, y in keys.reshape(-1, 2).tolist()]
        return np.array(found, dtype=np.int64).reshape(places.shape[:-1])


def _paths(edges: Ints, nodes: _Nodes, links: Ints) -> list[list[int]] | None:
    """The nodes along every one of some edges (e, 2) that has some, ends and all. links: (l, 2) nodes that the grid's
    edges go between. None where one cannot be followed.
    """
    to = dict(nodes.same[:, ::-1].tolist())
    ends = [(to.get(a, a), to.get(b, b)) for a, b in np.unique(np.sort(edges, axis=1), axis=0).tolist()]
    lasting = [(a, b) for a, b in ends if a != b]
    place = dict(zip(nodes.ids.tolist(), nodes.places, strict=True))
    starts, stops = (np.array([place[edge[k]] for edge in lasting]).reshape(-1, 2) for k in (0, 1))
    lines = shapely.linestrings(np.stack([starts, stops], axis=1))
    line, node = shapely.STRtree(shapely.points(nodes.places)).query(lines, "dwithin", BESIDE * nodes.grid)
    order = np.argsort(line, kind="stable")
    bounds = np.searchsorted(line[order], np.arange(len(lasting) + 1))
    linked: dict[int, list[int]] = {}
    for a, b in links.tolist():
        linked.setdefault(a, []).append(b)
        linked.setdefault(b, []).append(a)
    found = []
    for (a, b), (first, last) in zip(lasting, pairwise(bounds), strict=True):
        path = _shortest(a, b, set(nodes.ids[node[order[first:last]]].tolist()), linked, place)
        if path is None:
            return None
        if len(path) > 2:
            found.append(path)
    return found


def _shortest(
    start: int, end: int, through: set[int], linked: dict[int, list[int]], place: dict[int, Floats]
) -> list[int] | None:
    """The shortest way from one node to another through some others (E. Dijkstra, 1959)."""
    if end in linked.get(start, []):
        return [start, end]
    heap, before = [(0.0, start, start)], dict[int, int]()
    while heap:
        length, node, last = heappop(heap)
        if node in before:
            continue
        before[node] = last
        if node == end:
            path = [end]
            while path[-1] != start:
                path.append(before[path[-1]])
            return path[::-1]
        for other in linked.get(node, []):
            if other in through and other not in before:
                heappush(heap, (length + float(np.hypot(*(place[other] - place[node]))), other, node))
    return None


def _facing(pieces: Any, corners: Floats) -> NDArray[np.float64]:
    """(p,) how many of some triangles (k, 3, 2) cover each piece, less those that cover it turned over."""
    inside = shapely.point_on_surface(pieces)
    covers = shapely.STRtree(shapely.polygons(corners))
    piece, triangle = covers.query(inside, "intersects")
    signs = np.sign(_doubled(corners))[triangle]
    return np.bincount(piece, weights=signs, minlength=len(pieces)).astype(float)


def _doubled(corners: Floats) -> Floats:
    """(k,) twice the areas of triangles (k, 3, 2), negative where they go round clockwise."""
    a, b = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    found: Floats = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return found


def _between(points: Floats, laid: list[_Laid], to: Ints) -> dict[Edge, list[int]]:
    """For every edge, from its lower point to its higher, the points that lie on it by what any sheet says: of whole
    edges, and of the stretches of one between the points of one sheet.
    """
    paths: dict[Edge, list[list[int]]] = {}
    for one in laid:
        for path in one.paths:
            ids = to[path].tolist()
            ids = ids if ids[0] < ids[-1] else ids[::-1]
            paths.setdefault((ids[0], ids[-1]), []).append(ids)
    found: dict[Edge, list[int]] = {}
    for (low, high), several in paths.items():
        way = points[high] - points[low]
        known = {p for path in several for p in path[1:-1]} - {low, high}
        inner = sorted(known, key=lambda p: float((points[p] - points[low]) @ way))  # noqa: B023
        found[low, high] = inner
        whole = [low, *inner, high]
        for path in several if len(several) > 1 else []:
            for p, q in pairwise(path):
                missed = whole[whole.index(p) + 1 : whole.index(q)]
                if missed:
                    found[min(p, q), max(p, q)] = missed if p < q else missed[::-1]
    return found


def _split(points: Floats, triangles: Ints, between: dict[Edge, list[int]]) -> Ints:
    """The triangles (m, 3), those with an edge that points lie on cut up there."""
    halves = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2)
    low, high = halves.min(axis=2), halves.max(axis=2)
    known = np.array(sorted(between), dtype=np.int64).reshape(-1, 2)
    width = len(points)
    some = np.isin(low * width + high, known[:, 0] * width + known[:, 1]).any(axis=1)
    rims: list[int] = []
    starts = [0]
    for edge in halves[some].reshape(-1, 2).tolist():
        a, b = edge
        on = between.get((min(a, b), max(a, b)), [])
        rims += on if a < b else on[::-1]
        starts.append(len(rims))
    none = np.zeros(int(some.sum()) + 1, dtype=np.int64)
    cut, _, _ = cut_triangles(
        points,
        triangles[some],
        np.array(starts),
        np.array(rims, dtype=np.int64),
        none,
        np.zeros(0, dtype=np.int64),
        none,
        np.zeros((0, 2), dtype=np.int64),
    )
    return np.concatenate([triangles[~some], cut])
