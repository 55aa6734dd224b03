"""The surface that runs at a distance from a mesh: outside it, or inside."""

from __future__ import annotations

from noble_clay.core.errors import MeshError
from noble_clay.core.field.band import Band
from noble_clay.core.field.sharp import sharpened
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.half_edges import unpaired
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology


def offset_surface(mesh: Mesh, by: float, cell: float, self_intersecting: bool = False) -> Mesh:
    """The closed surface of all points `by` mm from a closed mesh, negative being inside; empty where there is none.

    cell: of the lattice, mm. self_intersecting: the mesh is an offset itself, and may run through itself where it was
    sharpened.
    Raises MeshError when the lattice is too fine, or too coarse to close.
    """
    bounds = mesh.bounds
    if bounds is None:
        return mesh
    distance = MeshDistance(mesh, self_intersecting)
    room = max(by, 0.0) + 2 * cell
    band = Band.where([(distance, by, by)], bounds[0] - room, bounds[1] + room, cell)
    if len(band.points) == 0:
        return Mesh.empty()
    found = band.surface(band.sampled(distance, by, cell))
    if len(found.triangles) == 0:
        return found
    if not Topology(found).is_manifold and unpaired(found.triangles, len(found.vertices)).any():
        raise MeshError(f"fineness {cell:.3g} mm is too coarse here; take a finer one")
    # What lies inside keeps the edges that stand out, what lies outside those that lie in; the others become round.
    return sharpened(found, distance.rising(found.vertices)[1], cell, bounds[0] - room)[0]
