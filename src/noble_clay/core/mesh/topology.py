"""How the triangles of a mesh hang together: edges, shells, fans around vertices, orientation."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import compiled_for, connected_components, edges_of, manifold_edge_pairs
from noble_clay.core.mesh.mesh import Ints, Mesh


@dataclass(frozen=True, eq=False)
class Topology:
    """Edges and neighbours of `mesh`, whose vertices are told apart by index only. Built lazily, each part once."""

    mesh: Mesh

    @cached_property
    def _ends(self) -> tuple[Ints, Ints]:
        """(3m,) vertices from which and to which every half edge runs, along its face."""
        t = self.mesh.triangles
        return t.reshape(-1), np.roll(t, -1, axis=1).reshape(-1)

    @cached_property
    def _edge_of(self) -> tuple[Ints, Ints, Ints]:
        """Undirected edges (e, 2), for every half edge its edge (3m,), and how many faces use each edge (e,)."""
        return edges_of(np.asarray(self.mesh.triangles, dtype=np.int64), len(self.mesh.vertices))

    @property
    def edges(self) -> Ints:
        """(e, 2) vertices of every undirected edge, the lower first."""
        return self._edge_of[0]

    @property
    def edge_of_half(self) -> Ints:
        """(3m,) the edge of the half edge that starts at every corner."""
        return self._edge_of[1]

    @property
    def faces_per_edge(self) -> Ints:
        """(e,)."""
        return self._edge_of[2]

    @cached_property
    def open_halves(self) -> Ints:
        """(k,) half edges whose edge only one face uses."""
        return np.flatnonzero(self.faces_per_edge[self.edge_of_half] == 1)

    @cached_property
    def open_half_edges(self) -> Ints:
        """(k, 2) from and to, along their face, of edges that only one face uses."""
        start, end = self._ends
        return np.column_stack([start[self.open_halves], end[self.open_halves]])

    @cached_property
    def pairs(self) -> tuple[Ints, NDArray[np.bool_]]:
        """(p, 2) half edges that meet in an edge of exactly two faces, and whether those faces agree (p,)."""
        found = manifold_edge_pairs(self.edge_of_half, self.faces_per_edge)
        start, _ = self._ends
        return found, start[found[:, 0]] != start[found[:, 1]]

    @cached_property
    def shells(self) -> tuple[int, Ints]:
        """How many, and for every face (m,) which: faces hang together through edges of exactly two faces."""
        return connected_components(len(self.mesh.triangles), self.pairs[0] // 3)

    @cached_property
    def closed_shells(self) -> NDArray[np.bool_]:
        """(shells,) whether a shell has no open edge."""
        number, shell = self.shells
        found = np.ones(number, dtype=bool)
        found[shell[self.open_halves // 3]] = False
        return found

    @cached_property
    def turned(self) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """(m,) faces to turn so that each shell agrees with itself (the fewer of two choices), and (shells,) whether
        that cannot be done: a one-sided surface.
        """
        from noble_clay.core.mesh.pairing import consistent_winding

        pairs, agree = self.pairs
        number, shell = self.shells
        if agree.all():
            return np.zeros(len(shell), dtype=bool), np.zeros(number, dtype=bool)
        turned, torn = consistent_winding(len(shell), pairs // 3, agree)
        one_sided = np.zeros(number, dtype=bool)
        one_sided[shell[torn]] = True
        turned_share = np.bincount(shell, weights=turned, minlength=number)
        size = np.bincount(shell, minlength=number)
        turned ^= (turned_share > size / 2)[shell]
        return turned & ~one_sided[shell], one_sided

    @cached_property
    def fans(self) -> tuple[int, Ints]:
        """How many, and for every corner (3m,) which: the corners around a vertex that edges of two faces link."""
        return connected_components(3 * len(self.mesh.triangles), corner_links(*self.pairs))

    @cached_property
    def pinched(self) -> Ints:
        """Vertices where several fans meet in a point, other than along an edge that too many faces share."""
        per_vertex = np.bincount(self._fan_vertex, minlength=len(self.mesh.vertices))
        on_overshared = np.zeros(len(self.mesh.vertices), dtype=bool)
        on_overshared[self.edges[self.faces_per_edge > 2].reshape(-1)] = True
        return np.flatnonzero((per_vertex > 1) & ~on_overshared)

    @property
    def is_manifold(self) -> bool:
        """Whether it is closed and turned consistently, with two faces at every edge and one fan at every vertex."""
        if compiled_for(len(self.mesh.triangles)):
            from noble_clay.core.mesh import pairing

            triangles = np.ascontiguousarray(self.mesh.triangles, dtype=np.int64)
            return bool(pairing.is_closed_manifold(triangles, len(self.mesh.vertices)))
        return bool(np.all(self.faces_per_edge == 2) and self.pairs[1].all()) and len(self.pinched) == 0

    @cached_property
    def _fan_vertex(self) -> Ints:
        """(fans,) the vertex that each fan is around."""
        fans, fan = self.fans
        found = np.zeros(fans, dtype=np.int64)
        found[fan] = self._ends[0]
        return found

    @cached_property
    def euler(self) -> Ints:
        """(shells,): V - E + F of each shell, a vertex counted once for every fan."""
        number, shell = self.shells
        fans, fan = self.fans
        corner_shell = np.repeat(shell, 3)
        fan_shell = np.zeros(fans, dtype=np.int64)
        fan_shell[fan] = corner_shell
        vertices = np.bincount(fan_shell, minlength=number)
        # Of edges that too many faces share, every shell has its own.
        many = self.faces_per_edge[self.edge_of_half] > 2
        shared = np.unique(np.column_stack([self.edge_of_half[many], corner_shell[many]]), axis=0)[:, 1]
        first_of_two = self.pairs[0][:, 0]
        own = np.concatenate([corner_shell[first_of_two], corner_shell[self.open_halves], shared])
        edges = np.bincount(own, minlength=number)
        # An overshared edge is cut apart into one for each pair of faces.
        return vertices - edges + np.bincount(shell, minlength=number)


def corner_links(pairs: Ints, agree: NDArray[np.bool_]) -> Ints:
    """(2 p, 2) corners that are one point when half edges (p, 2) run on into each other. agree: (p,)."""
    first, second = pairs.T
    # Agreeing half edges run against each other: one's start is the other's end.
    starts = np.column_stack([first, np.where(agree, next_half(second), second)])
    ends = np.column_stack([next_half(first), np.where(agree, second, next_half(second))])
    return np.concatenate([starts, ends])


def next_half(half: Ints) -> Ints:
    """The half edges that come after some in their triangles."""
    return half + np.where(half % 3 == 2, -2, 1)


def vertex_shells(mesh: Mesh) -> tuple[int, Ints]:
    """How many, and for every face (m,) which: faces hang together through shared vertices. Quicker than `shells`."""
    if len(mesh.triangles) == 0:
        return 0, np.zeros(0, dtype=np.int64)
    a, b, c = mesh.triangles.T
    _, label = connected_components(
        len(mesh.vertices), np.concatenate([np.column_stack([a, b]), np.column_stack([b, c])])
    )
    # Vertices in no triangle are groups of their own: number again those that have any.
    of_face = label[a]
    used = np.zeros(len(label), dtype=bool)
    used[of_face] = True
    number = np.cumsum(used)
    return int(number[-1]), number[of_face] - 1
