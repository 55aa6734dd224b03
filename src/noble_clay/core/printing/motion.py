"""How long a head takes along a path: full speed where it can, slower at corners, never faster than it can speed up."""

from __future__ import annotations

import math

import numpy as np

from noble_clay.core.mesh.mesh import Floats


def path_seconds(points: Floats, speed: float, acceleration: float, corner: float) -> float:
    """Along a path (n, 2) of straight lines that begins and ends at rest. speed: mm/s. acceleration: mm/s². corner: mm
    by which a corner may be thought to be cut: it is taken as fast as a circle that cuts it so far allows.

    Every line is travelled with the highest speed that its ends, and all before and after, leave it: a trapezoid.
    """
    steps = np.diff(points, axis=0)
    length = np.hypot(steps[:, 0], steps[:, 1])
    steps, length = steps[length > 0], length[length > 0]
    if len(length) == 0:
        return 0.0
    unit = steps / length[:, None]
    # With t the turn, a circle that touches both lines and passes so near to their corner has this radius.
    half = np.sqrt(np.clip((1 + np.einsum("ij,ij->i", unit[:-1], unit[1:])) / 2, 0, 1))
    radius = corner * half / np.maximum(1 - half, 1e-12)
    limit = np.concatenate([[0.0], np.minimum(speed**2, acceleration * radius), [0.0]])
    # Reached from any point before, and able to slow down for any after: squares of speeds grow by 2 a with the way.
    way = 2 * acceleration * np.concatenate([[0.0], np.cumsum(length)])
    ahead = np.minimum.accumulate(limit - way) + way
    back = np.minimum.accumulate((limit + way)[::-1])[::-1] - way
    square = np.minimum(ahead, back)
    start, end = square[:-1], square[1:]
    peak = np.minimum(speed**2, (start + end) / 2 + acceleration * length)
    top = np.sqrt(peak)
    ramps = (2 * top - np.sqrt(start) - np.sqrt(end)) / acceleration
    even = (length - (2 * peak - start - end) / (2 * acceleration)) / top
    return float((ramps + np.maximum(even, 0)).sum())


def line_seconds(length: float, speed: float, acceleration: float) -> float:
    """Along one straight line, from rest to rest."""
    if length <= 0:
        return 0.0
    if length < speed**2 / acceleration:
        return 2 * math.sqrt(length / acceleration)
    return length / speed + speed / acceleration
