"""Crescent: a disc less a disc."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from noble_clay.core.fields import MIN_SIZE, MOST_FACETS, Facets, Length, LengthOrZero
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.primitives.base import Factors, Primitive, arc
from noble_clay.core.primitives.flat_form import Height, RoundFlatForm, centred
from noble_clay.core.primitives.simple import check_simple, is_simple
from noble_clay.core.primitives.stretch_round import stretch_round

TOO_LITTLE = "bite_radius leaves so little that its edge"


class Crescent(RoundFlatForm):
    label: ClassVar[str] = "Crescent"
    family: ClassVar[str] = "Flat"
    summary: ClassVar[str] = "a disc with a round bite: moons, claws, smiles"
    sample: ClassVar[dict[str, Any]] = {"radius": 12, "bite_radius": 10, "offset": 6, "height": 4}

    kind: Literal["crescent"]
    radius: Annotated[Length, Field(title="Radius")]
    bite_radius: Annotated[Length, Field(title="Bite radius", description="of the disc that is taken away")]
    offset: Annotated[LengthOrZero, Field(title="Offset", description="of the bite's middle, towards +x")]
    height: Height
    facets: Facets = 64

    @model_validator(mode="after")
    def _one_region_is_left(self) -> Crescent:
        r, bite = self.radius, self.bite_radius
        if self.offset >= r + bite - MIN_SIZE:
            raise ValueError(f"offset must be below {r + bite - MIN_SIZE:g} mm, or the bite takes nothing away")
        if bite >= r + self.offset - MIN_SIZE:
            raise ValueError(f"bite_radius must be below {r + self.offset - MIN_SIZE:g} mm, or nothing is left")
        if abs(self.offset + bite - r) < MIN_SIZE:
            raise ValueError(
                f"bite_radius must not be {r - self.offset:g} mm: the bite would touch the rim in a point, "
                "where what is left hangs together by nothing"
            )
        self.rings()
        return self

    def rings(self) -> list[Floats]:
        return _rings(self.radius, self.bite_radius, self.offset, self.facets)

    def widest_radius(self) -> float:
        return max(self.radius, self.bite_radius)

    def stretched(self, factors: Factors) -> Primitive | None:
        return stretch_round(self, factors, radii=("radius", "bite_radius", "offset"), heights=("height",))


@lru_cache(maxsize=64)
def _rings(r: float, bite: float, x: float, facets: int) -> list[Floats]:
    """Raises ValueError for so little that is left that its edge crosses itself."""
    if x + bite < r:  # the bite is a hole
        rings = centred(_circle(r, facets), _circle(bite, facets) + [x, 0.0])
        check_simple(rings, TOO_LITTLE)
        return rings
    tip_x = (r * r - bite * bite + x * x) / (2 * x)
    tip_y = math.sqrt(max(0.0, r * r - tip_x * tip_x))
    outer = math.degrees(math.atan2(tip_y, tip_x))
    inner = math.degrees(math.atan2(tip_y, tip_x - x))
    while True:
        rim = _through(outer, 360 - outer, facets) * r
        edge = _through(360 - inner, inner, facets)[1:-1] * bite + [x, 0.0]
        rings = centred(np.concatenate([rim, edge]))
        if is_simple(rings):
            return rings
        if facets > MOST_FACETS:
            check_simple(rings, TOO_LITTLE)
        facets *= 2  # the sides of one circle cross those of the other where little is left between them


def _circle(radius: float, facets: int) -> Floats:
    return _through(0, 360, facets)[:-1] * radius


def _through(start: float, end: float, facets: int) -> Floats:
    """The arc from `start` to `end` degrees, between 0 and 360, with the points between them that lie on the axes."""
    between = [a for a in (90, 180, 270) if min(start, end) + 1e-9 < a < max(start, end) - 1e-9]
    stops = [start, *(between if end > start else between[::-1]), end]
    parts = [arc(a, b, facets)[i > 0 :] for i, (a, b) in enumerate(zip(stops, stops[1:], strict=False))]
    return np.concatenate(parts)
