"""Drop crumbs: separate bodies too small to mean anything."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.inspect import CRUMB_MM3
from noble_clay.core.mesh.mass import shell_volumes
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.mesh.topology import Topology

MOST_SHARE = 0.02
"""Of the mesh's surface, that may be dropped as crumbs: many small shells may be all there is."""


def drop_crumbs(mesh: Mesh, crumb_mm3: float | None = None) -> tuple[Mesh, Done]:
    """Without shells under 1 mm³ that are also under a thousandth of the largest one, in volume, and a hundredth in
    area; or, where the maker says how large a crumb is, without shells of less than `crumb_mm3`.
    """
    number, shell = Topology(mesh).shells
    if number < 2:
        return mesh, Done("drop_crumbs", 0)
    volumes, surfaces = shell_volumes(mesh, shell, number)
    volumes = np.abs(volumes)
    if crumb_mm3 is not None:
        crumb = (volumes < crumb_mm3) & (volumes < volumes.max())
    else:
        crumb = (volumes < CRUMB_MM3) & (volumes < volumes.max() / 1000) & (surfaces < surfaces.max() / 100)
        order = np.argsort(surfaces)
        crumb[order[np.cumsum(surfaces[order]) > MOST_SHARE * surfaces.sum()]] = False
    if not crumb.any():
        return mesh, Done("drop_crumbs", 0)
    return mesh.keep(~crumb[shell]), Done("drop_crumbs", int(crumb.sum()), {"largest_mm3": float(volumes[crumb].max())})
