"""How far the flat sides of a round primitive are off the true curve, and how many sides keep them so near."""

from __future__ import annotations

import math

from noble_clay.core.primitives.base import Primitive, roundness_error

FEWEST, MOST = 3, 512
"""Sides of a full circle, as the piece format allows them."""

_RADII = ("radius", "bottom_radius", "top_radius", "ball_radius")


def widest_radius(primitive: Primitive) -> float:
    """mm: of the widest circle or ellipse in the primitive; 0 where none of its fields is a radius."""
    found = [float(getattr(primitive, name, 0.0)) for name in _RADII]
    found.append(float(getattr(primitive, "width", 0.0)) / 2)
    found.extend(float(r) for r in getattr(primitive, "radii", ()))
    found.append(float(getattr(primitive, "ring_radius", 0.0)) + float(getattr(primitive, "tube_radius", 0.0)))
    return max(found)


def off_true(primitive: Primitive) -> float | None:
    """mm: how far its sides are off the true curve at most; None for a primitive that has no `facets`."""
    facets = getattr(primitive, "facets", None)
    return None if facets is None else roundness_error(widest_radius(primitive), int(facets))


def sides_for(primitive: Primitive, off: float) -> int:
    """The fewest sides that stay within `off` mm of the true curve, of those that are allowed."""
    radius = widest_radius(primitive)
    if radius <= 0 or off <= 0:
        return MOST
    share = 1 - off / radius
    # A little slack, so that the sides of a circle give themselves back in spite of rounding.
    sides = math.ceil(math.pi / math.acos(max(-1.0, share)) - 1e-6) if share > -1 else FEWEST
    return min(MOST, max(FEWEST, sides))
