"""What evaluating a piece gives: one solid, its surface, what that measures and what is wrong with it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.inspect import Inspection, inspect_solid, with_crossings
from noble_clay.core.mesh.mass import is_film, shell_sums, volumes_and_areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.skin_crossings import crossings_anywhere, crossings_of
from noble_clay.core.mesh.tolerances import CONTACT, SLIVER
from noble_clay.core.mesh.topology import vertex_shells
from noble_clay.core.mesh.written import Written, read_back, written


@dataclass(frozen=True, eq=False)
class Result:
    """A piece as one solid.

    key: what shapes it, hashed. left_out: parts that could not count, with the reason. crossing: parts whose own
    surface runs through itself. `mesh`, `part_of` and `part_ids` say the surface and which part every triangle came
    from; `written` says the surface as files hold it.
    """

    key: str
    solid: Solid
    left_out: dict[str, str]
    crossing: frozenset[str] = frozenset()

    @cached_property
    def _read(self) -> tuple[Mesh, NDArray[np.int64], tuple[str, ...]]:
        return self.solid.mesh_with_parts()

    @cached_property
    def shells(self) -> tuple[int, Ints]:
        """How many, and for every triangle (m,) which: what hangs together through shared vertices."""
        return vertex_shells(self.mesh)

    @cached_property
    def measures(self) -> tuple[Floats, Floats]:
        """(m,) mm³ and (m,) mm²: as `volumes_and_areas` tells them."""
        return volumes_and_areas(self.mesh)

    @cached_property
    def written(self) -> Written:
        """The surface as files hold it; its triangles mean the same parts."""
        return written(self.mesh, self.part_of)

    @cached_property
    def inspection(self) -> Inspection:
        """Whether the solid is sound, as files hold it; and what it measures, before it is rounded for them."""
        mesh = self.written.mesh
        as_it_was = mesh.triangles is self.mesh.triangles
        found = inspect_solid(mesh, CONTACT, self.written.merged, self.shells if as_it_was else None)
        if found.triangles:
            volumes, areas = self.measures
            found = replace(found, volume=float(volumes.sum()), area=float(areas.sum()), bounds=self.mesh.bounds)
        crossings = crossings_of(mesh, self.written.part_of, self.part_ids, self.crossing)
        if not crossings:
            crossings = crossings_anywhere(read_back(mesh), len(self.part_ids))
        return with_crossings(found, crossings)

    @property
    def mesh(self) -> Mesh:
        return self._read[0]

    @property
    def part_of(self) -> NDArray[np.int64]:
        """(m,) index into `part_ids` of every triangle."""
        return self._read[1]

    @property
    def part_ids(self) -> tuple[str, ...]:
        return self._read[2]


def has_slivers(number: int, shell: Ints, volumes: Floats, areas: Floats) -> bool:
    """Whether a shell is thinner than the contact distance: what rounding leaves where curved faces coincide.

    number: of shells. shell, volumes (mm³), areas (mm²): (m,) of every triangle.
    """
    return bool(np.any(is_film(shell_sums(shell, volumes, number), shell_sums(shell, areas, number), SLIVER)))
