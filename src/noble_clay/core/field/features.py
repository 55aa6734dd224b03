"""Edges and corners of a list's surface on the lattice (after Kobbelt et al. 2001): points within the cells that they
pass, and in the faces between these, where the planes meet that the surface has at the edges of the lattice.

A line around a cell with such a point is filled by a fan from it. A fan from a point within a cell crosses nothing,
since the line lies on the cell's faces.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.field.blocks import Blocks
from noble_clay.core.field.compiled import compiled
from noble_clay.core.mesh.half_edges import edge_codes
from noble_clay.core.mesh.mesh import Floats, Ints

SHARP = math.cos(math.radians(25))
"""The cosine between the normals around a cell below which it may hold an edge."""

FLAT = 0.05
"""A direction in which the planes of a cell differ by less, as a share of the most, is not determined by them."""

EXACT = 0.02
"""How far off the surface the point may be where planes meet, in cells, to be one of an edge."""

INSET, WITHIN = 1e-2, 0.03
"""How near to its faces a point of an edge may be, and another within a cell, in cells."""

OF_LINE, THIN = 0.1, 5e-4
"""Nearer where that would be a larger share of the line around the cell: of how long it is, where it lies in a face or
no further off than `THIN` cells, else of how far it reaches away from that.
"""

FACE = 1e-9
"""What reaches less far away from a plane lies in it, in cells."""


@dataclass(frozen=True, eq=False)
class Rings:
    """Lines around cells as rings of vertices. vertices: (n,). planes: (n,) as `Lines` has them. starts: (k + 1,).
    cells: (k, 3). blocks: (k,). alone: (k,) whether each is the only one around its cell: else no point within the cell
    is added, since two fans could cross.
    """

    vertices: Ints
    planes: Ints
    starts: Ints
    cells: Ints
    blocks: Ints
    alone: NDArray[np.bool_]


def following(starts: Ints) -> Ints:
    """(n,) of each place in rings, the next one around; starts: (k + 1,) where each ring begins."""
    found = np.arange(starts[-1]) + 1
    found[starts[1:] - 1] = starts[:-1]
    return found


def with_edge_points(
    rings: Rings, blocks: Blocks, points: Floats, normals: Floats
) -> tuple[Rings, Floats, NDArray[np.bool_]]:
    """The rings with points of edges in the faces between two cells of the lattice, (m, 3) these points, whose vertices
    follow on those of `points`, and (k,) to which rings any was added. points, normals: (v, 3) of the vertices, in
    cells; a normal is 0 where it is not told.
    """
    one, other = rings.vertices, rings.vertices[following(rings.starts)]
    some = np.flatnonzero((rings.planes < 0) & (np.einsum("ij,ij->i", normals[one], normals[other]) < SHARP))
    some = some[(normals[one[some]] != 0).any(axis=1) & (normals[other[some]] != 0).any(axis=1)]
    codes = edge_codes(one[some], other[some], len(points))
    known, first, index, times = np.unique(codes, return_index=True, return_inverse=True, return_counts=True)
    ring = np.searchsorted(rings.starts, some, side="right") - 1
    a, b = known // len(points), known % len(points)
    found, good = _where_lines_meet(points[a], points[b], normals[a], normals[b])
    good &= times == 2  # else the other side is no cell of the lattice
    good[index[~rings.alone[ring]]] = False
    near = np.zeros(len(known))
    near[good] = blocks.field_at(found[good], rings.blocks[ring[first[good]]])[:, 0]
    good &= np.abs(near) <= EXACT * blocks.cell + blocks.fold.error
    wanted = good[index]
    number = len(points) + np.cumsum(good) - 1
    at = some[wanted] + 1
    added = np.bincount(ring[wanted], minlength=len(rings.cells))
    starts = rings.starts + np.concatenate([[0], np.cumsum(added)])
    vertices = np.insert(rings.vertices, at, number[index[wanted]])
    planes = np.insert(rings.planes, at, -1)
    return Rings(vertices, planes, starts, rings.cells, rings.blocks, rings.alone), found[good], added > 0


def _where_lines_meet(a: Floats, b: Floats, at_a: Floats, at_b: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """(n, 3) where the tangents at two points of a cell's face meet in that face, and (n,) whether they do."""
    rows = np.arange(len(a))
    # The face is across the axis along which both have the same whole number.
    across = np.argmax((a == b) & (a == np.round(a)), axis=1)
    second, third = (across + 1) % 3, (across + 2) % 3
    flat = [np.column_stack([v[rows, second], v[rows, third]]) for v in (a, b, at_a, at_b)]
    determinant = flat[2][:, 0] * flat[3][:, 1] - flat[2][:, 1] * flat[3][:, 0]
    lengths = np.linalg.norm(flat[2], axis=1) * np.linalg.norm(flat[3], axis=1)
    good = np.abs(determinant) > 0.2 * lengths
    right_a, right_b = (flat[2] * flat[0]).sum(axis=1), (flat[3] * flat[1]).sum(axis=1)
    safe = np.where(good, determinant, 1.0)
    x = (right_a * flat[3][:, 1] - right_b * flat[2][:, 1]) / safe
    y = (flat[2][:, 0] * right_b - flat[3][:, 0] * right_a) / safe
    for value, own, other in ((x, flat[0][:, 0], flat[1][:, 0]), (y, flat[0][:, 1], flat[1][:, 1])):
        low = np.floor((own + other) / 2)
        good &= (value > low + INSET) & (value < low + 1 - INSET)
    found = a.copy()
    found[rows, second], found[rows, third] = x, y
    return found, good


def middles(
    rings: Rings,
    needed: NDArray[np.bool_],
    blocks: Blocks,
    points: Floats,
    normals: Floats,
    off: Floats,
    of_triangles: Floats,
) -> tuple[NDArray[np.bool_], Floats]:
    """(k,) which rings are filled from a point within their cell, and (m, 3) these points, in cells. needed: (k,) which
    are in any case. off: (v,) what the field is at the vertices, mm. of_triangles: (t, 3) normals of own meshes.
    """
    edge, found, middle = _edges(rings.vertices, rings.planes, rings.starts, rings.cells, points, normals, of_triangles)
    edge &= rings.alone
    around, starts = points[rings.vertices], rings.starts[:-1]
    sizes = (
        np.maximum.reduceat(around, starts) - np.minimum.reduceat(around, starts) if len(starts) else np.zeros((0, 3))
    )
    # A triangle across a cell is filled by itself; one within a face is not, since the next cell may have the same.
    needed = needed & ((np.diff(rings.starts) > 3) | (sizes.min(axis=1, initial=1) < FACE))
    nearest = OF_LINE * np.where(sizes > THIN, 2 * sizes, sizes.max(axis=1, initial=0, keepdims=True))
    some = np.flatnonzero(edge)
    at_edge = blocks.field_at(found[some], rings.blocks[some])
    edge[some] = np.abs(at_edge[:, 0]) <= EXACT * blocks.cell + blocks.fold.error
    low = rings.cells[some]
    onto = found[some] - at_edge[:, :1] / blocks.cell * at_edge[:, 1:4]
    inset = np.minimum(INSET, nearest[some])
    found[some] = np.clip(onto, low + inset, low + 1 - inset)
    plain = np.flatnonzero(needed & ~edge)
    told = blocks.field_at(middle[plain], rings.blocks[plain])
    low = rings.cells[plain]
    wanted_off = np.add.reduceat(off[rings.vertices], rings.starts[:-1]) / np.diff(rings.starts) if len(low) else off
    onto = middle[plain] - (told[:, 0] - wanted_off[plain])[:, None] / blocks.cell * told[:, 1:4]
    inset = np.minimum(WITHIN, nearest[plain])
    found[plain] = np.clip(onto, low + inset, low + 1 - inset)
    wanted = needed | edge
    return wanted, found[wanted]


@compiled
def _edges(vertices: Any, planes: Any, starts: Any, cells: Any, points: Any, normals: Any, of_triangles: Any) -> Any:
    """(k,) whether each cell may hold an edge, (k, 3) where then, and (k, 3) the middle of its ring."""
    count = len(starts) - 1
    edge = np.zeros(count, dtype=np.bool_)
    found, middles_found = np.zeros((count, 3)), np.zeros((count, 3))
    matrix, right, middle = np.empty((3, 3)), np.empty(3), np.empty(3)
    every = np.empty((64, 3))
    half = math.cos(math.acos(SHARP) / 2)
    for ring in range(count):
        size = starts[ring + 1] - starts[ring]
        middle[:] = 0.0
        least, planes_here = 1.0, 0
        for n in range(starts[ring], starts[ring + 1]):
            middle += points[vertices[n]] / size
            for turn in range(2):
                if turn == 1 and planes[n] < 0:
                    continue
                normal = normals[vertices[n]] if turn == 0 else of_triangles[planes[n]]
                if (normal == 0).all() or planes_here == len(every):
                    continue
                # Where all are within half the angle of the first, no two are further apart.
                if planes_here > 0 and least == 1.0:
                    other = every[0]
                    if normal[0] * other[0] + normal[1] * other[1] + normal[2] * other[2] > half:
                        every[planes_here] = normal
                        planes_here += 1
                        continue
                for m in range(planes_here):
                    other = every[m]
                    least = min(least, normal[0] * other[0] + normal[1] * other[1] + normal[2] * other[2])
                every[planes_here] = normal
                planes_here += 1
        middles_found[ring] = middle
        if least >= SHARP:
            continue
        matrix[:], right[:] = 0.0, 0.0
        for n in range(starts[ring], starts[ring + 1]):
            for turn in range(2):
                if turn == 1 and planes[n] < 0:
                    continue
                normal = normals[vertices[n]] if turn == 0 else of_triangles[planes[n]]
                off = 0.0
                for a in range(3):
                    off += normal[a] * (points[vertices[n], a] - middle[a])
                for a in range(3):
                    right[a] += normal[a] * off
                    for b in range(3):
                        matrix[a, b] += normal[a] * normal[b]
        values, vectors = np.linalg.eigh(matrix)
        for v in range(3):
            if values[v] > FLAT * values[2]:
                along = 0.0
                for a in range(3):
                    along += vectors[a, v] * right[a]
                for a in range(3):
                    found[ring, a] += vectors[a, v] * along / values[v]
        edge[ring] = True
        for a in range(3):
            value = middle[a] + found[ring, a]
            edge[ring] = edge[ring] and cells[ring, a] + INSET < value < cells[ring, a] + 1 - INSET
            found[ring, a] = value
    return edge, found, middles_found
