"""Drop inner walls: surfaces between two places that are both inside."""

from __future__ import annotations

from noble_clay.core.mend.outer_skin import sides_of_patches
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology


def drop_inner(mesh: Mesh) -> tuple[Mesh, Done]:
    """Without the patches, between edges that too many faces share, in front of and behind which is solid."""
    if not (Topology(mesh).faces_per_edge > 2).any():
        return mesh, Done("drop_inner", 0)
    patch, before, behind = sides_of_patches(mesh, mesh)
    inner = ((before > 0.5) & (behind > 0.5))[patch]
    if not inner.any() or inner.all():
        return mesh, Done("drop_inner", 0)
    return mesh.keep(~inner), Done("drop_inner", int(inner.sum()))
