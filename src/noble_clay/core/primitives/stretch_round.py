"""A round primitive stretched along its axis and about it, by its own fields; or across, to an oval."""

from __future__ import annotations

from collections.abc import Sequence

from noble_clay.core.field.forms import Form
from noble_clay.core.primitives.base import Factors, Primitive, circle
from noble_clay.core.primitives.flat_form import flat_distance


def stretch_round(
    primitive: Primitive, factors: Factors, radii: tuple[str, ...], heights: tuple[str, ...]
) -> Primitive | None:
    """Scale the fields named: `radii` by the common x and y factor, `heights` by z; None when x and y differ."""
    fx, fy, fz = factors
    if fx != fy:
        return None
    values = primitive.model_dump()
    return primitive.updated(**{n: values[n] * fx for n in radii}, **{n: values[n] * fz for n in heights})


def oval_distance(radii: Sequence[float], facets: int, height: float, factors: Factors) -> Form | None:
    """The distance to an upright cylinder, or what is between several, of flat sides, larger by factors along x, y, z;
    None for too many sides.
    """
    fx, fy, fz = factors
    return flat_distance([circle(facets) * (radius * fx, radius * fy) for radius in radii], height * fz)
