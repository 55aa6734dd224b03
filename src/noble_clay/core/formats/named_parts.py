"""Which part each triangle of a mesh is of, and what those parts are called and look like."""

from __future__ import annotations

from dataclasses import dataclass

from noble_clay.core.mesh.mesh import Ints


@dataclass(frozen=True, eq=False)
class NamedParts:
    """part_of: (m,) an index for every triangle. names: (name, #rrggbb) by index."""

    part_of: Ints
    names: list[tuple[str, str]]
