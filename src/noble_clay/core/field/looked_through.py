"""A surface that was run together looked through for crossings: only where it is not as it was before."""

from __future__ import annotations

import math

from noble_clay.core.field.memory import Memory
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.triangle_set import TriangleSet, triangle_numbers
from noble_clay.core.mesh.untangle import untangled


def looked_through(mesh: Mesh, memory: Memory) -> tuple[Mesh, bool]:
    """The mesh, its small tangles drawn apart, and whether it crosses itself nowhere.

    memory: of surfaces that were looked through before; triangles that were together in one of those are known not to
    cross one another.
    """
    slack = _power_of_two(slack_of(mesh))
    numbers = triangle_numbers(mesh, slack)
    found, clean = untangled(mesh, slack, ~memory.clean_together(numbers))
    if clean:
        memory.keep_clean(TriangleSet.of(numbers if found is mesh else triangle_numbers(found, slack)))
    return found, clean


def _power_of_two(size: float) -> float:
    """The largest that is no more than `size`: so that a part that moves does not change what counts as touching."""
    return math.ldexp(0.5, math.frexp(size)[1]) if size else 0.0
