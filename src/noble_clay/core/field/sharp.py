"""Sharp edges and corners given back to a surface of marching cubes, which cuts them off (Kobbelt et al. 2001).

In every cell whose normals differ much, the surface gets a vertex where their tangent planes meet; where two such cells
are neighbours, the edge between them is turned so that it runs along the feature.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.gather import connected_components, distinct, row_codes
from noble_clay.core.mesh.half_edges import across, unpaired
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology

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
    owner, vertex = np.divmod(
        distinct(np.repeat(patch, 3) * len(mesh.vertices) + triangles.ravel()), len(mesh.vertices)
    )
    points, turned = mesh.vertices[vertex], normals[vertex]
    mean = _sums(owner, turned, count)
    mean /= np.maximum(np.sqrt((mean * mean).sum(axis=1, keepdims=True)), 1e-12)
    spread = np.full(count, 1.0)
    np.minimum.at(spread, owner, np.einsum("ij,ij->i", turned, mean[owner]))
    holds = spread < SHARP
    if not holds.any():
        return mesh, np.zeros(0, dtype=np.int64)
    some = holds[owner]
    middle, feature = _features(owner[some], points[some], turned[some], count, holds)
    holds &= (feature * feature).sum(axis=1) < (1.2 * cell) ** 2
    every = np.concatenate([mesh.vertices, middle + feature])
    which = len(mesh.vertices) + np.arange(count)
    while True:
        fans, of_patch = _fans(triangles, patch, beyond, holds, which)
        plain = ~holds[patch]
        new = np.concatenate([triangles[plain], fans])
        if Topology(Mesh(every, new)).is_manifold:
            break
        bad = unpaired(new, len(every))
        if not bad.any():
            break
        # A patch with a hole in it, or two that meet more than once: it stays as it was.
        owners = np.concatenate([np.full(int(plain.sum()), -1), of_patch])[bad]
        holds[owners[owners >= 0]] = False
        if not (owners >= 0).any():
            return mesh, np.zeros(0, dtype=np.int64)
    return _compact(every, new, which[holds])


def _features(
    owner: Ints, points: Floats, turned: Floats, count: int, holds: NDArray[np.bool_]
) -> tuple[Floats, Floats]:
    """Of every patch the mean of its corners, and from there to the point nearest to all tangent planes; both (count,
    3), and zero for those that hold no feature.
    """
    number = np.bincount(owner, minlength=count)[:, None]
    middle = _sums(owner, points, count) / np.maximum(number, 1)
    offsets = np.einsum("ij,ij->i", turned, points - middle[owner])
    matrix = _sums(owner, turned[:, :, None] * turned[:, None, :], count)[holds]
    right = _sums(owner, turned * offsets[:, None], count)[holds]
    values, vectors = np.linalg.eigh(matrix)
    large = values > FLAT * values[:, -1:]
    parts = np.einsum("nij,ni->nj", vectors, right) * large / np.where(large, values, 1)
    feature = np.zeros((count, 3))
    feature[holds] = np.einsum("nij,nj->ni", vectors, parts)
    return middle, feature


def _compact(vertices: Floats, triangles: Ints, features: Ints) -> tuple[Mesh, Ints]:
    """A mesh over the vertices that are used, and where `features` are among them."""
    used = distinct(triangles)
    renumbered = np.full(len(vertices), -1)
    renumbered[used] = np.arange(len(used))
    there = renumbered[features]
    return Mesh(vertices[used], renumbered[triangles]), there[there >= 0]


def _sums(owner: Ints, values: Floats, count: int) -> Floats:
    """(count, …) the sums of values (n, …) of each owner."""
    columns = values.reshape(len(values), -1).T
    found: Floats = np.stack([np.bincount(owner, weights=c, minlength=count) for c in columns], axis=1).astype(float)
    return found.reshape(count, *values.shape[1:])


def _patches(mesh: Mesh, cell: float, low: Floats) -> tuple[Ints, Ints]:
    """Of every triangle, which connected patch within one cell it is of; and (m, 3) the triangle across each edge."""
    place = np.floor((mesh.corners.mean(axis=1) - low) / cell).astype(np.int64)
    beyond = across(mesh.triangles, len(mesh.vertices))
    same = (place[beyond] == place[:, None]).all(axis=2)
    here = np.repeat(np.arange(len(beyond)), 3).reshape(-1, 3)
    _, patch = connected_components(len(beyond), np.column_stack([here[same], beyond[same]]))
    return patch, beyond


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
