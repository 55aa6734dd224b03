"""Smooth curves through points, in the plane and in space: centripetal Catmull-Rom."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import SOME


def smooth_curve(
    points: Floats,
    steps: int,
    closed: bool = False,
    sharp: Sequence[int] = (),
    ends: tuple[Floats, Floats] | None = None,
) -> Floats:
    """(k, d) points of the centripetal Catmull-Rom curve through points (n, d), `steps` to a span; the points are among
    them, a closed curve's first is not repeated.

    sharp: indices of points where the curve has a corner: there it ends and begins anew. ends: the points before the
    first and after the last of an open curve; left out, the neighbours of each mirrored in it (Yuksel et al. 2011).
    """
    corners = sorted({i for i in sharp if 0 <= i < len(points)})
    if closed and not corners:
        around = np.concatenate([points[-1:], points, points[:2]])
        return _spans(around, steps)[:-1]
    if closed:  # begun at its first corner, it is open, and comes back there
        turned = np.roll(points, -corners[0], axis=0)
        there = [i - corners[0] for i in corners]
        found = smooth_curve(np.concatenate([turned, turned[:1]]), steps, sharp=there)[:-1]
        return np.roll(found, corners[0] * steps, axis=0)
    last = len(points) - 1
    stops = [0, *(i for i in corners if 0 < i < last), last]
    runs = []
    for a, b in zip(stops, stops[1:], strict=False):
        run = points[a : b + 1]
        before, after = 2 * run[0] - run[1], 2 * run[-1] - run[-2]
        if ends is not None and a == 0:
            before = ends[0]
        if ends is not None and b == last:
            after = ends[1]
        runs.append(_spans(np.concatenate([before[None], run, after[None]]), steps)[a > 0 :])
    return np.concatenate(runs)


def _spans(points: Floats, steps: int) -> Floats:
    """The curve from the second to the last but one of `points` (n, d), both among what it gives."""
    p0, p1, p2, p3 = points[:-3], points[1:-2], points[2:-1], points[3:]
    gaps = [
        np.maximum(np.sqrt(np.linalg.norm(b - a, axis=1)), SOME)[:, None, None]
        for a, b in ((p0, p1), (p1, p2), (p2, p3))
    ]
    t1 = gaps[0]
    t2 = t1 + gaps[1]
    t3 = t2 + gaps[2]
    t = t1 + (t2 - t1) * np.linspace(0, 1, steps, endpoint=False)[None, :, None]
    p0, p1, p2, p3 = (p[:, None] for p in (p0, p1, p2, p3))
    # Barry and Goldman's pyramid.
    a1 = (t1 - t) / t1 * p0 + t / t1 * p1
    a2 = (t2 - t) / (t2 - t1) * p1 + (t - t1) / (t2 - t1) * p2
    a3 = (t3 - t) / (t3 - t2) * p2 + (t - t2) / (t3 - t2) * p3
    b1 = (t2 - t) / t2 * a1 + t / t2 * a2
    b2 = (t3 - t) / (t3 - t1) * a2 + (t - t1) / (t3 - t1) * a3
    found = ((t2 - t) / (t2 - t1) * b1 + (t - t1) / (t2 - t1) * b2).copy()
    found[:, 0] = p1[:, 0]  # to the bit
    return np.concatenate([found.reshape(-1, points.shape[1]), points[-2:-1]])


def off_curve(coarse: Floats, fine: Floats, closed: bool = False) -> float:
    """How far the chords of `coarse` are off the curve at most, mm, by the points of `fine`, which has each of its
    points and as many more between each two.
    """
    spans = len(coarse) if closed else len(coarse) - 1
    times = max(1, (len(fine) if closed else len(fine) - 1) // spans)
    starts, ends = coarse[:spans], np.roll(coarse, -1, axis=0)[:spans]
    along = ends - starts
    inner = fine[: spans * times].reshape(spans, times, -1)
    share = (
        np.einsum("ijk,ik->ij", inner - starts[:, None], along)
        / np.maximum(np.einsum("ij,ij->i", along, along), SOME)[:, None]
    )
    away = inner - starts[:, None] - np.clip(share, 0, 1)[..., None] * along[:, None]
    return float(np.sqrt(np.einsum("ijk,ijk->ij", away, away)).max())
