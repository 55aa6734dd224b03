"""Room that is shut in: plastic, resin or powder cannot leave it, and nothing can be seen of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.mesh.gather import distinct
from noble_clay.core.mesh.mass import shell_volumes
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import vertex_shells


@dataclass(frozen=True)
class Hollow:
    """volume: mm³. at: its lowest place, mm, where a hole would drain it."""

    volume: float
    at: tuple[float, float, float]


def hollows(mesh: Mesh) -> list[Hollow]:
    """The largest first. The mesh must be closed."""
    count, shell = vertex_shells(mesh)
    volumes, _ = shell_volumes(mesh, shell, count)
    found = []
    for number in np.flatnonzero(volumes < 0):
        points = mesh.vertices[distinct(mesh.triangles[shell == number])]
        x, y, z = points[int(np.argmin(points[:, 2]))].tolist()
        found.append(Hollow(-float(volumes[number]), (x, y, z)))
    return sorted(found, key=lambda h: -h.volume)
