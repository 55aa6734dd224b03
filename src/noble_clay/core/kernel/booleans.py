"""Union, difference and intersection of solids, and a block to crop with."""

from __future__ import annotations

from manifold3d import Manifold, OpType

from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.affine import translation
from noble_clay.core.mesh.hexahedron import hexahedron
from noble_clay.core.mesh.mesh import Floats

REACH = 1.001e-5
"""Boxes this near count as meeting, mm: a little more than contact."""

WALL = "edge of the room"
"""What the faces of a `block` are named where a part's id would be."""


def block(box: Floats, name: str = WALL) -> Solid:
    """A box (2, 3) as a solid, to crop with. name: of the part that its faces are."""
    low, high = box
    x, y, z = (float(v) for v in high - low)
    return Solid.from_mesh(hexahedron((x, y, z)), name, True).placed(translation((low + high) / 2))


KERNEL_OP = {"union": OpType.Add, "difference": OpType.Subtract, "intersection": OpType.Intersect}


def boolean(op: str, solids: list[Solid]) -> Solid:
    """All solids united, all but the first taken from the first, or what all share."""
    if len(solids) == 1:
        return solids[0]
    labels = {k: v for s in solids for k, v in s.labels.items()}
    result = Manifold.batch_boolean([s.manifold for s in solids], KERNEL_OP[op])
    planes = [s.planes.turned if op == "difference" and i else s.planes for i, s in enumerate(solids)]
    return Solid(result, labels, Planes.together(planes), any(s.has_coincident_faces for s in solids))


def boxes_meet(a: Solid, b: Solid) -> bool:
    """Whether the boxes around two solids overlap, or lie within `REACH` of each other."""
    (ax, ay, az, aX, aY, aZ), (bx, by, bz, bX, bY, bZ) = (s.bounds.reshape(-1) for s in (a, b))
    return bool(
        ax <= bX + REACH
        and ay <= bY + REACH
        and az <= bZ + REACH
        and bx <= aX + REACH
        and by <= aY + REACH
        and bz <= aZ + REACH
    )
