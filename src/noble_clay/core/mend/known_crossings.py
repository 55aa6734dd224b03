"""The triangles of a mesh that cross, looked for once: each mending step asks for them of what the last one left."""

from __future__ import annotations

from weakref import WeakKeyDictionary

from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.mesh import Ints, Mesh

_known: WeakKeyDictionary[Mesh, Ints] = WeakKeyDictionary()


def known_crossings(mesh: Mesh) -> Ints:
    """As `crossing_pairs` of the mesh, which does not change while it is."""
    found = _known.get(mesh)
    if found is None:
        found = _known[mesh] = crossing_pairs(mesh)
    return found
