"""A finer mesh of the same surface: long edges halved until none is left."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology


def without_long_edges(mesh: Mesh, length: float) -> tuple[Mesh, Ints]:
    """A closed mesh with every edge longer than `length` mm halved, and halved again, and which of its triangles each
    new one comes from.

    Only the longest edge of a triangle is halved at a time, and for both its triangles, so that triangles get hardly
    thinner than they were (Rivara, "Algorithms for refining triangular grids", 1984). A triangle becomes two, three or
    four: where two of its edges are halved, the four-sided rest is cut along its shorter diagonal.
    """
    origin = np.arange(len(mesh.triangles))
    while True:
        finer, of = halved_once(mesh, np.ones(len(mesh.triangles), dtype=bool), length)
        if finer is mesh:
            return mesh, origin
        mesh, origin = finer, origin[of]


def halved_once(mesh: Mesh, some: NDArray[np.bool_], length: float) -> tuple[Mesh, Ints]:
    """The mesh with the longest edge of some of its triangles (m,) halved, where that is longer than `length` mm, and
    which of its triangles each new one comes from; the mesh itself where none is.
    """
    topology = Topology(mesh)
    ends = mesh.vertices[topology.edges]
    lengths = np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1)
    of_triangle = topology.edge_of_half.reshape(-1, 3)
    halved = np.zeros(len(lengths), dtype=bool)
    halved[of_triangle[some, np.argmax(lengths[of_triangle[some]], axis=1)]] = True
    halved &= lengths > length
    if not halved.any():
        return mesh, np.arange(len(mesh.triangles))
    middle = np.where(halved, len(mesh.vertices) + np.cumsum(halved) - 1, -1)
    points = np.concatenate([mesh.vertices, ends[halved].mean(axis=1)])
    triangles, of = _split(points, mesh.triangles, middle[of_triangle])
    return Mesh(points, triangles), of


def _split(points: Floats, triangles: Ints, middle: Ints) -> tuple[Ints, Ints]:
    """Triangles (m, 3) with the middle of each edge (m, 3), the first from the first corner on, -1 where it stays."""
    halved = middle >= 0
    number = halved.sum(axis=1)
    # Turned so that of one halved edge it is the first, of two they are the first and the second.
    lead = np.where(number == 1, np.argmax(halved, axis=1), np.argmin(halved, axis=1) + 1)
    turn = (lead[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(triangles, turn, axis=1).T
    ab, bc, ca = np.take_along_axis(middle, turn, axis=1).T
    across = np.linalg.norm(points[a] - points[bc], axis=1) < np.linalg.norm(points[ab] - points[c], axis=1)
    none, one, two, three = (np.flatnonzero(number == k) for k in range(4))
    near, far = two[across[two]], two[~across[two]]
    made = [
        (none, (a, b, c)),
        (one, (a, ab, c)),
        (one, (ab, b, c)),
        (two, (ab, b, bc)),
        (near, (a, ab, bc)),
        (near, (a, bc, c)),
        (far, (a, ab, c)),
        (far, (ab, bc, c)),
        (three, (a, ab, ca)),
        (three, (ab, b, bc)),
        (three, (bc, c, ca)),
        (three, (ab, bc, ca)),
    ]
    return (
        np.concatenate([np.column_stack([corner[some] for corner in corners]) for some, corners in made]),
        np.concatenate([some for some, _ in made]),
    )
