"""What every shape change is, and what several of them need: sides, axes and slicing."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from noble_clay.core.field_kinds import Either, Shown, Words
from noble_clay.core.fields import Flag, Length, Model
from noble_clay.core.handles import Handle
from noble_clay.core.kernel.booleans import block, boolean
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.contract_edges import contracted
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.sliced import sliced
from noble_clay.core.mesh.tolerances import CONTACT

SLACK = 0.02
"""Of the distance between slices: a corner this near one counts as on it."""

Axis = Annotated[Literal["x", "y", "z"], Field(title="Along", description="the axis of the part it goes along")]
Side = Annotated[
    Literal["z+", "z-", "x-", "x+", "y-", "y+"],
    Words({"z+": "top", "z-": "under", "x-": "left", "x+": "right", "y-": "front", "y+": "back"}),
]
"""A side of a part's own box."""

Fineness = Annotated[
    Length | None,
    Field(title="Fineness", description="how fine the lattice is; by itself until you set it"),
    Shown(none="by itself"),
]
"""Cells of the lattice of a change that goes by distance, mm."""


class ShapeChange(Model):
    """A change to a part's geometry, made in its own frame before it is placed. off: left out, but kept."""

    label: ClassVar[str]
    summary: ClassVar[str]
    sample: ClassVar[dict[str, Any]]
    """Field values of a new one that the interface adds."""

    either: ClassVar[Either | None] = None
    """Two of its fields of which exactly one is given."""

    keeps_box: ClassVar[bool] = False
    """Whether a part is as large after it as before."""

    may_cross: ClassVar[bool] = False
    """Whether it moves a surface so that it may come to run through itself."""

    off: Annotated[Flag, Shown(group="apart")] = False

    def handles(self, box: Floats) -> tuple[Handle, ...]:
        """What is drawn in the view to change its fields. box: (2, 3) around the part with all its changes made."""
        return ()

    def made(self, solid: Solid) -> Solid:
        """The solid changed; it is not empty. Raises MeshError, its words beginning with the field that is wrong."""
        raise NotImplementedError

    def cell(self, solid: Solid) -> float | None:
        """Of the lattice of its `fineness` that it goes by, mm; None for a change that goes by none."""
        return None

    def coarser(self, solid: Solid, times: float) -> ShapeChange:
        """What stands for it while a hand moves: if it goes by a lattice, one so many times as coarse; else itself."""
        cell = self.cell(solid)
        return self if cell is None else self.model_copy(update={"fineness": times * cell})

    def triangles_after(self, before: int) -> int:
        """About how many triangles a solid of `before` will have; a bound where that can grow fast."""
        return before


def axis_direction(axis: str) -> Floats:
    """(3,) the unit vector along x, y or z."""
    return np.eye(3)["xyz".index(axis)]


def end_of(box: Floats, axis: str, at: float | None = None) -> Floats:
    """(3,) the middle of a box's high end along an axis; or of its section at `at` mm along it."""
    middle: Floats = box.mean(axis=0)
    along = "xyz".index(axis)
    middle[along] = box[1, along] if at is None else at
    return middle


def side_direction(side: str) -> Floats:
    """(3,) the unit vector out of a side such as `z+`."""
    found = np.zeros(3)
    found["xyz".index(side[0])] = 1.0 if side[1] == "+" else -1.0
    return found


def kept_beyond(solid: Solid, out: Floats, at: float) -> Solid:
    """What of a solid lies beyond the plane at `at` mm along the unit vector `out`; the cut is of its first part."""
    reach = 2 * float(np.linalg.norm(solid.bounds[1] - solid.bounds[0])) + 1
    middle = (solid.bounds[0] + solid.bounds[1]) / 2
    middle += out * (at + reach / 2 - out @ middle)
    half = np.array([[-reach], [reach]]) / 2
    return boolean("intersection", [solid, block(middle + half, solid.part_names[0])])


def upright(axis: str) -> Floats:
    """(3, 3) the turn without mirroring that takes `axis` to z: rows are the axes that become x, y and z."""
    k = "xyz".index(axis)
    return np.eye(3)[[(k + 1) % 3, (k + 2) % 3, k]]


def with_vertices(solid: Solid, mesh: Mesh, part_of: NDArray[np.int64], vertices: Floats) -> Solid:
    """A solid of the triangles of `mesh`, at other vertices (n, 3); every triangle keeps its part."""
    return Solid.from_parts(Mesh(vertices, mesh.triangles), part_of, solid.part_names)


def sliced_solid(solid: Solid, axis: int, slices: int, across: int = 1) -> tuple[Mesh, NDArray[np.int64], Floats]:
    """A solid's mesh cut into `slices` of one height along `axis`, and `across` along the others; its parts; and its
    box, (2, 3).
    """
    mesh, part_of, _ = solid.mesh_with_parts()
    bounds = solid.bounds
    for other in range(3):
        low, high = (float(v) for v in bounds[:, other])
        number = slices if other == axis else across
        cuts = np.linspace(low, high, number + 1)[1:-1]
        mesh, origin = sliced(mesh, other, cuts, SLACK * (high - low) / number)
        part_of = part_of[origin]
    shorter = contracted(mesh, CONTACT)
    if shorter is not None:
        mesh, part_of = shorter[0], part_of[shorter[1]]
    return mesh, part_of, bounds
