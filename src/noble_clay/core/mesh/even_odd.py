"""What rings in the plane enclose: inside of an odd number of them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from noble_clay.core.mesh.mesh import Floats


def enclosed(rings: Iterable[Floats]) -> Any:
    """A shapely area of rings (n, 2), whichever way they run."""
    import shapely

    area = shapely.Polygon()
    for ring in rings:
        area = area.symmetric_difference(shapely.Polygon(ring))
    return area
