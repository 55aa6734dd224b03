"""Orient: faces of a shell agree with each other, and bodies are turned outward."""

from __future__ import annotations

import numpy as np

from noble_clay.core.mend.inspect import inside_out
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.topology import Topology
from noble_clay.core.mesh import Mesh


def orient(mesh: Mesh) -> tuple[Mesh, Done]:
    """Turn the fewest faces that make each shell agree with itself, then whole shells that are inside out."""
    topology = Topology(mesh)
    turned, one_sided = topology.turned
    agreed = Mesh(mesh.vertices, np.where(turned[:, None], mesh.triangles[:, ::-1], mesh.triangles))
    wrong = np.array(inside_out(agreed, Topology(agreed)), dtype=bool)
    _, shell = topology.shells
    whole = wrong[shell] if len(wrong) else np.zeros(0, dtype=bool)
    triangles = np.where(whole[:, None], agreed.triangles[:, ::-1], agreed.triangles)
    changed = int(np.sum(turned ^ whole))
    more = {"bodies_turned": int(wrong.sum()), "one_sided": int(one_sided.sum())}
    return Mesh(mesh.vertices, triangles), Done("orient", changed, more)
