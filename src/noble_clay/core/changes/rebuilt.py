"""A surface built anew from a solid: every triangle takes the part of what was nearest, and the size of lattices."""

from __future__ import annotations

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh

MOST_CELLS = 160
"""Cells along the longest side of a part, where no fineness is given."""

SMOOTHED = 0.02
"""How far simplifying may move a surface taken from a lattice, in cells."""


def rebuilt(mesh: Mesh, before: Solid, cell: float | None = None) -> Solid:
    """A closed mesh in the place of the solid `before`; simplified where it comes from a lattice of `cell` mm."""
    from noble_clay.core.field.nearest_parts import nearest_parts

    found = Solid.from_parts(mesh, nearest_parts(before, mesh.corners.mean(axis=1)), before.part_names)
    if cell is None:
        return found
    return Solid(found.manifold.simplify(SMOOTHED * cell), found.labels, found.planes)


def finest(solid: Solid, wanted: float) -> float:
    """`wanted` mm, or what keeps a lattice around the solid to `MOST_CELLS` a side."""
    low, high = solid.bounds
    return max(wanted, float((high - low).max()) / MOST_CELLS)
