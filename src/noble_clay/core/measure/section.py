"""What a plane cuts of a joined skin: the cut face, its area and outline, and a hatching that tells the parts apart."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from noble_clay.core.mesh.mesh import Floats, Ints, Mesh

HATCHES = 48
"""Lines of hatching over a cut face, about."""

SAMPLES = 3
"""Places looked at along a line of hatching, for each gap between two."""

LEAST_GAP_MM = 0.02
DIRECTIONS = np.radians([45.0, 135.0])
"""Parts of even index are hatched one way, of odd the other: so neighbours mostly differ (common practice)."""


@dataclass(frozen=True)
class Section:
    """area: mm². outline: (k, 2, 3) mm, its stretches, the solid to their left as seen against the normal; length: of
    all of them, mm. triangles: (t, 3, 3) mm, of the cut face. hatching: (h, 2, 3) mm; hatched: (h,) the part of each
    line, that of the outline nearest to it.
    """

    area: float
    length: float
    outline: Floats
    triangles: Floats
    hatching: Floats
    hatched: Ints


def section(mesh: Mesh, part_of: Ints, normal: Floats, at: float) -> Section:
    """Of a closed mesh, where a plane cuts it: across `normal`, (3,) of length 1, `at` mm along it from the origin.

    part_of: (m,) the part of every triangle. A point on the plane counts as before it, so that what only touches the
    plane from behind is not cut. Area and length are exact for the mesh (the shoelace formula).
    """
    frame = _frame(normal)
    points, starts, ends, parts = _stretches(mesh, part_of, normal, at, frame)
    a, b = points[starts], points[ends]
    area = float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2)
    lengths = np.linalg.norm(b - a, axis=1)
    hatching, hatched = _hatching(a, b, lengths, parts)

    def placed(flat: Floats) -> Floats:
        found: Floats = flat @ frame + at * normal
        return found

    return Section(
        area=max(area, 0.0),
        length=float(lengths.sum()),
        outline=placed(np.stack([a, b], axis=1)),
        triangles=placed(_triangles(points, starts, ends)),
        hatching=placed(hatching),
        hatched=hatched,
    )


def _frame(normal: Floats) -> Floats:
    """(2, 3): two ways across a normal, at right angles to each other."""
    across = np.eye(3)[int(np.argmin(np.abs(normal)))]
    u = np.cross(across, normal)
    u /= np.linalg.norm(u)
    return np.stack([u, np.cross(normal, u)])


def _stretches(mesh: Mesh, part_of: Ints, normal: Floats, at: float, frame: Floats) -> tuple[Floats, Ints, Ints, Ints]:
    """The points of the outline, (n, 2) in the frame; every stretch's two ends, the solid to its left; its part."""
    height = mesh.vertices @ normal - at
    before = height >= 0
    corners = before[mesh.triangles]
    count = corners.sum(axis=1)
    crossing = np.flatnonzero((count == 1) | (count == 2))
    one = count[crossing] == 1
    # Turned so that the corner that stands alone on its side of the plane comes first.
    alone = np.argmax(corners[crossing] == one[:, None], axis=1)
    a, b, c = (mesh.triangles[crossing, (alone + k) % 3] for k in range(3))
    edges = np.stack([np.stack([a, b], axis=1), np.stack([a, c], axis=1)])
    edges.sort(axis=-1)  # an edge is the same point for both its triangles
    keys, which = np.unique(edges[..., 0].astype(np.int64) * len(height) + edges[..., 1], return_inverse=True)
    which = which.reshape(2, -1)
    p, q = keys // len(height), keys % len(height)
    share = height[p] / (height[p] - height[q])
    points = (mesh.vertices[p] + share[:, None] * (mesh.vertices[q] - mesh.vertices[p])) @ frame.T
    starts: Ints = np.where(one, which[0], which[1])
    ends: Ints = np.where(one, which[1], which[0])
    return points, starts, ends, part_of[crossing].astype(np.int64)


def _triangles(points: Floats, starts: Ints, ends: Ints) -> Floats:
    """(t, 3, 2) of what is inside the outline."""
    from manifold3d import triangulate

    rings = list(_rings(starts, ends))
    if not rings:
        return np.empty((0, 3, 2))
    corners = points[np.concatenate(rings)]
    found: Floats = corners[triangulate([points[ring] for ring in rings])]
    return found


def _rings(starts: Ints, ends: Ints) -> Iterator[Ints]:
    """The stretches, one after the other, until each comes back to where it began."""
    follower = dict(zip(starts.tolist(), ends.tolist(), strict=True))
    while follower:
        start, at = follower.popitem()
        ring = [start]
        while at != start:
            ring.append(at)
            at = follower.pop(at)
        yield np.array(ring)


def _hatching(a: Floats, b: Floats, lengths: Floats, parts: Ints) -> tuple[Floats, Ints]:
    """(h, 2, 2) lines between outline stretches from a to b, (s, 2), and the part of each."""
    from scipy.spatial import cKDTree

    if len(a) == 0:
        return np.empty((0, 2, 2)), np.empty(0, dtype=np.int64)
    gap = max(float(np.ptp(np.concatenate([a, b]), axis=0).max()) / HATCHES, LEAST_GAP_MM)
    often = np.ceil(lengths / (gap / SAMPLES)).astype(np.int64) + 1
    of = np.repeat(np.arange(len(a)), often)
    share = (np.arange(len(of)) - np.repeat(np.cumsum(often) - often, often) + 0.5) / np.repeat(often, often)
    near = cKDTree(a[of] + share[:, None] * (b - a)[of])
    lines, owners = [], []
    for odd, angle in enumerate(DIRECTIONS):
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        level, left, right = _spans(a @ turn.T, b @ turn.T, gap)
        often = np.maximum(np.ceil((right - left) / (gap / SAMPLES)).astype(np.int64), 1)
        span = np.repeat(np.arange(len(level)), often)
        step = np.arange(len(span)) - np.repeat(np.cumsum(often) - often, often)
        width = (right - left)[span] / often[span]
        middle = np.stack([left[span] + (step + 0.5) * width, level[span]], axis=1) @ turn
        part = parts[of[near.query(middle)[1]]]
        # One line as long as neither its span ends nor its part changes.
        begins = np.flatnonzero(np.concatenate([[True], (span[1:] != span[:-1]) | (part[1:] != part[:-1])]))
        lasts = np.concatenate([begins[1:], [len(span)]]) - 1
        mine = part[begins] % 2 == odd
        begins, lasts = begins[mine], lasts[mine]
        ends = [(begins, step[begins]), (lasts, step[lasts] + 1)]
        flat = [np.stack([left[span[i]] + n * width[i], level[span[i]]], axis=1) @ turn for i, n in ends]
        lines.append(np.stack(flat, axis=1))
        owners.append(part[begins])
    return np.concatenate(lines), np.concatenate(owners)


def _spans(a: Floats, b: Floats, gap: float) -> tuple[Floats, Floats, Floats]:
    """Where level lines, a gap apart, are inside an outline of stretches from a to b: height, from where, to where."""
    low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    first, last = np.ceil(low / gap), np.ceil(high / gap)  # a line at the upper end of a stretch belongs to the next
    count = (last - first).astype(np.int64)
    of = np.repeat(np.arange(len(a)), count)
    level = (first[of] + np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)) * gap
    rise = (b - a)[of, 1]
    at: Floats = a[of, 0] + (level - a[of, 1]) / rise * (b - a)[of, 0]
    order = np.lexsort([at, level])
    heights: Floats = np.asarray(level[order], dtype=np.float64)
    at = at[order]
    return heights[::2], at[::2], at[1::2]
