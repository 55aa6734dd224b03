"""A surface that runs through itself, cut up along the lines where it does: afterwards triangles meet only in their
edges.

Whether an edge goes through a triangle is told by the signs of volumes of four vertices each. Every such sign is worked
out once for its four vertices, in one order, and nothing is ever zero (H. Edelsbrunner and E. Mücke, "Simulation of
simplicity", 1990, in its plainest form), so that all triangles around a crossing are told the same of it. Points are
then floating-point numbers: where they decide wrongly, the result has open edges, and whoever asked sees that.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.loops import compiled, small
from noble_clay.core.mend.facets import cut_triangles
from noble_clay.core.mend.window import beside
from noble_clay.core.mesh.box_tree import meeting_boxes
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import distinct, row_codes, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.pairing import edges_of

LEVEL = 1e-4
"""In slacks: edges so near a plane lie in it. Those over a triangle have been laid into it before."""


def arranged(mesh: Mesh, pairs: Ints) -> tuple[Mesh, Ints]:
    """The surface cut up where its triangles cross, and which triangle (m,) of `mesh` every new one is of.

    pairs: (k, 2) triangles that cross, as `crossing_pairs` finds them. What they do not touch stays as it is and comes
    first. Triangles of one plane that overlap cannot be cut by each other: give them different planes before.
    """
    _, edge_of, _ = edges_of(mesh.triangles, len(mesh.vertices))
    around = np.flatnonzero(beside(mesh, distinct(pairs)))
    candidates = meeting_boxes(mesh, around)
    hits = _Hits.of(mesh, edge_of, candidates)
    lines = hits.lines(mesh, candidates)
    number = len(mesh.vertices)
    triples, places, cut = _crossing_lines(np.concatenate([mesh.vertices, hits.points]), mesh, lines)
    points = np.concatenate([mesh.vertices, hits.points, places])
    return _cut_up(points, mesh, edge_of, hits, lines, triples + number + len(hits.points), cut)


class _Hits:
    """Where edges go through triangles. keys: (h,) edge · m + triangle, sorted; edge, face: (h,); share: (h,) how far
    along the edge, from its lower vertex; points: (h, 3).
    """

    def __init__(self, mesh: Mesh, edge: Ints, face: Ints, share: Floats, points: Floats) -> None:
        self.edge, self.face, self.share, self.points = edge, face, share, points
        self._faces = len(mesh.triangles)
        self.keys = edge * self._faces + face

    @staticmethod
    def of(mesh: Mesh, edge_of: Ints, candidates: Ints) -> _Hits:
        """candidates: (k, 2) triangles that may cross."""
        both = np.concatenate([candidates, candidates[:, ::-1]])
        edges = edge_of.reshape(-1, 3)[both[:, 0]]
        keys = distinct(edges * len(mesh.triangles) + both[:, 1][:, None])
        edge, face = np.divmod(keys, len(mesh.triangles))
        first = np.zeros(edge_of.max() + 1, dtype=np.int64)
        first[edge_of] = np.arange(len(edge_of))
        half = first[edge]
        start = mesh.triangles.reshape(-1)
        ends = np.sort(np.column_stack([start[half], np.roll(mesh.triangles, -1, axis=1).reshape(-1)[half]]), axis=1)
        hit, share = _through(mesh.vertices, ends, mesh.triangles[face], LEVEL * slack_of(mesh))
        low, high = mesh.vertices[ends[hit, 0]], mesh.vertices[ends[hit, 1]]
        points = low + share[hit, None] * (high - low)
        return _Hits(mesh, edge[hit], face[hit], share[hit], points)

    def lines(self, mesh: Mesh, candidates: Ints) -> Ints:
        """(l, 4): two triangles and the two points between which they cross. Points count on from the vertices."""
        found = []
        at_edge = edges_of(mesh.triangles, len(mesh.vertices))[1].reshape(-1, 3)
        s, t = candidates.T
        keys = np.concatenate([at_edge[s] * self._faces + t[:, None], at_edge[t] * self._faces + s[:, None]], axis=1)
        place = np.minimum(np.searchsorted(self.keys, keys), max(len(self.keys) - 1, 0))
        is_hit = self.keys[place] == keys if len(self.keys) else np.zeros(keys.shape, dtype=bool)
        shared = (mesh.triangles[s][:, :, None] == mesh.triangles[t][:, None, :]).any(axis=2)
        count = is_hit.sum(axis=1)
        number = len(mesh.vertices)
        two = np.flatnonzero((count == 2) & (shared.sum(axis=1) == 0))
        if len(two):
            column = np.argsort(~is_hit[two], axis=1, kind="stable")[:, :2]
            ends = np.take_along_axis(place[two], column, axis=1) + number
            found.append(np.column_stack([candidates[two], ends]))
        one = np.flatnonzero((count == 1) & (shared.sum(axis=1) == 1))
        if len(one):
            column = np.argmax(is_hit[one], axis=1)[:, None]
            ends = np.take_along_axis(place[one], column, axis=1)[:, 0] + number
            corner = np.take_along_axis(mesh.triangles[s[one]], np.argmax(shared[one], axis=1)[:, None], axis=1)[:, 0]
            found.append(np.column_stack([candidates[one], corner, ends]))
        return np.concatenate(found) if found else np.zeros((0, 4), dtype=np.int64)


def _crossing_lines(points: Floats, mesh: Mesh, lines: Ints) -> tuple[Ints, Floats, Ints]:
    """Points in which two lines of one triangle cross, and so three triangles meet.

    Returns, for every (line, point) that cuts it, the point (c,); the points' places (p, 3); and (c, 2) lines with, as
    a rank, where along them: sorted by line and rank.
    """
    number = len(lines)
    of = np.concatenate([lines[:, 0], lines[:, 1]])
    order = np.argsort(of, kind="stable")
    faces, starts = np.unique(of[order], return_index=True)
    starts = np.append(starts, len(order))
    first, second, place = _lines_across(points, mesh.triangles[faces], lines, order % max(number, 1), starts)
    if len(first) == 0:
        return np.zeros(0, np.int64), np.zeros((0, 3)), np.zeros((0, 2), np.int64)
    # The three triangles of a crossing: all of both lines.
    three = np.sort(np.concatenate([lines[first, :2], lines[second, :2]], axis=1), axis=1)
    keep = np.ones(three.shape, dtype=bool)
    keep[:, 1:] = three[:, 1:] != three[:, :-1]
    good = keep.sum(axis=1) == 3
    three = three[good][keep[good]].reshape(-1, 3)
    place = place[good]
    _, at, index = np.unique(row_codes(three), return_index=True, return_inverse=True)
    known, place = three[at], place[at]
    # Every line between two of the three is cut there, also where only one of the triangles saw it.
    code = lines[:, 0] * len(mesh.triangles) + lines[:, 1]
    line_order = np.argsort(code)
    cuts = []
    for a, b in ((0, 1), (0, 2), (1, 2)):
        wanted = known[:, a] * len(mesh.triangles) + known[:, b]
        found = np.minimum(np.searchsorted(code[line_order], wanted), number - 1)
        line = line_order[found]
        there = code[line] == wanted
        cuts.append(np.column_stack([line[there], np.flatnonzero(there)]))
    both = np.concatenate(cuts)
    ends = points[lines[both[:, 0], 2:]]
    way = ends[:, 1] - ends[:, 0]
    along = np.einsum("ij,ij->i", place[both[:, 1]] - ends[:, 0], way)
    both = both[np.lexsort((along, both[:, 0]))]
    return both[:, 1], place, both


def _cut_up(
    points: Floats, mesh: Mesh, edge_of: Ints, hits: _Hits, lines: Ints, at_cuts: Ints, cuts: Ints
) -> tuple[Mesh, Ints]:
    number = len(mesh.vertices)
    # Lines as pairs of neighbouring points, both for the one and the other of their triangles.
    chain = [lines[:, 2:3], lines[:, 3:4]]
    order = np.concatenate([np.arange(len(lines)), np.arange(len(lines)), cuts[:, 0]])
    rank = np.concatenate([np.zeros(len(lines)), np.full(len(lines), 2.0), np.ones(len(cuts))])
    within = np.concatenate([np.zeros(2 * len(lines)), np.arange(len(cuts))])
    ids = np.concatenate([chain[0][:, 0], chain[1][:, 0], at_cuts])
    sort = np.lexsort((within, rank, order))
    order, ids = order[sort], ids[sort]
    same = order[1:] == order[:-1]
    pieces = np.column_stack([ids[:-1][same], ids[1:][same]])
    piece_line = order[:-1][same]
    line_of = np.concatenate([lines[piece_line, 0], lines[piece_line, 1]])
    line_ends = np.concatenate([pieces, pieces])

    # Points on edges, and the triangles at those edges.
    hit_order = np.lexsort((hits.share, hits.edge))
    edge_starts = np.searchsorted(hits.edge[hit_order], np.arange(edge_of.max() + 2))
    touched = np.diff(edge_starts) > 0
    faces = distinct(np.concatenate([line_of, hits.face, np.flatnonzero(touched[edge_of].reshape(-1, 3).any(axis=1))]))
    rim_edges = edge_of.reshape(-1, 3)[faces].reshape(-1)
    rim_counts = np.diff(edge_starts)[rim_edges]
    rim_starts = np.concatenate([[0], np.cumsum(rim_counts)])
    backward = mesh.triangles[faces].reshape(-1) > np.roll(mesh.triangles[faces], -1, axis=1).reshape(-1)
    slot = np.arange(rim_starts[-1]) - np.repeat(rim_starts[:-1], rim_counts)
    turned = np.repeat(backward, rim_counts)
    slot = np.where(turned, np.repeat(rim_counts, rim_counts) - 1 - slot, slot)
    rims = hit_order[np.repeat(edge_starts[rim_edges], rim_counts) + slot] + number

    # Points inside triangles: of edges that go through them, and of their lines that cross.
    inside_face = np.concatenate([hits.face, lines[cuts[:, 0], 0], lines[cuts[:, 0], 1]])
    inside_id = np.concatenate([np.arange(len(hits.face)) + number, at_cuts, at_cuts])
    inside = unique_rows(np.column_stack([inside_face, inside_id]))
    inner_starts = np.searchsorted(inside[:, 0], np.append(faces, len(mesh.triangles)))
    sort = np.argsort(line_of, kind="stable")
    line_starts = np.searchsorted(line_of[sort], np.append(faces, len(mesh.triangles)))
    found, owner, _ = cut_triangles(
        points,
        mesh.triangles[faces],
        rim_starts,
        rims,
        inner_starts,
        np.ascontiguousarray(inside[:, 1]),
        line_starts,
        np.ascontiguousarray(line_ends[sort]),
    )
    rest = np.ones(len(mesh.triangles), dtype=bool)
    rest[faces] = False
    triangles = np.concatenate([mesh.triangles[rest], found])
    return Mesh(points, triangles), np.concatenate([np.flatnonzero(rest), faces[owner]])


@small
def volume_sign(points: Any, a: Any, b: Any, c: Any, d: Any) -> Any:
    """1 or -1: on which side of the triangle a, b, c vertex d lies; of any order of four vertices the same answer, up
    to the order's own sign.
    """
    sign = 1
    # Sorted by exchanges, each of which turns the sign.
    if a > b:
        a, b, sign = b, a, -sign
    if c > d:
        c, d, sign = d, c, -sign
    if a > c:
        a, c, sign = c, a, -sign
    if b > d:
        b, d, sign = d, b, -sign
    if b > c:
        b, c, sign = c, b, -sign
    ax, ay, az = points[a, 0] - points[d, 0], points[a, 1] - points[d, 1], points[a, 2] - points[d, 2]
    bx, by, bz = points[b, 0] - points[d, 0], points[b, 1] - points[d, 1], points[b, 2] - points[d, 2]
    cx, cy, cz = points[c, 0] - points[d, 0], points[c, 1] - points[d, 1], points[c, 2] - points[d, 2]
    six = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
    return sign if six >= 0.0 else -sign


@small
def _heights(points: Any, a: Any, b: Any, c: Any, p: Any, q: Any) -> Any:
    """How far p and q are off the plane of a triangle; 0 for both of a triangle of no area."""
    ux, uy, uz = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
    vx, vy, vz = points[c, 0] - points[a, 0], points[c, 1] - points[a, 1], points[c, 2] - points[a, 2]
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    size = np.sqrt(nx * nx + ny * ny + nz * nz)
    if size == 0.0:
        return 0.0, 0.0
    x, y, z = points[p, 0] - points[a, 0], points[p, 1] - points[a, 1], points[p, 2] - points[a, 2]
    first = (nx * x + ny * y + nz * z) / size
    x, y, z = points[q, 0] - points[a, 0], points[q, 1] - points[a, 1], points[q, 2] - points[a, 2]
    return first, (nx * x + ny * y + nz * z) / size


@compiled
def _through(points: Any, ends: Any, faces: Any, level: Any) -> Any:
    """Whether each edge (k, 2) goes through its triangle (k, 3), and how far along it does. level: mm; an edge that is
    no farther off the triangle's plane goes through nothing: only rounding would say that it does.
    """
    hit = np.zeros(len(ends), dtype=np.bool_)
    share = np.zeros(len(ends))
    for i in range(len(ends)):
        p, q = ends[i, 0], ends[i, 1]
        a, b, c = faces[i, 0], faces[i, 1], faces[i, 2]
        if p == a or p == b or p == c or q == a or q == b or q == c:
            continue
        if volume_sign(points, a, b, c, p) == volume_sign(points, a, b, c, q):
            continue
        first = volume_sign(points, p, q, a, b)
        if volume_sign(points, p, q, b, c) != first or volume_sign(points, p, q, c, a) != first:
            continue
        from_p, from_q = _heights(points, a, b, c, p, q)
        if max(abs(from_p), abs(from_q)) <= level:
            continue
        hit[i] = True
        share[i] = min(1.0, max(0.0, from_p / (from_p - from_q)))
    return hit, share


@compiled
def _lines_across(points: Any, corners: Any, lines: Any, order: Any, starts: Any) -> Any:
    """Of the lines in every triangle, listed in `order` from `starts` on, the pairs that cross, and where."""
    first, second = [0][:0], [0][:0]
    places = [(0.0, 0.0, 0.0)][:0]
    for i in range(len(corners)):
        a, b, c = points[corners[i, 0]], points[corners[i, 1]], points[corners[i, 2]]
        u, v = b - a, c - a
        normal = np.array([u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]])
        axis = np.argmax(np.abs(normal))
        x, y = (axis + 1) % 3, (axis + 2) % 3
        for j in range(starts[i], starts[i + 1]):
            for k in range(j + 1, starts[i + 1]):
                p, q = lines[order[j], 2], lines[order[j], 3]
                r, s = lines[order[k], 2], lines[order[k], 3]
                if p == r or p == s or q == r or q == s:
                    continue
                over_x, over_y = points[q, x] - points[p, x], points[q, y] - points[p, y]
                other_x, other_y = points[s, x] - points[r, x], points[s, y] - points[r, y]
                area = over_x * other_y - over_y * other_x
                if area == 0.0:
                    continue
                away_x, away_y = points[r, x] - points[p, x], points[r, y] - points[p, y]
                along = (away_x * other_y - away_y * other_x) / area
                other = (away_x * over_y - away_y * over_x) / area
                if 0.0 < along < 1.0 and 0.0 < other < 1.0:
                    first.append(order[j])
                    second.append(order[k])
                    places.append(
                        (
                            points[p, 0] + along * (points[q, 0] - points[p, 0]),
                            points[p, 1] + along * (points[q, 1] - points[p, 1]),
                            points[p, 2] + along * (points[q, 2] - points[p, 2]),
                        )
                    )
    found = np.empty((len(places), 3))
    for i in range(len(places)):
        for k in range(3):
            found[i, k] = places[i][k]
    return np.array(first, dtype=np.int64), np.array(second, dtype=np.int64), found
