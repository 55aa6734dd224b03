"""A round primitive stretched along its axis and about it, by its own fields."""

from __future__ import annotations

from noble_clay.core.primitives.base import Factors, Primitive


def stretch_round(
    primitive: Primitive, factors: Factors, radii: tuple[str, ...], heights: tuple[str, ...]
) -> Primitive | None:
    """Scale the fields named: `radii` by the common x and y factor, `heights` by z; None when x and y differ."""
    fx, fy, fz = factors
    if fx != fy:
        return None
    values = primitive.model_dump()
    return primitive.updated(**{n: values[n] * fx for n in radii}, **{n: values[n] * fz for n in heights})
