"""Outlines whose walls lean inward or outward as they rise, and outlines turned about the middle as they rise."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from manifold3d import Manifold

from noble_clay.core.kernel.plain import manifold_of, mesh_of, tidied, union_of
from noble_clay.core.mesh.draw_together import drawn_together
from noble_clay.core.mesh.even_odd import enclosed
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import UNIT
from noble_clay.core.mesh.untangle import untangled
from noble_clay.core.primitives.flat import cap_of, extruded, signed_area, turned_rings
from noble_clay.core.primitives.simple import is_simple

TURN_STEP = math.radians(2.8125)
"""The most by which a slice of a twisted outline is turned against the one below."""

MOST_PIECES = 64
"""Into which a side of a twisted outline is cut at most, so that its triangles lie close to the ruled surface."""

FINER = (1, 2, 4)
"""By how much the triangles of a twisted solid are made smaller, one after the other, while it crosses itself."""


def deepest(rings: Sequence[Floats]) -> float:
    """mm. Radius of the largest circle within the area of rings: walls that lean in by as much or more leave no top."""
    import shapely

    area = enclosed(rings)
    parts = [area] if isinstance(area, shapely.Polygon) else area.geoms
    return max(shapely.maximum_inscribed_circle(part).length for part in parts)


def leaning(rings: Sequence[Floats], height: float, inset: float, turn: float = 0.0) -> Mesh:
    """The area of rings at the bottom, its sides `inset` mm further in at the top (out, below 0), turned by `turn` rad
    about the origin up there; half of `height` above and below z = 0. Sides stay flat where nothing is turned; corners
    are mitred. inset: less than `deepest`.
    """
    turned = turned_rings(rings)
    if inset == 0 and turn == 0:
        return extruded(turned, -height / 2, height / 2)
    speeds = [mitres(ring) for ring in turned]
    top = [ring + inset * speed for ring, speed in zip(turned, speeds, strict=True)]
    if inset == 0 or _alike(turned, top):
        return _lofted(turned, speeds, height, inset, turn)
    solid = _wedged(turned, height, inset)
    if turn == 0:
        return mesh_of(solid)
    reach = max(float(np.hypot(*ring.T).max()) for ring in (*turned, *top))
    return _twisted(solid, height, max(reach * TURN_STEP, reach / 24, height / 64), turn)


def _twisted(solid: Manifold, height: float, fine: float, turn: float) -> Mesh:
    """A solid turned about the z axis as it rises. fine: mm, how long its edges are at most across; shorter where its
    walls are so close together that they would cross.
    """
    from noble_clay.core.mesh.crossings import crossing_pairs

    for finer in FINER:
        long = fine / finer
        tall = long * _slices(turn) * finer  # so high that edges as long upward turn by a slice's turn at most

        def twist(points: Floats, tall: float = tall) -> Floats:
            x, y, z = points.T
            a = turn * (z / tall + 0.5)
            return np.column_stack([x * np.cos(a) - y * np.sin(a), x * np.sin(a) + y * np.cos(a), z * (height / tall)])

        found = mesh_of(solid.scale((1, 1, tall / height)).refine_to_length(long).warp_batch(twist))
        if len(crossing_pairs(found)) == 0:
            break
    return untangled(drawn_together(found))[0]


def _slices(turn: float) -> int:
    return max(1, math.ceil(abs(turn) / TURN_STEP))


def mitres(ring: Floats) -> Floats:
    """(n, 2) by how much each corner of a ring moves for every mm that its sides move to their left."""
    _, left = _sides(ring)
    before = np.roll(left, 1, axis=0)
    sum_ = before + left
    return sum_ / np.maximum(1 + np.einsum("ij,ij->i", before, left), UNIT)[:, None]


def _sides(ring: Floats) -> tuple[Floats, Floats]:
    """(n, 2) each: the unit vectors along the sides of a ring, and to their left."""
    along = np.roll(ring, -1, axis=0) - ring
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    return along, np.column_stack([-along[:, 1], along[:, 0]])


def _alike(low: Sequence[Floats], high: Sequence[Floats]) -> bool:
    """Whether every side of the rings above still runs as the one below, and none crosses another."""
    for a, b in zip(low, high, strict=True):
        before, after = np.roll(a, -1, axis=0) - a, np.roll(b, -1, axis=0) - b
        if np.any(np.einsum("ij,ij->i", before, after) <= 0) or signed_area(a) * signed_area(b) <= 0:
            return False
    return is_simple(high)


def _lofted(rings: Sequence[Floats], speeds: Sequence[Floats], height: float, inset: float, turn: float) -> Mesh:
    """Rings carried up, point by point."""
    steps = _slices(turn)
    if turn != 0:
        rings, speeds = _cut(rings, speeds, height / steps)
    points, speed = np.concatenate(list(rings)), np.concatenate(list(speeds))
    number = len(points)
    levels = []
    for share in np.linspace(0, 1, steps + 1):
        flat = points + share * inset * speed
        if turn != 0:
            c, s = math.cos(share * turn), math.sin(share * turn)
            flat = flat @ np.array([[c, s], [-s, c]])
        levels.append(np.column_stack([flat, np.full(number, (share - 0.5) * height)]))
    low_cap = cap_of(rings)
    high_cap = low_cap if inset == 0 else cap_of([r + inset * v for r, v in zip(rings, speeds, strict=True)])
    starts = np.cumsum([0, *(len(r) for r in rings)])[:-1]
    here = np.arange(number)
    there = here + 1
    for start, ring in zip(starts, rings, strict=True):
        there[start + len(ring) - 1] = start
    walls = [_strip(here + k * number, there + k * number, number, k if turn != 0 else None) for k in range(steps)]
    return Mesh(np.concatenate(levels), np.concatenate([low_cap[:, ::-1], high_cap + steps * number, *walls]))


def _strip(here: Ints, there: Ints, up: int, level: int | None) -> Ints:
    """Two triangles for each side; with a level, cut along the one diagonal and the other by turns, so that what a
    twisted surface gains by one it loses by the next.
    """
    rising = np.zeros(len(here), dtype=bool) if level is None else (np.arange(len(here)) + level) % 2 == 1
    first = np.where(
        rising[:, None], np.column_stack([here, there, here + up]), np.column_stack([here, there, there + up])
    )
    second = np.where(
        rising[:, None], np.column_stack([there, there + up, here + up]), np.column_stack([here, there + up, here + up])
    )
    return np.concatenate([first, second])


def _cut(rings: Sequence[Floats], speeds: Sequence[Floats], step: float) -> tuple[list[Floats], list[Floats]]:
    """Rings with their long sides cut into an even number of pieces about as long as a slice is high."""
    reach = max(float(np.hypot(*ring.T).max()) for ring in rings)
    longest = max(step, reach * TURN_STEP, 1e-9)
    cut: list[Floats] = []
    cut_speeds: list[Floats] = []
    for ring, speed in zip(rings, speeds, strict=True):
        length = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
        pieces = 2 * np.ceil(np.minimum(length / longest, MOST_PIECES) / 2).astype(np.int64)
        which = np.repeat(np.arange(len(ring)), pieces)
        share = (np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces)) / pieces[which]
        following = (which + 1) % len(ring)
        for values, kept in ((ring, cut), (speed, cut_speeds)):
            kept.append(values[which] + share[:, None] * (values[following] - values[which]))
    return cut, cut_speeds


def _wedged(rings: Sequence[Floats], height: float, inset: float) -> Manifold:
    """The outline's block less a wedge for every side, or with one: whatever vanishes or splits on the way up."""
    low, high = -height / 2, height / 2
    block = extruded(rings, low, high)
    wedges = []
    for ring in rings:
        along, left = _sides(ring)
        speed = mitres(ring)
        bend = np.einsum("ij,ij->i", np.roll(left, 1, axis=0), along)  # below 0 where the ring turns right
        # A wedge reaches to the mitre where its side grows longer, and ends square to it where that grows shorter.
        long = (bend < 0) if inset > 0 else (bend > 0)
        for i in range(len(ring)):
            j = (i + 1) % len(ring)
            a = ring[i] + inset * (speed[i] if long[i] else left[i])
            b = ring[j] + inset * (speed[j] if long[j] else left[i])
            corners = [(*ring[i], low), (*ring[j], low), (*ring[i], high), (*ring[j], high), (*a, high), (*b, high)]
            wedges.append(Manifold.hull_points(np.array(corners)))
    whole = union_of(wedges)
    mesh = manifold_of(block)
    # Where a hole closes its sides meet, and leave folds of no volume between them.
    return tidied(mesh - whole if inset > 0 else mesh + whole)
