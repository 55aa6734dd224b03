"""Catmull and Clark's subdivision of a closed mesh into quads (Catmull & Clark 1978), given back as triangles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.half_edges import opposite
from noble_clay.core.mesh.mesh import Floats, Mesh, double_normals

Ints = NDArray[np.int64]

FLAT = 1 - 1e-9
"""Cosine between the normals of two triangles that lie in one plane."""


def quad_subdivided(mesh: Mesh, steps: int) -> tuple[Mesh, Ints]:
    """The mesh after `steps`; and, for every triangle (k,), the triangle of `mesh` that it came from."""
    corners, sizes, origin = _faces(mesh)
    vertices = mesh.vertices
    for _ in range(steps):
        vertices, quads, face = catmull_clark(vertices, corners, sizes)
        corners, sizes, origin = quads.reshape(-1), np.full(len(quads), 4), origin[face]
    quads = corners.reshape(-1, 4)
    # Split along the shorter diagonal.
    one = np.linalg.norm(vertices[quads[:, 0]] - vertices[quads[:, 2]], axis=1)
    two = np.linalg.norm(vertices[quads[:, 1]] - vertices[quads[:, 3]], axis=1)
    turned = np.where((one <= two)[:, None], quads, np.roll(quads, -1, axis=1))
    triangles = np.stack([turned[:, [0, 1, 2]], turned[:, [0, 2, 3]]], axis=1).reshape(-1, 3)
    return Mesh(vertices, triangles), np.repeat(origin, 2)


def catmull_clark(vertices: Floats, corners: Ints, sizes: Ints) -> tuple[Floats, Ints, Ints]:
    """One step on faces of any number of sides: V + E + F vertices.

    corners: the vertices of all faces, one after the other; sizes: (f,) how many each face has. Returns the vertices,
    the quads (q, 4), and the face (q,) that each came from.
    """
    faces, number = len(sizes), len(vertices)
    face = np.repeat(np.arange(faces), sizes)
    start = np.repeat(np.cumsum(sizes) - sizes, sizes)
    place = np.arange(len(corners)) - start
    following = corners[start + (place + 1) % np.repeat(sizes, sizes)]
    middles = np.zeros((faces, 3))
    np.add.at(middles, face, vertices[corners])
    middles /= sizes[:, None]
    edges, edge = np.unique(np.sort(np.column_stack([corners, following]), axis=1), axis=0, return_inverse=True)
    edge = edge.reshape(-1)
    beside = np.zeros((len(edges), 3))
    np.add.at(beside, edge, middles[face])
    halfway = vertices[edges].mean(axis=1)
    edge_points = (halfway + beside / 2) / 2
    # A vertex with n faces goes to (F + 2R + (n - 3) P) / n: F of its faces' middles, R of its edges'.
    valence = np.bincount(corners, minlength=number)[:, None].astype(float)
    of_faces, of_edges = np.zeros((number, 3)), np.zeros((number, 3))
    np.add.at(of_faces, corners, middles[face])
    np.add.at(of_edges, edges.reshape(-1), np.repeat(halfway, 2, axis=0))
    points = (of_faces / valence + 2 * of_edges / valence + (valence - 3) * vertices) / valence
    previous = edge[start + (place - 1) % np.repeat(sizes, sizes)]
    quads = np.column_stack([corners, number + edge, number + len(edges) + face, number + previous])
    return np.concatenate([points, edge_points, middles]), quads, face


def _faces(mesh: Mesh) -> tuple[Ints, Ints, Ints]:
    """Triangles paired across their longest edge where both lie in one plane: corners, sizes and a triangle of each."""
    triangles = mesh.triangles
    across = double_normals(mesh).T
    normals = across / np.linalg.norm(across, axis=1, keepdims=True)
    start, end = triangles, np.roll(triangles, -1, axis=1)
    length = np.linalg.norm(mesh.vertices[start] - mesh.vertices[end], axis=2)
    longest = np.argmax(length, axis=1)
    rows = np.arange(len(triangles))
    a, b = start[rows, longest], end[rows, longest]
    # Two triangles make a quad when each has its longest edge on the other.
    mate = opposite(a, b, len(mesh.vertices))
    paired = (mate >= 0) & (np.einsum("ij,ij->i", normals, normals[mate]) > FLAT)
    first = paired & (rows < mate)
    tip = triangles[rows, (longest + 2) % 3]
    quads = np.column_stack([tip, a, tip[mate], b])[first]
    single = triangles[~paired]
    corners = np.concatenate([quads.reshape(-1), single.reshape(-1)])
    sizes = np.concatenate([np.full(len(quads), 4), np.full(len(single), 3)])
    return corners, sizes, np.concatenate([rows[first], rows[~paired]])
