"""Polish: smoothing that keeps the volume."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from noble_clay.core.changes.base import ShapeChange, with_vertices
from noble_clay.core.fields import IsNumber
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mass import signed_volumes
from noble_clay.core.mesh.mesh import Floats, Mesh, average_of_neighbours

INFLATE = -1.06
"""The second step of each round, as a share of the first: what smoothing shrinks is let out again (Taubin 1995)."""


FINE = 40
"""Edges along the longest side of a part at least, before it is smoothed: there must be points to move."""


class Polish(ShapeChange):
    """Each round draws every vertex towards its neighbours and back out; what volume is lost is then given back."""

    label: ClassVar[str] = "Polish"
    summary: ClassVar[str] = "bumps and ridges smoothed, the volume kept"
    sample: ClassVar[dict[str, Any]] = {"rounds": 8}
    may_cross: ClassVar[bool] = True

    kind: Literal["polish"]
    rounds: Annotated[int, Field(ge=1, le=200, title="Rounds"), IsNumber]
    strength: Annotated[float, Field(gt=0, le=0.9, title="Strength"), IsNumber] = 0.5

    def made(self, solid: Solid) -> Solid:
        fine = solid.manifold.refine_to_length(float((solid.bounds[1] - solid.bounds[0]).max()) / FINE)
        mesh, part_of, _ = Solid(fine, solid.labels, solid.planes).mesh_with_parts()
        points = mesh.vertices.copy()
        average = average_of_neighbours(mesh)
        for _ in range(self.rounds):
            for share in (self.strength, self.strength * INFLATE):
                points += share * (average @ points - points)
        return with_vertices(solid, mesh, part_of, with_volume(mesh, points, solid.volume))


def with_volume(mesh: Mesh, points: Floats, volume: float) -> Floats:
    """The points (n, 3) scaled about their middle so that the mesh encloses `volume`, mm³."""
    now = float(signed_volumes(Mesh(points, mesh.triangles)).sum())
    if now <= 0:
        return points
    middle = points.mean(axis=0)
    found: Floats = middle + (points - middle) * (volume / now) ** (1 / 3)
    return found
