"""Simplify: fewer triangles."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.field_kinds import Either
from noble_clay.core.fields import IsNumber, Length
from noble_clay.core.kernel.solid import Solid

SEARCH = 24
"""Halvings of the tolerance when a count is looked for."""


class Simplify(ShapeChange):
    """Edges are collapsed while the surface moves less than `tolerance`; or so far that `count` triangles are left."""

    label: ClassVar[str] = "Simplify"
    summary: ClassVar[str] = "fewer triangles, the surface nearly where it was"
    sample: ClassVar[dict[str, Any]] = {"tolerance": 0.05}
    may_cross: ClassVar[bool] = True
    keeps_box: ClassVar[bool] = True

    kind: Literal["simplify"]
    tolerance: Annotated[Length | None, Field(title="Tolerance", description="how far it may move")] = None
    count: Annotated[
        Annotated[int, Field(ge=4, le=10_000_000), IsNumber] | None,
        Field(title="Triangles", description="at most so many"),
    ] = None

    either: ClassVar[Either] = Either(
        starts={"tolerance": 0.05, "count": 2000},
        words={"tolerance": "to a tolerance instead", "count": "to a count instead"},
    )

    @model_validator(mode="after")
    def _one_of_two(self) -> Simplify:
        if (self.tolerance is None) == (self.count is None):
            raise ValueError("tolerance or count must be given, and not both")
        return self

    def made(self, solid: Solid) -> Solid:
        found = self._to_count(solid) if self.tolerance is None else solid.manifold.simplify(self.tolerance)
        # A tolerance as large as the part leaves nothing: then the part is too small for it and stays as it is.
        return solid if found.is_empty() else Solid(found, solid.labels, solid.planes, solid.has_coincident_faces)

    def _to_count(self, solid: Solid) -> Any:
        assert self.count is not None
        if solid.triangles <= self.count:
            return solid.manifold
        low, high = 0.0, float((solid.bounds[1] - solid.bounds[0]).max()) / 2
        best = solid.manifold
        for _ in range(SEARCH):
            middle = (low + high) / 2
            found = solid.manifold.simplify(middle)
            if found.is_empty() or found.num_tri() < 4:
                high = middle
            elif found.num_tri() > self.count:
                low = middle
            else:
                best, high = found, middle
        return best
