"""Separate: edges and points that too many faces share are cut apart, so that every sheet runs on by itself."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, cross_product
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology, corner_links, next_half

GAP = 16.0
"""How far what was cut apart is drawn back from where it touched, in slacks: a file must tell its points apart."""


def separate(mesh: Mesh, at: Ints | None = None, farther: float = 1.0, slit: bool = False) -> tuple[Mesh, Done]:
    """Pair the faces around every overshared edge across the solid between them, and give each fan its own point.

    Bodies that met in an edge or a point are then apart by a hair, each drawn back into itself; faces that find no
    partner are left with an open edge. Points on the rim of a hole stay whole.

    at: vertices (j,); only edges between them, and only they, are cut apart; by default all. farther: how many times
    the usual hair. slit: also edges whose ends cannot be parted; of what was just cut up it would leave needles.
    """
    topology = Topology(mesh)
    overshared = np.flatnonzero(topology.faces_per_edge > 2)
    pinched = np.setdiff1d(topology.pinched, topology.open_half_edges)
    whole = np.zeros(len(mesh.vertices), dtype=bool)
    if at is not None:
        whole[np.setdiff1d(mesh.triangles, at)] = True
        overshared = overshared[~whole[topology.edges[overshared]].any(axis=1)]
        pinched = pinched[~whole[pinched]]
    if len(overshared) == 0 and len(pinched) == 0:
        return mesh, Done("separate", 0)
    chosen = _paired(mesh, topology, overshared)
    natural, agree = topology.pairs
    start = mesh.triangles.reshape(-1)
    links = corner_links(
        np.concatenate([natural, chosen]), np.concatenate([agree, start[chosen[:, 0]] != start[chosen[:, 1]]])
    )
    whole[topology.open_half_edges] = True
    whole[topology.edges[overshared]] = False
    links = np.concatenate([links, _left_whole(mesh, whole)])
    number, fan = connected_components(3 * len(mesh.triangles), np.ascontiguousarray(links))
    vertex = np.zeros(number, dtype=np.int64)
    vertex[fan] = start
    # The first fan of a vertex keeps its index, so that what was sound stays what it was.
    order = np.argsort(vertex, kind="stable")
    again = np.concatenate([[False], vertex[order][1:] == vertex[order][:-1]])
    index = np.empty(number, dtype=np.int64)
    index[order[~again]] = vertex[order[~again]]
    index[order[again]] = len(mesh.vertices) + np.arange(again.sum())
    points = np.concatenate([mesh.vertices, mesh.vertices[vertex[order[again]]]])
    triangles = index[fan].reshape(-1, 3)
    shared = np.bincount(vertex, minlength=len(mesh.vertices))[vertex] > 1
    parted, middles = _slit(Mesh(points, triangles), chosen if slit else chosen[:0])
    points = _drawn_back(parted, np.concatenate([index[shared], middles]), farther * GAP * slack_of(mesh))
    more = {"edges": len(overshared), "points": int(again.sum()) + len(middles)}
    return Mesh(points, parted.triangles), Done("separate", len(overshared) + len(pinched), more)


def _slit(mesh: Mesh, pairs: Ints) -> tuple[Mesh, Ints]:
    """Edges whose ends cannot be parted, since their fans run on into each other elsewhere: every pair of faces gets a
    point of its own in the middle, so that a slit opens between them. The mesh, and those points. Of edges that share a
    face one is done.
    """
    topology = Topology(mesh)
    over = np.flatnonzero(topology.faces_per_edge > 2)
    if len(over) == 0 or len(pairs) == 0:
        return mesh, np.zeros(0, dtype=np.int64)
    triangles, points, added = mesh.triangles.copy(), [mesh.vertices], []
    number = len(mesh.vertices)
    edge_of_pair = topology.edge_of_half[pairs[:, 0]]
    touched: set[int] = set()
    for edge in over:
        around = pairs[edge_of_pair == edge]
        faces = set((around // 3).reshape(-1).tolist())
        if 2 * len(around) != topology.faces_per_edge[edge] or len(faces) < 2 * len(around) or faces & touched:
            continue
        touched |= faces
        for pair in around:
            points.append(mesh.vertices[topology.edges[edge]].mean(axis=0, keepdims=True))
            for half in pair:
                face, k = divmod(int(half), 3)
                start, end, apex = (int(mesh.triangles[face, (k + i) % 3]) for i in range(3))
                triangles[face] = (start, number, apex)
                added.append((number, end, apex))
            number += 1
    middles = np.arange(len(mesh.vertices), number)
    found = np.concatenate([triangles, np.array(added, dtype=np.int64).reshape(-1, 3)])
    return Mesh(np.concatenate(points), found), middles


def _left_whole(mesh: Mesh, whole: NDArray[np.bool_]) -> Ints:
    """(k, 2) corners that stay one point: those of vertices where `whole` (n,), such as points on a rim, where closing
    the hole may join their fans.
    """
    corner = mesh.triangles.reshape(-1)
    of_whole = np.flatnonzero(whole[corner])
    order = of_whole[np.argsort(corner[of_whole], kind="stable")]
    same = corner[order[1:]] == corner[order[:-1]]
    return np.column_stack([order[:-1][same], order[1:][same]])


def _paired(mesh: Mesh, topology: Topology, edges: Ints) -> Ints:
    """(p, 2) half edges, of those at each of some edges, that are to run on into each other."""
    halves = np.flatnonzero(np.isin(topology.edge_of_half, edges))
    edge, shell = topology.edge_of_half[halves], topology.shells[1]
    angle, up = _angles(mesh, halves)
    fin = ~topology.closed_shells[shell[halves // 3]]
    order = np.lexsort((angle, edge))
    pairs: list[tuple[int, int]] = []
    for around in np.split(order, np.flatnonzero(np.diff(edge[order])) + 1):
        own, ring = _by_themselves([(int(halves[i]), bool(up[i]), bool(fin[i])) for i in around], shell)
        first, left = _matched([r for r in ring if not r[2]])
        second, _ = _matched([r for r in ring if r[2] or r in left])
        pairs += own + first + second
    return np.array(pairs, dtype=np.int64).reshape(-1, 2)


def _angles(mesh: Mesh, halves: Ints) -> tuple[Floats, NDArray[np.bool_]]:
    """(k,) the angles of the faces of half edges around their edges, and which run up it: as its lower vertex to its
    higher one. Those of one edge are told from the same way.
    """
    corner = mesh.triangles.reshape(-1)
    nexts = next_half(halves)
    start, end, apex = corner[halves], corner[nexts], corner[next_half(nexts)]
    low = mesh.vertices[np.minimum(start, end)]
    along = mesh.vertices[np.maximum(start, end)] - low
    along /= np.maximum(np.linalg.norm(along, axis=1), SOME)[:, None]
    out = mesh.vertices[apex] - low
    out -= np.einsum("ij,ij->i", out, along)[:, None] * along
    aside = np.where((np.abs(along[:, 0]) < 0.9)[:, None], [1.0, 0, 0], [0, 1.0, 0])
    side = cross_product(along, aside)
    side /= np.maximum(np.linalg.norm(side, axis=1), SOME)[:, None]
    other = cross_product(along, side)
    return np.arctan2(np.einsum("ij,ij->i", out, other), np.einsum("ij,ij->i", out, side)), start < end


_Ring = list[tuple[int, bool, bool]]


def _matched(ring: _Ring) -> tuple[list[tuple[int, int]], _Ring]:
    """Pairs of half edges with the solid between them, and those left over. Going around an edge, a solid begins at a
    face that runs down it and ends at the next one that runs up.
    """
    pairs = []
    left = list(ring)
    found = True
    while found and len(left) > 1:
        found = False
        for i, (down, runs_up, _) in enumerate(left):
            up, other_up, _ = left[(i + 1) % len(left)]
            if not runs_up and other_up:
                pairs.append((down, up))
                left = [r for r in left if r[0] not in (down, up)]
                found = True
                break
    return pairs, left


def _by_themselves(ring: _Ring, shell: Ints) -> tuple[list[tuple[int, int]], _Ring]:
    """Pairs within the shells whose faces at the edge all find one there, and the rest: of bodies that lie flush, faces
    of both are at one angle, and which is the next one would be chance.
    """
    of = [int(shell[half // 3]) for half, _, _ in ring]
    if len(set(of)) == 1:
        return [], ring
    pairs: list[tuple[int, int]] = []
    left = list(ring)
    for one in sorted(set(of)):
        found, alone = _matched([r for r, other in zip(ring, of, strict=True) if other == one])
        if found and not alone:
            pairs += found
            left = [r for r in left if int(shell[r[0] // 3]) != one]
    return pairs, left


def _drawn_back(mesh: Mesh, moved: Ints, gap: float) -> Floats:
    """The points with those in `moved` drawn so far, mm, towards the faces around them."""
    which = np.isin(mesh.triangles.reshape(-1), moved)
    corner = mesh.triangles.reshape(-1)[which]
    middles = np.repeat(mesh.corners.mean(axis=1), 3, axis=0)[which]
    total = np.zeros_like(mesh.vertices)
    np.add.at(total, corner, middles - mesh.vertices[corner])
    length = np.linalg.norm(total, axis=1, keepdims=True)
    step = np.divide(total, length, out=np.zeros_like(total), where=length > 0)
    reach = np.minimum(gap, 0.1 * length / np.maximum(np.bincount(corner, minlength=len(total)), 1)[:, None])
    found: Floats = mesh.vertices + step * reach
    return found
