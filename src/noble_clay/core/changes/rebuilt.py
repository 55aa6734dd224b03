"""A surface built anew from a solid: every triangle takes the part of what was nearest, and the size of lattices."""

from __future__ import annotations

import numpy as np

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.tolerances import HAIR

MOST_CELLS = 100
"""Cells along the longest side of a part, where no fineness is given."""

SMOOTHED = (0.02, 0.005)
"""How far simplifying may move a surface taken from a lattice, in cells: the first, unless the surface then crosses
itself.
"""


def rebuilt(mesh: Mesh, before: Solid, flat: bool = False) -> Solid:
    """A closed mesh in the place of the solid `before`. flat: its faces are flat and may be large, and parts may begin
    and end within one.
    """
    names = before.part_names
    if len(names) == 1:
        return Solid.from_parts(mesh, np.zeros(len(mesh.triangles), dtype=np.int64), names)
    from noble_clay.core.field.nearest_parts import NearestParts
    from noble_clay.core.field.part_borders import faces_with_part_borders, with_part_borders

    part_at = NearestParts(before)
    if flat:
        divided, part_of = faces_with_part_borders(mesh, part_at, finest(before, 0.0))
        return Solid.from_parts(divided, part_of, names).simplified(HAIR)
    divided, part_of, _ = with_part_borders(mesh, part_at)
    return Solid.from_parts(divided, part_of, names)


def rebuilt_from_lattice(mesh: Mesh, before: Solid, cell: float) -> Solid:
    """The same of one taken from a lattice of `cell` mm: simplified, and what tangles where two sheets share a cell
    drawn apart.
    """
    from noble_clay.core.mesh.untangle import untangled

    found = rebuilt(mesh, before)
    for share in SMOOTHED:
        simpler = found.simplified(share * cell)
        old = simpler.mesh_only()
        apart, clear = untangled(old)
        if clear and apart is old:
            return simpler
        if clear and np.abs(apart.vertices - old.vertices).max() < cell:
            return simpler.warped(old.vertices, apart.vertices)
    return rebuilt(untangled(mesh)[0], before)


def finest(solid: Solid, wanted: float) -> float:
    """`wanted` mm, or what keeps a lattice around the solid to `MOST_CELLS` a side."""
    low, high = solid.bounds
    return max(wanted, float((high - low).max()) / MOST_CELLS)
