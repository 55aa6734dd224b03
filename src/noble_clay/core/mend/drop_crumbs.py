"""Drop crumbs: separate bodies too small to mean anything."""

from __future__ import annotations

import numpy as np

from noble_clay.core.measure.mass import areas, signed_volumes
from noble_clay.core.mend.inspect import CRUMB_MM3
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.topology import Topology
from noble_clay.core.mesh import Mesh


def drop_crumbs(mesh: Mesh) -> tuple[Mesh, Done]:
    """Without shells under 1 mm³ that are also under a thousandth of the largest one, in volume and in area."""
    number, shell = Topology(mesh).shells
    if number < 2:
        return mesh, Done("drop_crumbs", 0)
    volumes = np.abs(np.bincount(shell, weights=signed_volumes(mesh), minlength=number))
    surfaces = np.bincount(shell, weights=areas(mesh), minlength=number)
    crumb = (volumes < CRUMB_MM3) & (volumes < volumes.max() / 1000) & (surfaces < surfaces.max() / 100)
    if not crumb.any():
        return mesh, Done("drop_crumbs", 0)
    return mesh.keep(~crumb[shell]), Done("drop_crumbs", int(crumb.sum()), {"largest_mm3": float(volumes[crumb].max())})
