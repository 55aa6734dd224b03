"""Room within an area of a layer."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import CrossSection, JoinType

HALVINGS = 12


def thickest(area: CrossSection) -> float:
    """The radius of about the largest circle that goes into an area, mm."""
    low, high = 0.0, math.sqrt(max(area.area(), 0.0) / math.pi)
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if area.offset(-middle, JoinType.Round).is_empty():
            high = middle
        else:
            low = middle
    return low


def spot_within(area: CrossSection, radius: float) -> tuple[float, float]:
    """The middle of a circle of about that radius that lies in the area: `thickest` of it, or less."""
    room = area.offset(-0.98 * radius, JoinType.Round)
    x, y = np.array(max(room.decompose(), key=CrossSection.area).to_polygons()[0]).mean(axis=0)
    return float(x), float(y)
