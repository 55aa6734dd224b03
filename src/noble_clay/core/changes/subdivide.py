"""Subdivide: more triangles, to the same shape or a rounder one."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from noble_clay.core.changes.base import ShapeChange
from noble_clay.core.changes.quads import quad_subdivided
from noble_clay.core.field_kinds import Words
from noble_clay.core.fields import IsNumber
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh

Way = Annotated[Literal["finer", "rounder", "quads"], Words({"finer": "only finer", "quads": "rounder, by faces"})]


class Subdivide(ShapeChange):
    """Each step makes four triangles of one.

    finer: each triangle split at the middles of its edges, the shape unchanged. rounder: the same, and every vertex
    moved by Loop's rule (Loop 1987). quads: rounder by the rule of Catmull & Clark (1978) on the faces as they are
    seen, two triangles in one plane being one.
    """

    label: ClassVar[str] = "Subdivide"
    summary: ClassVar[str] = "more triangles: only finer, or rounder"
    sample: ClassVar[dict[str, Any]] = {"steps": 1, "way": "rounder"}
    may_cross: ClassVar[bool] = True

    kind: Literal["subdivide"]
    steps: Annotated[int, Field(ge=1, le=8, title="Steps", description="each makes four triangles of one"), IsNumber]
    way: Annotated[Way, Field(title="Way")] = "rounder"

    def made(self, solid: Solid) -> Solid:
        mesh, part_of, names = solid.mesh_with_parts()
        if self.way == "quads":
            found, origin = quad_subdivided(mesh, self.steps)
            return Solid.from_parts(found, part_of[origin], names)
        for _ in range(self.steps):
            mesh, part_of = _divided(mesh, part_of, self.way == "rounder")
        return Solid.from_parts(mesh, part_of, names)

    def triangles_after(self, before: int) -> int:
        return before * 4**self.steps * (2 if self.way == "quads" else 1)


def _divided(mesh: Mesh, part_of: NDArray[np.int64], rounder: bool) -> tuple[Mesh, NDArray[np.int64]]:
    import igl

    divide = igl.loop if rounder else igl.upsample
    vertices, triangles = divide(mesh.vertices, mesh.triangles)
    # The four triangles of each one follow each other by where their middles lie: found by the inner one's corners.
    return Mesh(vertices, triangles.astype(np.int64)), _quarters(part_of, len(triangles))


def _quarters(part_of: NDArray[np.int64], number: int) -> NDArray[np.int64]:
    assert number == 4 * len(part_of)
    return np.repeat(part_of, 4)
