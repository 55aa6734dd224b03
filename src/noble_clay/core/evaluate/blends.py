"""Joining smoothly: the exact join, and beside its seam what the smooth run adds to it or takes from it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.field.blend import fillet
from noble_clay.core.field.closed_forms import PlacedDistance
from noble_clay.core.field.nearest_parts import nearest_parts
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.distance import Distance, MeshDistance
from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.piece.models import Part
from noble_clay.core.piece.placing import place_matrix

FINENESS = 8
"""Cells of the lattice in a radius, where no fineness is given."""

NEAR_ENOUGH = 0.1
"""How far a mesh may be off the true shape, in cells of a lattice, for that shape's distance to stand for it."""

SMOOTHED = 0.02
"""How far simplifying may move the smooth run's surface, in cells."""


@dataclass(frozen=True, eq=False)
class Blending:
    """A solid with the distance to it, and how far that is off the solid's own mesh, mm."""

    solid: Solid
    distance: Distance
    error: float = 0.0

    @staticmethod
    def of(solid: Solid) -> Blending:
        return Blending(solid, MeshDistance(solid.mesh_only()))

    @staticmethod
    def of_part(part: Part, solid: Solid, cell: float) -> Blending:
        """A placed part with its distance: in closed form where it has one that its mesh is near enough to."""
        known = part.primitive.distance() if part.primitive and not part.copies and not part.changes else None
        if known is not None and len(set(part.place.scale)) == 1:
            distance, error = known[0], known[1] * part.place.scale[0]
            if error <= NEAR_ENOUGH * cell:
                return Blending(solid, PlacedDistance(distance, place_matrix(part.place, part.flip)), error)
        return Blending.of(solid)


def blended(op: str, body: Blending, tool: Blending, radius: float, cell: float) -> Solid:
    """`tool` joined to `body` by `op`, run together over `radius` mm, the lattice's cells `cell` mm wide.

    Raises MeshError when the lattice is too fine.
    """
    exact = boolean(op, [body.solid, tool.solid])
    run = _run(op, body, tool, radius, cell)
    if run.empty:
        return exact
    # The run's planes are facets of something round: nothing is meant to meet them.
    together = boolean("union" if op == "union" else "difference", [exact, run])
    return Solid(together.manifold, together.labels, exact.planes, exact.has_coincident_faces)


def _run(op: str, body: Blending, tool: Blending, radius: float, cell: float) -> Solid:
    """What a smooth union adds; for a difference or intersection, what rounding its edge takes away."""
    # A ∩ B is what the union of their outsides leaves over, and A − B that of the outside of A with B.
    sign_a, sign_b = {"union": (1, 1), "difference": (-1, 1), "intersection": (-1, -1)}[op]
    low_a, high_a = body.solid.bounds
    low_b, high_b = tool.solid.bounds
    reach = radius + 4 * cell
    low, high = np.maximum(low_a, low_b) - reach, np.minimum(high_a, high_b) + reach
    if np.any(high <= low):
        return Solid.nothing()

    def to_a(points: Floats) -> Floats:
        return body.distance(points) * sign_a

    def to_b(points: Floats) -> Floats:
        return tool.distance(points) * sign_b

    mesh = fillet(to_a, to_b, radius, cell, low, high, max(body.error, tool.error))
    if len(mesh.triangles) == 0:
        return Solid.nothing()
    raw = Solid.from_parts(mesh, np.zeros(len(mesh.triangles), dtype=np.int64), ("run",), planes=Planes.none())
    mesh = Solid(raw.manifold.simplify(SMOOTHED * cell), raw.labels, raw.planes).mesh_only()
    middles = mesh.corners.mean(axis=1)
    nearer_tool = np.abs(to_b(middles)) < np.abs(to_a(middles))
    names = (*body.solid.part_names, *tool.solid.part_names)
    part_of = np.zeros(len(middles), dtype=np.int64)
    for blending, mine, start in ((body, ~nearer_tool, 0), (tool, nearer_tool, len(body.solid.part_names))):
        part_of[mine] = start + nearest_parts(blending.solid, middles[mine])
    return Solid.from_parts(mesh, part_of, names, planes=Planes.none())


def default_cell(radius: float, body: Solid, tool: Solid) -> float:
    """The fineness that a blend has where none is given, mm: fine for its radius, but not too fine for its seam."""
    spans = [high - low for low, high in (body.bounds, tool.bounds)]
    return max(radius / FINENESS, float(min(s.max() for s in spans)) / 300)


def check_radius(radius: float, body: Solid, tool: Solid) -> None:
    """Raises MeshError for a radius that is larger than the parts it runs together."""
    most = min(float((high - low).max()) for low, high in (body.bounds, tool.bounds))
    if radius > most:
        raise MeshError(f"blend must be at most {most:.4g} mm, the longest side of the smaller of the two parts")
