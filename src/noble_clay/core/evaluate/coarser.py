"""A piece with fewer triangles, for a file: its surface nearly where it was."""

from __future__ import annotations

from dataclasses import replace

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.keys import hashed
from noble_clay.core.evaluate.result import Result
from noble_clay.core.kernel.solid import Solid

GENTLER = 0.7, 0.25, 0.08, 0.025
"""Shares of what is allowed that are tried in turn. The kernel's collapses add up to a little more than it is told; and
where edges are collapsed far, triangles may come through each other.
"""


def coarser(result: Result, by: float) -> Result:
    """The same with edges collapsed as long as the surface moves by less than `by` mm; by less where it would not be
    sound then. Raises MeshError where nothing would be left, or even a little is too much.
    """
    solid = result.solid
    for share in GENTLER:
        fewer = solid.manifold.simplify(share * by)
        if fewer.is_empty():
            continue
        key = hashed(["coarser", result.key, share * by])
        made = Solid(fewer, solid.labels, solid.planes, solid.has_coincident_faces)
        found = replace(result, key=key, solid=made)
        if found.inspection.sound or not result.inspection.sound:
            return found
    raise MeshError(f"coarser: by {by:g} mm it would no longer be sound; take less")
