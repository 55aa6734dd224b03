"""How the triangles of a mesh hang together: edges, shells, fans around vertices, orientation."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix, csr_matrix
from scipy.sparse.csgraph import connected_components

from noble_clay.core.mesh import Ints, Mesh


@dataclass(frozen=True, eq=False)
class Topology:
    """Edges and neighbours of `mesh`, whose vertices are told apart by index only. Built lazily, each part once."""

    mesh: Mesh

    @cached_property
    def _half_edges(self) -> tuple[Ints, Ints]:
        """(3m, 2) vertices from and to, and (3m,) the face of each half edge; half edge k starts at corner k."""
        t = self.mesh.triangles
        ends = np.stack([t, np.roll(t, -1, axis=1)], axis=-1).reshape(-1, 2)
        return ends, np.repeat(np.arange(len(t)), 3)

    @cached_property
    def _edge_of(self) -> tuple[Ints, Ints, Ints]:
        """Undirected edges (e, 2), for every half edge its edge (3m,), and how many faces use each edge (e,)."""
        ends, _ = self._half_edges
        low, high = ends.min(axis=1), ends.max(axis=1)
        keys, edge, count = np.unique(
            low * np.int64(len(self.mesh.vertices) + 1) + high, return_inverse=True, return_counts=True
        )
        span = np.int64(len(self.mesh.vertices) + 1)
        return np.column_stack([keys // span, keys % span]), edge.reshape(-1), count

    @property
    def edges(self) -> Ints:
        """(e, 2) vertices of every undirected edge, the lower first."""
        return self._edge_of[0]

    @property
    def faces_per_edge(self) -> Ints:
        """(e,)."""
        return self._edge_of[2]

    @cached_property
    def open_half_edges(self) -> Ints:
        """(k, 2) from and to, along their face, of edges that only one face uses."""
        ends, _ = self._half_edges
        _, edge, count = self._edge_of
        return ends[count[edge] == 1]

    @cached_property
    def _pairs(self) -> tuple[Ints, NDArray[np.bool_]]:
        """(p, 2) half edges that meet in an edge of exactly two faces, and whether those faces agree (p,)."""
        _, edge, count = self._edge_of
        order = np.argsort(edge, kind="stable")
        twos = order[count[edge[order]] == 2].reshape(-1, 2)
        ends, _ = self._half_edges
        return twos, ends[twos[:, 0], 0] != ends[twos[:, 1], 0]

    @cached_property
    def shells(self) -> tuple[int, Ints]:
        """How many, and for every face (m,) which: faces hang together through edges of exactly two faces."""
        pairs, _ = self._pairs
        return _components(len(self.mesh.triangles), pairs // 3)

    @cached_property
    def turned(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """(m,) faces to turn so that each shell agrees with itself (the fewer of two choices), and (shells,) whether
        that cannot be done: a one-sided surface.
        """
        faces = len(self.mesh.triangles)
        pairs, agree = self._pairs
        a, b = (pairs // 3).T
        # Two nodes for every face, kept and turned: a pair that agrees links like with like, else like with unlike.
        links = np.concatenate(
            [
                np.column_stack([a, np.where(agree, b, b + faces)]),
                np.column_stack([a + faces, np.where(agree, b + faces, b)]),
            ]
        )
        _, side = _components(2 * faces, links)
        number, shell = self.shells
        one_sided = np.zeros(number, dtype=bool)
        one_sided[shell[side[:faces] == side[faces:]]] = True
        reference = np.full(number, -1, dtype=np.int64)
        reference[shell[::-1]] = side[:faces][::-1]
        turned = side[:faces] != reference[shell]
        turned_share = np.bincount(shell, weights=turned, minlength=number)
        size = np.bincount(shell, minlength=number)
        turned ^= (turned_share > size / 2)[shell]
        return turned & ~one_sided[shell], one_sided

    @cached_property
    def fans(self) -> tuple[int, Ints]:
        """How many, and for every corner (3m,) which: the corners around a vertex that edges of two faces link."""
        pairs, agree = self._pairs
        t_next = np.arange(len(self.mesh.triangles) * 3).reshape(-1, 3)
        follows = np.roll(t_next, -1, axis=1).reshape(-1)
        first, second = pairs.T
        # Agreeing half edges run against each other: one's start is the other's end.
        starts = np.column_stack([first, np.where(agree, follows[second], second)])
        ends = np.column_stack([follows[first], np.where(agree, second, follows[second])])
        return _components(len(follows), np.concatenate([starts, ends]))

    @cached_property
    def pinched(self) -> Ints:
        """Vertices where several fans meet in a point, other than along an edge that too many faces share."""
        _, fan = self.fans
        corner_vertex = self.mesh.triangles.reshape(-1)
        pairs = np.unique(np.column_stack([corner_vertex, fan]), axis=0)
        per_vertex = np.bincount(pairs[:, 0], minlength=len(self.mesh.vertices))
        on_overshared = np.zeros(len(self.mesh.vertices), dtype=bool)
        on_overshared[self.edges[self.faces_per_edge > 2].reshape(-1)] = True
        return np.flatnonzero((per_vertex > 1) & ~on_overshared)

    @cached_property
    def euler(self) -> Ints:
        """(shells,): V - E + F of each shell, a vertex counted once for every fan."""
        number, shell = self.shells
        _, edge, _ = self._edge_of
        fans, fan = self.fans
        corner_shell = np.repeat(shell, 3)
        fan_shell = np.zeros(fans, dtype=np.int64)
        fan_shell[fan] = corner_shell
        vertices = np.bincount(fan_shell, minlength=number)
        edges_here = np.unique(np.column_stack([edge, corner_shell]), axis=0)
        edges = np.bincount(edges_here[:, 1], minlength=number)
        # An overshared edge is cut apart into one for each pair of faces.
        return vertices - edges + np.bincount(shell, minlength=number)


def _components(nodes: int, links: Ints) -> tuple[int, Ints]:
    graph = coo_matrix((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(nodes, nodes))
    number, label = connected_components(graph, directed=False)
    return int(number), label.astype(np.int64)


def vertex_shells(mesh: Mesh) -> tuple[int, Ints]:
    """How many, and for every face (m,) which: faces hang together through shared vertices. Quicker than `shells`."""
    faces, nodes = len(mesh.triangles), len(mesh.triangles) + len(mesh.vertices)
    if faces == 0:
        return 0, np.zeros(0, dtype=np.int64)
    # Faces are the first nodes, each with a row of its three vertices; vertices, the later nodes, have empty rows.
    rows = np.minimum(np.arange(nodes + 1), faces) * 3
    links = csr_matrix((np.ones(3 * faces), (mesh.triangles + faces).reshape(-1), rows), shape=(nodes, nodes))
    label = connected_components(links, directed=False)[1][:faces]
    return int(label.max()) + 1, label.astype(np.int64)
