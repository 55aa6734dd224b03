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
from noble_clay.core.loops import compiled, small
from noble_clay.core.mesh.gather import spans
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
    some = np.flatnonzero(_turning(one, other, rings.planes, normals))
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


@compiled
def _turning(one: Any, other: Any, planes: Any, normals: Any) -> Any:
    """(n,) whether the surface turns sharply between two vertices of a ring, of which both normals are told."""
    found = np.zeros(len(one), dtype=np.bool_)
    for n in range(len(one)):
        if planes[n] >= 0:
            continue
        x, y, z = normals[one[n], 0], normals[one[n], 1], normals[one[n], 2]
        u, v, w = normals[other[n], 0], normals[other[n], 1], normals[other[n], 2]
        told = (x != 0 or y != 0 or z != 0) and (u != 0 or v != 0 or w != 0)
        found[n] = told and x * u + y * v + z * w < SHARP
    return found


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
    edge, found, middle, sizes = _edges(
        rings.vertices, rings.planes, rings.starts, rings.cells, points, normals, of_triangles
    )
    edge &= rings.alone
    # A triangle across a cell is filled by itself; one within a face is not, since the next cell may have the same.
    across = np.flatnonzero(needed & (np.diff(rings.starts) == 3))
    needed = needed.copy()
    needed[across] = (sizes[across] < FACE).any(axis=1)

    def nearest(which: Ints) -> Floats:
        wide = sizes[which]
        return OF_LINE * np.where(wide > THIN, 2 * wide, wide.max(axis=1, initial=0, keepdims=True))

    some = np.flatnonzero(edge)
    at_edge = blocks.field_at(found[some], rings.blocks[some])
    edge[some] = np.abs(at_edge[:, 0]) <= EXACT * blocks.cell + blocks.fold.error
    low = rings.cells[some]
    onto = found[some] - at_edge[:, :1] / blocks.cell * at_edge[:, 1:4]
    inset = np.minimum(INSET, nearest(some))
    found[some] = np.clip(onto, low + inset, low + 1 - inset)
    plain = np.flatnonzero(needed & ~edge)
    told = blocks.field_at(middle[plain], rings.blocks[plain])
    low = rings.cells[plain]
    counts = np.diff(rings.starts)[plain]
    around = off[rings.vertices[spans(rings.starts[plain], counts)]]
    wanted_off = np.add.reduceat(around, np.cumsum(counts) - counts) / counts if len(plain) else off[:0]
    onto = middle[plain] - (told[:, 0] - wanted_off)[:, None] / blocks.cell * told[:, 1:4]
    inset = np.minimum(WITHIN, nearest(plain))
    found[plain] = np.clip(onto, low + inset, low + 1 - inset)
    wanted = needed | edge
    return wanted, found[wanted]


@small
def _normal_at(vertices: Any, planes: Any, normals: Any, of_triangles: Any, n: Any, turn: Any) -> Any:
    """The normal at the n-th place of a ring: in turn 0 its vertex's, in turn 1 that of the triangle from there on."""
    if turn == 0:
        v = vertices[n]
        return normals[v, 0], normals[v, 1], normals[v, 2]
    t = planes[n]
    return of_triangles[t, 0], of_triangles[t, 1], of_triangles[t, 2]


@compiled
def _edges(vertices: Any, planes: Any, starts: Any, cells: Any, points: Any, normals: Any, of_triangles: Any) -> Any:
    """(k,) whether each cell may hold an edge, (k, 3) where then, (k, 3) the middle of its ring, and (k, 3) how wide
    the ring is along each axis.
    """
    count = len(starts) - 1
    edge = np.zeros(count, dtype=np.bool_)
    found, middles_found, sizes = np.zeros((count, 3)), np.zeros((count, 3)), np.zeros((count, 3))
    matrix, right = np.empty((3, 3)), np.empty(3)
    every = np.empty((64, 3))
    half = math.cos(math.acos(SHARP) / 2)
    for ring in range(count):
        first, last = starts[ring], starts[ring + 1]
        for a in range(3):
            low = high = points[vertices[first], a]
            middle = 0.0
            for n in range(first, last):
                value = points[vertices[n], a]
                low, high = min(low, value), max(high, value)
                middle += value / (last - first)
            middles_found[ring, a], sizes[ring, a] = middle, high - low
        least, planes_here = 1.0, 0
        for n in range(first, last):
            for turn in range(1 if planes[n] < 0 else 2):
                x, y, z = _normal_at(vertices, planes, normals, of_triangles, n, turn)
                if (x == 0 and y == 0 and z == 0) or planes_here == len(every):
                    continue
                # Where all are within half the angle of the first, no two are further apart.
                near = planes_here > 0 and least == 1.0
                if not (near and x * every[0, 0] + y * every[0, 1] + z * every[0, 2] > half):
                    for m in range(planes_here):
                        least = min(least, x * every[m, 0] + y * every[m, 1] + z * every[m, 2])
                every[planes_here, 0], every[planes_here, 1], every[planes_here, 2] = x, y, z
                planes_here += 1
        if least >= SHARP:
            continue
        matrix[:], right[:] = 0.0, 0.0
        for n in range(first, last):
            for turn in range(1 if planes[n] < 0 else 2):
                normal = _normal_at(vertices, planes, normals, of_triangles, n, turn)
                off = 0.0
                for a in range(3):
                    off += normal[a] * (points[vertices[n], a] - middles_found[ring, a])
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
            value = middles_found[ring, a] + found[ring, a]
            edge[ring] = edge[ring] and cells[ring, a] + INSET < value < cells[ring, a] + 1 - INSET
            found[ring, a] = value
    return edge, found, middles_found, sizes
