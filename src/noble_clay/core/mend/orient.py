"""Orient: faces of a shell agree with each other, and bodies are turned outward."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.mass import shell_sums, shell_volumes, signed_volumes
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.nesting import depths, inside_out
from noble_clay.core.mesh.topology import Topology

LEAST_ROUND = 1e-3
"""An open shell has an inside when 36 π V² / A³ is at least this: 1 for a ball, 0 for a flat sheet."""


def orient(mesh: Mesh) -> tuple[Mesh, Done]:
    """Turn the fewest faces that make each shell agree with itself, then whole shells that are inside out: bodies that
    are turned inward, and hollows, which lie in an odd number of other shells, that are turned outward.
    """
    topology = Topology(mesh)
    turned, one_sided = topology.turned
    agreed = Mesh(mesh.vertices, np.where(turned[:, None], mesh.triangles[:, ::-1], mesh.triangles))
    number, shell = topology.shells
    closed = topology.closed_shells
    volumes = shell_sums(shell, signed_volumes(agreed), number)
    wrong = inside_out(volumes, depths(agreed, shell, closed), closed) | _leaky_inward(agreed, shell, closed)
    whole = wrong[shell] if len(wrong) else np.zeros(0, dtype=bool)
    triangles = np.where(whole[:, None], agreed.triangles[:, ::-1], agreed.triangles)
    changed = int(np.sum(turned ^ whole))
    more = {"bodies_turned": int(wrong.sum()), "one_sided": int(one_sided.sum())}
    return Mesh(mesh.vertices, triangles), Done("orient", changed, more)


def _leaky_inward(mesh: Mesh, shell: Ints, closed: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(shells,) open shells that enclose something and are turned inward: their volume, told from their own middle,
    is clearly negative.
    """
    own, surface = shell_volumes(mesh, shell, len(closed))
    found: NDArray[np.bool_] = ~closed & (own < 0) & (36 * np.pi * own**2 > LEAST_ROUND * surface**3)
    return found
