"""Smooth numbers through numbers, which never swing beyond them."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.mesh.tolerances import SOME


def monotone_cubic(knots: Floats, values: Floats, at: Floats, closed: bool = False) -> tuple[Floats, Floats]:
    """(k,) values and (k,) slopes at `at` of the piecewise cubic through `values` (n,) at `knots`, which rises and
    falls only where they do (Fritsch and Butland 1984).

    knots: (n,) rising; of a closed one (n + 1,), the last where the first value comes again.
    """
    if closed:
        values = np.append(values, values[0])
    step, rise = np.diff(knots), np.diff(values) / np.diff(knots)
    slopes = np.zeros(len(values))
    before, after = rise[:-1], rise[1:]
    slopes[1:-1] = _between(before, after, step[:-1], step[1:])
    if closed:
        slopes[0] = slopes[-1] = _between(rise[-1:], rise[:1], step[-1:], step[:1])[0]
    elif len(rise) == 1:
        slopes[:] = rise[0]
    else:
        slopes[0] = _end(rise[0], rise[1], step[0], step[1])
        slopes[-1] = _end(rise[-1], rise[-2], step[-1], step[-2])
    k = np.clip(np.searchsorted(knots, at, side="right") - 1, 0, len(step) - 1)
    h, t = step[k], (at - knots[k]) / step[k]
    found = (
        values[k] * (1 + 2 * t) * (1 - t) ** 2
        + slopes[k] * h * t * (1 - t) ** 2
        + values[k + 1] * t * t * (3 - 2 * t)
        + slopes[k + 1] * h * t * t * (t - 1)
    )
    slope = 6 * t * (1 - t) * rise[k] + slopes[k] * (1 - t) * (1 - 3 * t) + slopes[k + 1] * t * (3 * t - 2)
    return found, slope


def _between(before: Floats, after: Floats, step: Floats, following: Floats) -> Floats:
    """The weighted harmonic mean of two rises; 0 where they part."""
    w1, w2 = 2 * following + step, following + 2 * step
    same = before * after > 0
    mean = (w1 + w2) / (w1 / np.where(same, before, 1.0) + w2 / np.where(same, after, 1.0))
    found: Floats = np.where(same, mean, 0.0)
    return found


def _end(rise: float, following: float, step: float, next_step: float) -> float:
    """A slope at an end by three points, kept from overshooting."""
    slope = ((2 * step + next_step) * rise - step * following) / max(step + next_step, SOME)
    if slope * rise <= 0:
        return 0.0
    if rise * following <= 0 and abs(slope) > 3 * abs(rise):
        return 3 * rise
    return float(slope)
