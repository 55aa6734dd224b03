"""Sharp edges and corners given back to a surface of marching cubes, which cuts them off (Kobbelt et al. 2001).

In every cell whose normals differ much, the surface gets a vertex where their tangent planes meet; where two such cells
are neighbours, the edge between them is turned so that it runs along the feature.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import distinct, row_codes, unique_rows
from noble_clay.core.mesh.half_edges import across, unpaired
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

SHARP = np.cos(np.radians(15))
"""A cell in which a normal is further than 15° from the mean of its normals holds a feature."""

FLAT = 0.08
"""A direction in which the planes differ by less, as a share of the largest eigenvalue, is not determined by them."""


def sharpened(mesh: Mesh, normals: Floats, cell: float, low: Floats) -> tuple[Mesh, Ints]:
    """The surface with its features, and which vertices (k,) are on them.

    mesh: closed, of marching cubes on a lattice of cells of `cell` mm from `low`. normals: (n, 3) of the true surface
    at its vertices, of length 1.
    """
    triangles = mesh.triangles
    patch, beyond = _patches(mesh, cell, low)
    count = patch.max() + 1
    # Of every patch: the mean of its corners and normals, and the point nearest to all tangent planes.
    owner, vertex = unique_rows(np.column_stack([np.repeat(patch, 3), triangles.reshape(-1)])).T
    number = np.bincount(owner, minlength=count)[:, None]
    points, turned = mesh.vertices[vertex], normals[vertex]
    middle = _sums(owner, points, count) / number
    mean = _sums(owner, turned, count)
    mean /= np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-12)
    spread = np.full(count, 1.0)
    np.minimum.at(spread, owner, np.einsum("ij,ij->i", turned, mean[owner]))
    offsets = np.einsum("ij,ij->i", turned, points - middle[owner])
    matrix = _sums(owner, turned[:, :, None] * turned[:, None, :], count)
    right = _sums(owner, turned * offsets[:, None], count)
    values, vectors = np.linalg.eigh(matrix)
    large = values > FLAT * values[:, -1:]
    parts = np.einsum("nij,ni->nj", vectors, right) * large / np.where(large, values, 1)
    feature = np.einsum("nij,nj->ni", vectors, parts)
    holds = (spread < SHARP) & (np.linalg.norm(feature, axis=1) < 1.2 * cell)
    every = np.concatenate([mesh.vertices, middle + feature])
    which = len(mesh.vertices) + np.arange(count)
    while True:
        fans, of_patch = _fans(triangles, patch, beyond, holds, which)
        plain = ~holds[patch]
        new = np.concatenate([triangles[plain], fans])
        bad = unpaired(new, len(every))
        if not bad.any():
            break
        # A patch with a hole in it, or two that meet more than once: it stays as it was.
        owners = np.concatenate([np.full(int(plain.sum()), -1), of_patch])[bad]
        holds[owners[owners >= 0]] = False
        if not (owners >= 0).any():
            return mesh, np.zeros(0, dtype=np.int64)
    return _compact(every, new, which[holds])


def _compact(vertices: Floats, triangles: Ints, features: Ints) -> tuple[Mesh, Ints]:
    """A mesh over the vertices that are used, and where `features` are among them."""
    used = distinct(triangles)
    renumbered = np.full(len(vertices), -1)
    renumbered[used] = np.arange(len(used))
    there = renumbered[features]
    return Mesh(vertices[used], renumbered[triangles]), there[there >= 0]


def _sums(owner: Ints, values: Floats, count: int) -> Floats:
    found = np.zeros((count, *values.shape[1:]))
    np.add.at(found, owner, values)
    return found


def _patches(mesh: Mesh, cell: float, low: Floats) -> tuple[Ints, Ints]:
    """Of every triangle, which connected patch within one cell it is of; and (m, 3) the triangle across each edge."""
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import connected_components

    triangles = mesh.triangles
    place = np.floor((mesh.corners.mean(axis=1) - low) / cell).astype(np.int64)
    _, cells = np.unique(row_codes(place), return_inverse=True)
    cells = cells.reshape(-1)
    beyond = across(triangles, len(mesh.vertices))
    same = cells[beyond] == cells[:, None]
    rows = np.repeat(np.arange(len(triangles)), 3).reshape(-1, 3)[same]
    graph = csr_matrix((np.ones(len(rows)), (rows, beyond[same])), shape=(len(triangles),) * 2)
    _, patch = connected_components(graph, directed=False)
    return patch.astype(np.int64), beyond


def _fans(triangles: Ints, patch: Ints, beyond: Ints, holds: NDArray[np.bool_], which: Ints) -> tuple[Ints, Ints]:
    """Triangles from the border of every patch that holds a feature to that feature, turned where two fans meet; and
    the patch of each.
    """
    there = patch[beyond]
    border = holds[patch][:, None] & (there != patch[:, None])
    a, b = triangles[border], np.roll(triangles, -1, axis=1)[border]
    mine, other = np.repeat(patch, 3).reshape(-1, 3)[border], there[border]
    both = holds[other]
    pairs = np.sort(np.column_stack([mine, other]), axis=1)
    _, index, times = np.unique(row_codes(pairs), return_inverse=True, return_counts=True)
    # Each edge between two patches is met from both sides; patches with more than one edge in common stay unturned.
    turn = both & (times[index.reshape(-1)] == 2)
    plain = np.column_stack([a, b, which[mine]])[~turn]
    turned = np.column_stack([which[mine], a, which[other]])[turn]
    return np.concatenate([plain, turned]), np.concatenate([mine[~turn], mine[turn]])
