"""Draw apart: what lies on itself, or goes into itself, to within a hair, as bodies that were almost flush leave it,
gets that hair.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.small_changes import short_of, with_one_point
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.turn_slivers import turn_slivers
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import distinct, lowest_of_components
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.topology import Topology

HAIR = 4.0
"""How far points are moved in each round, in slacks."""

ROUNDS = 6

WORTH, IDLE = 0.95, 2
"""The share of the fewest pairs so far that a round is to leave at most; and how many in a row may leave more."""

FLAT = 0.9
"""Cosine: triangles that cross lie on each other where they are no steeper to each other."""

NEEDLE = 1e-5
"""Of the mesh's diagonal: points no farther apart may become one, and triangles no higher be turned, to take a fold
out.
"""

SLIGHT = 0.25
"""The share of the pairs that cross which must be so to within a hair: more others are a tangle."""


def draw_apart(mesh: Mesh) -> tuple[Mesh, Done]:
    """Points of triangles that lie on each other are moved along their normals, and corners that go into a triangle by
    less than a hair back out of it, until none do; they stay where that leaves half of the pairs or more.

    Those that face each other are drawn back, each into its own side; those that look the same way, which are the two
    sides of a wall or a gap no wider than a hair at its blunt end, are drawn out.
    """
    pairs = known_crossings(mesh)
    hair = HAIR * slack_of(mesh)
    if len(pairs) == 0 or np.mean(drawn(mesh, pairs, hair)[1]) < SLIGHT:
        return mesh, Done("draw_apart", 0)
    now = unfolded = _unfolded(mesh, pairs)
    left = known_crossings(now)
    least, idle = len(left), 0
    for _ in range(ROUNDS):
        ways, slight = drawn(now, left, hair)
        if not slight.any() or len(left) > 2 * len(pairs):
            break
        now = Mesh(now.vertices + hair * ways, now.triangles)
        left = known_crossings(now)
        idle = idle + 1 if len(left) > WORTH * least else 0
        least = min(least, len(left))
        if idle == IDLE:
            break
    if 2 * len(left) >= len(pairs) or _opens(now, mesh):
        now, left = unfolded, known_crossings(unfolded)
    if len(left) >= len(pairs) or _opens(now, mesh):
        return mesh, Done("draw_apart", 0)
    return now, Done("draw_apart", len(pairs) - len(left), {"left": len(left)})


def _opens(mesh: Mesh, before: Mesh) -> bool:
    return len(Topology(mesh).open_halves) > len(Topology(before).open_halves)


def _unfolded(mesh: Mesh, pairs: Ints) -> Mesh:
    """Without needles that are folded over their own edge: they give their long side up to the triangle beside it, or,
    where that does not help, points about such a pair that lie all but together become one, unless that would make an
    edge of more than two triangles, or a pinch.
    """
    both = np.array([len(np.intersect1d(*pair)) > 1 for pair in mesh.triangles[pairs]])
    if not both.any():
        return mesh
    turned = turn_slivers(mesh, distinct(pairs[both]), NEEDLE * diagonal(mesh.vertices))[0]
    if len(known_crossings(turned)) < len(pairs):
        return turned
    folded = mesh.triangles[pairs[both]]
    around = mesh.triangles[np.isin(mesh.triangles, folded).any(axis=1)]
    edges = np.concatenate([around[:, [0, 1]], around[:, [1, 2]], around[:, [2, 0]]])
    short = short_of(mesh, edges, NEEDLE * diagonal(mesh.vertices))
    found = with_one_point(mesh, lowest_of_components(len(mesh.vertices), short)).compact()
    return found if _wrong(found) <= _wrong(mesh) else mesh


def _wrong(mesh: Mesh) -> int:
    """Edges of more than two triangles, and pinches."""
    topology = Topology(mesh)
    return int((topology.faces_per_edge > 2).sum()) + len(topology.pinched)


def _ways(mesh: Mesh, pairs: Ints) -> Floats:
    """(k,) of every pair, which way along their normals it is drawn: 1 out, -1 back; 0 where it is no layer."""
    out = normals(mesh)
    alike = np.einsum("ij,ij->i", out[pairs[:, 0]], out[pairs[:, 1]])
    found: Floats = np.where(np.abs(alike) < FLAT, 0.0, np.sign(alike))
    return found


def drawn(mesh: Mesh, pairs: Ints, hair: float) -> tuple[Floats, NDArray[np.bool_]]:
    """(n, 3) unit vectors along which points are drawn, 0 for those that stay; and (k,) the pairs that are drawn
    apart so.
    """
    total = np.zeros_like(mesh.vertices)
    way = _ways(mesh, pairs)
    layers = pairs[way != 0].reshape(-1)
    each = np.repeat(way[way != 0], 2)[:, None] * normals(mesh)[layers]
    np.add.at(total, mesh.triangles[layers], each[:, None, :])
    steep = np.flatnonzero(way == 0)
    corners, out, grazing = _grazing(mesh, pairs[steep], hair)
    np.add.at(total, corners, out)
    slight = way != 0
    slight[steep] = grazing
    length = np.linalg.norm(total, axis=1, keepdims=True)
    return np.divide(total, length, out=np.zeros_like(total), where=length > SOME), slight


def _grazing(mesh: Mesh, pairs: Ints, hair: float) -> tuple[Ints, Floats, NDArray[np.bool_]]:
    """Of pairs (k, 2), which go into each other by a hair at most (k,); the corners (c,) that do, and the normals
    (c, 3) along which they come out.
    """
    facing = normals(mesh)
    depths, sides, heights = [], [], []
    for i, j in (pairs.T, pairs.T[::-1]):
        above = mesh.vertices[mesh.triangles[j]] - mesh.vertices[mesh.triangles[i, :1]]
        height = np.einsum("kij,kj->ki", above, facing[i])
        over, under = np.maximum(height, 0).max(axis=1), np.maximum(-height, 0).max(axis=1)
        depths.append(np.minimum(over, under))
        sides.append(np.where(over < under, -1.0, 1.0))  # which way out is nearer
        heights.append(height)
    first = depths[0] <= depths[1]
    through = np.where(first, pairs[:, 0], pairs[:, 1])
    into = np.where(first, pairs[:, 1], pairs[:, 0])
    side = np.where(first, *sides)
    height = np.where(first[:, None], *heights)
    grazing = np.minimum(*depths) <= hair
    goes_in = (height * side[:, None] < 0) & grazing[:, None]
    row, corner = np.nonzero(goes_in)
    return mesh.triangles[into[row], corner], side[row, None] * facing[through[row]], grazing
