"""Whether rings in the plane keep clear of themselves and of each other, and where they do not."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from noble_clay.core.mesh.mesh import Floats

FEW = 2_000
"""Points of rings of which it is told where they cross."""


def is_simple(rings: Sequence[Floats]) -> bool:
    """Whether rings (n, 2) neither cross nor touch themselves or each other."""
    from shapely import is_simple, linestrings, multilinestrings

    return bool(is_simple(multilinestrings([linestrings(np.concatenate([ring, ring[:1]])) for ring in rings])))


def check_simple(rings: Sequence[Floats], what: str) -> None:
    """Raise ValueError, its words beginning with `what`, where rings (n, 2) cross or touch themselves or each other."""
    if is_simple(rings):
        return
    from shapely import MultiPolygon, Polygon
    from shapely.validation import explain_validity

    where = ""
    if sum(len(ring) for ring in rings) <= FEW:
        for shape in (*(Polygon(ring) for ring in rings), MultiPolygon([Polygon(ring) for ring in rings])):
            found = re.search(r"\[(\S+) (\S+)\]", explain_validity(shape))
            if found:
                where = f" near ({float(found[1]):.4g}, {float(found[2]):.4g})"
                break
    raise ValueError(f"{what} must not cross or touch itself; it does{where}")
