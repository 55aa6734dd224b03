"""Untangle: a surface that runs through itself becomes the outer skin of what it encloses, exactly where it was."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.arrange import arranged
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.outer_skin import skin
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import distinct, lowest_of_components, row_codes
from noble_clay.core.mesh.inspect import collapsed_faces
from noble_clay.core.mesh.mesh import Ints, Mesh, double_normals

PUSH = 4.0
"""How far points of triangles that overlap in one plane are pushed apart, in slacks."""

SNAP = 2.0
"""New points so near another, in slacks, become that one: what lies between them is thinner than a file can tell."""

ROUNDS = 3

WORSE = 1.25
"""Laying over what overlaps may leave so many times as many pairs that cross, which cutting along them then ends."""


def untangle(mesh: Mesh, lobes: bool = False) -> tuple[Mesh, Done]:
    """Cut the triangles up along the lines in which they cross, and keep those between outside and inside.

    Triangles that cross nothing and lie on the skin stay as they are. What remains may be open where the mesh was, or
    where rounding went against it.

    lobes: what it goes around the other way, where it runs through itself to its far side, is solid too.
    """
    pairs = known_crossings(mesh)
    crossed = len(pairs)
    for _ in range(ROUNDS):
        if len(pairs) == 0:
            break
        from noble_clay.core.mend.overlay import overlaid  # brings shapely: not for what crosses nowhere

        flat = overlaid(mesh, pairs)
        left = pairs if flat is mesh else known_crossings(flat)
        if len(left) > WORSE * len(pairs):  # what is no wider than rounding may lie worse on the grid than it did
            flat, left = mesh, pairs
        apart = _pushed_apart(flat, left)
        cut = apart if len(left) == 0 else arranged(apart, left if apart is flat else crossing_pairs(apart, 0.0))[0]
        cut = _snapped(cut, len(apart.vertices), SNAP * slack_of(mesh))
        found = skin(cut, Mesh(apart.vertices[: len(mesh.vertices)], mesh.triangles), lobes)
        left = known_crossings(found)
        if 2 * len(left) >= len(pairs):  # as little is told of more
            break
        mesh, pairs = found, left
    return mesh, Done("untangle", crossed - len(pairs), {"left": len(pairs)})


def _pushed_apart(mesh: Mesh, pairs: Ints) -> Mesh:
    """The mesh with the points of triangles that overlap in one plane moved a very little, each another way."""
    across = double_normals(mesh).T
    a, b = across[pairs[:, 0]], across[pairs[:, 1]]
    lengths = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
    flat = np.linalg.norm(np.cross(a, b), axis=1) <= 1e-6 * lengths
    if not flat.any():
        return mesh
    points = mesh.vertices.copy()
    moved = distinct(mesh.triangles[pairs[flat]])
    points[moved] += np.random.default_rng(0).uniform(-1, 1, (len(moved), 3)) * PUSH * slack_of(mesh)
    return Mesh(points, mesh.triangles)


def _snapped(cut: Mesh, old: int, distance: float) -> Mesh:
    """New points, those from `old` on, within the distance of another become that one; triangles that collapse go, and
    of those that then lie on each other, pairs that face each other.
    """
    used = distinct(cut.triangles)
    new = used[used >= old]
    if len(new) == 0:
        return cut
    from scipy.spatial import cKDTree

    near = cKDTree(cut.vertices[new]).sparse_distance_matrix(
        cKDTree(cut.vertices[used]), distance, output_type="ndarray"
    )
    a, b = new[near["i"]], used[near["j"]]
    snapped = Mesh(cut.vertices, lowest_of_components(len(cut.vertices), np.column_stack([a, b]))[cut.triangles])
    snapped = Mesh(snapped.vertices, snapped.triangles[~collapsed_faces(snapped)])
    return _without_pairs(snapped)


def _without_pairs(mesh: Mesh) -> Mesh:
    """Of triangles on the same three vertices as many as are turned one way more often than the other: one, or none."""
    order = np.sort(mesh.triangles, axis=1)
    _, first, index, count = np.unique(row_codes(order), return_index=True, return_inverse=True, return_counts=True)
    if count.max() == 1:
        return mesh
    # Turned as its sorted corners are, or against them.
    t = mesh.triangles
    with_order = ((t[:, 0] < t[:, 1]).astype(int) + (t[:, 1] < t[:, 2]) + (t[:, 2] < t[:, 0])) == 2
    balance = np.bincount(index.reshape(-1), weights=np.where(with_order, 1, -1))
    keep = np.zeros(len(t), dtype=bool)
    keep[first[balance != 0]] = True
    flip = np.zeros(len(t), dtype=bool)
    flip[first] = (balance > 0) != with_order[first]
    triangles = np.where((flip & keep)[:, None], t[:, ::-1], t)
    return Mesh(mesh.vertices, triangles[keep])
