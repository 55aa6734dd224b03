"""Patch over: the last few triangles that cross are cut out, and the holes are closed as any others are."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.separate import separate
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.gather import connected_components
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.topology import Topology

MOST_SHARE, FEW = 0.05, 60
"""Of the triangles, that may be cut out; and so many may be of a mesh of few."""

RINGS = 4
"""How many rings of neighbours are cut out with them at most, and one more."""


def patch_over(mesh: Mesh) -> tuple[Mesh, Done]:
    """Each tangle by itself with the smallest hole whose patch is closed and crosses nothing; of those that have none,
    all together with the smallest that leaves fewer pairs that cross; else all as it was.
    """
    before = len(known_crossings(mesh))
    if before == 0:
        return mesh, Done("patch_over", 0)
    cut_out = 0
    for step in (_each_patched, _all_patched):
        for rings in range(RINGS):
            gone = _about_crossings(mesh, rings)
            if not gone.any() or gone.sum() > max(FEW, MOST_SHARE * len(mesh.triangles)):
                break
            found, number = step(mesh, gone)
            if number:
                mesh, cut_out = found, cut_out + number
    left = len(known_crossings(mesh))
    return mesh, Done("patch_over", before - left, {"left": left, "cut_out": cut_out})


def _about_crossings(mesh: Mesh, rings: int) -> NDArray[np.bool_]:
    """(m,) the triangles that cross, and so many rings of neighbours."""
    gone: NDArray[np.bool_] = np.zeros(len(mesh.triangles), dtype=np.bool_)
    gone[known_crossings(mesh)] = True
    for _ in range(rings):
        touched = np.zeros(len(mesh.vertices), dtype=bool)
        touched[mesh.triangles[gone]] = True
        gone = np.any(touched[mesh.triangles], axis=1)
    return gone


def _each_patched(mesh: Mesh, gone: NDArray[np.bool_]) -> tuple[Mesh, int]:
    """The mesh without those of the triangles `gone` (m,), by what hangs together, whose patches are good; and how many
    were cut out.
    """
    one, other = known_crossings(mesh).T
    ties = np.concatenate([_sides(mesh.triangles[gone]), mesh.triangles[[one, other], 0].T])
    _, tangle = connected_components(len(mesh.vertices), ties)
    touched = np.zeros(len(mesh.vertices), dtype=bool)
    touched[mesh.triangles[gone]] = True
    patched = _patched(mesh, gone)
    # A patch is of the tangle that its rim is of, and so is what was added to it.
    own = np.full(len(patched.vertices), -1, dtype=np.int64)
    own[: len(touched)][touched] = tangle[touched]
    number, part = connected_components(len(own), _sides(patched.triangles[(~gone).sum() :]))
    of_part = np.full(number, -1, dtype=np.int64)
    of_part[part[own >= 0]] = own[own >= 0]
    spoilt = of_part[part[_flawed(patched)]]
    good = gone & ~np.isin(tangle[mesh.triangles[:, 0]], spoilt)
    if not good.any():
        return mesh, 0
    return _if_better(mesh, patched if good.sum() == gone.sum() else _patched(mesh, good), good)


def _all_patched(mesh: Mesh, gone: NDArray[np.bool_]) -> tuple[Mesh, int]:
    return _if_better(mesh, _patched(mesh, gone), gone)


def _if_better(mesh: Mesh, found: Mesh, gone: NDArray[np.bool_]) -> tuple[Mesh, int]:
    closed = bool((Topology(found).faces_per_edge == 2).all())
    better = closed and len(known_crossings(found)) < len(known_crossings(mesh))
    return (found.compact(), int(gone.sum())) if better else (mesh, 0)


def _patched(mesh: Mesh, gone: NDArray[np.bool_]) -> Mesh:
    """Over the same vertices, and then new ones; the triangles that are left come first."""
    return separate(close_holes(Mesh(mesh.vertices, mesh.triangles[~gone]))[0])[0]


def _sides(triangles: Ints) -> Ints:
    """(2 m, 2) edges that hold each triangle's corners together."""
    return np.concatenate([triangles[:, :2], triangles[:, 1:]])


def _flawed(mesh: Mesh) -> Ints:
    """Vertices of triangles that cross, and of edges of one triangle or more than two."""
    topology = Topology(mesh)
    edges = topology.edges[topology.faces_per_edge != 2]
    return np.concatenate([mesh.triangles[known_crossings(mesh)].reshape(-1), edges.reshape(-1)])
