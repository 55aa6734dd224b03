"""Unite: separate closed bodies that run into each other, or lie flush, become one."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import Error, Manifold, Mesh64
from numpy.typing import NDArray

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.coincidence import snap_coincident
from noble_clay.core.kernel.plain import mesh_of, union_of
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mend.hairs import without_hairs
from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import boxes_by, connected_components
from noble_clay.core.mesh.mass import normals, shell_sums, signed_volumes
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.tolerances import CONTACT, SLIVER
from noble_clay.core.mesh.topology import Topology

MOST_OWN = 0.005
"""Of its triangles, that a shell may cross itself with: the kernel takes it all the same, and leaves them to be mended
by themselves.
"""

FLUSH, FLAT = 16.0, 0.999
"""Slacks: bodies whose faces are so near each other lie flush. Cosine: such faces are in about one plane."""

FEW_LEFT = 8
"""Pairs that cross, which are soon patched."""


def unite(mesh: Mesh) -> tuple[Mesh, Done]:
    """The exact union of every cluster of closed shells that cross each other, or lie flush, none of which is much
    crossed by itself.

    Hollows go with the body around them. All other shells stay as they are.
    """
    topology = Topology(mesh)
    number, shell = topology.shells
    pairs = known_crossings(mesh) if number > 1 else np.zeros((0, 2), dtype=np.int64)
    links = shell[pairs]
    own = links[:, 0] == links[:, 1]
    flush = flush_faces(mesh)
    if own.all() and len(flush) == 0:
        return mesh, Done("unite", 0)
    volumes = shell_sums(shell, signed_volumes(mesh), number)
    holder = _holders(mesh, shell, number, volumes)
    hollows = np.flatnonzero(holder >= 0)
    usable = _usable(topology, shell, links[own, 0])
    body = np.where(holder >= 0, holder, np.arange(number))
    usable &= ~np.isin(body, body[~usable])  # a body and its hollows go together
    met = links[~own]
    met = met[usable[met].all(axis=1)]
    lies = flush[usable[shell[flush]].all(axis=1)]
    met = np.concatenate([met, shell[lies]])
    tied = np.concatenate([met, np.column_stack([hollows, holder[hollows]])])
    count, cluster = connected_components(number, np.ascontiguousarray(tied))
    crossed = np.zeros(count, dtype=bool)
    crossed[cluster[met.reshape(-1)]] = True
    layered = np.zeros(count, dtype=bool)
    layered[cluster[shell[lies[:, 0]]]] = True
    united, done = [], np.zeros(number, dtype=bool)
    for which in np.flatnonzero(crossed):
        members = np.flatnonzero(cluster == which)
        bodies = [
            mesh.keep(np.isin(shell, [i, *np.flatnonzero(holder == i)])) for i in members.tolist() if holder[i] < 0
        ]
        found = _union(bodies, slack_of(mesh) if layered[which] else None)
        if found is not None:
            united.append(found)
            done[members] = True
    if not united:
        return mesh, Done("unite", 0)
    rest = mesh.keep(~done[shell])
    return together([rest, *united]), Done("unite", int(done.sum()), {"bodies": len(united)})


def _holders(mesh: Mesh, shell: Ints, number: int, volumes: NDArray[np.float64]) -> Ints:
    """(shells,) for a hollow the smallest body whose box holds its box, else -1."""
    low, high = boxes_by(shell, number, mesh.vertices, mesh.triangles)
    found = np.full(number, -1, dtype=np.int64)
    for hollow in np.flatnonzero(volumes < 0):
        around = np.all((low <= low[hollow]) & (high >= high[hollow]), axis=1) & (volumes > 0)
        if around.any():
            candidates = np.flatnonzero(around)
            found[hollow] = candidates[np.argmin(volumes[candidates])]
    return found


def _usable(topology: Topology, shell: Ints, crossing_themselves: Ints) -> NDArray[np.bool_]:
    """(shells,) those that are closed manifolds, agree with themselves and hardly cross themselves."""
    found = topology.closed_shells.copy()
    crossings = np.bincount(crossing_themselves, minlength=len(found))
    found[crossings > MOST_OWN * np.bincount(shell, minlength=len(found))] = False
    bad_faces = np.zeros(len(shell), dtype=bool)
    halves, agree = topology.pairs
    bad_faces[halves[~agree].reshape(-1) // 3] = True
    over = topology.faces_per_edge[topology.edge_of_half] > 2
    bad_faces[np.flatnonzero(over) // 3] = True
    pinched = np.zeros(len(topology.mesh.vertices), dtype=bool)
    pinched[topology.pinched] = True
    bad_faces |= pinched[topology.mesh.triangles].any(axis=1)
    found[shell[bad_faces]] = False
    return found


def flush_faces(mesh: Mesh) -> Ints:
    """(k, 2) triangles of different shells that lie on each other, or all but."""
    number, shell = Topology(mesh).shells
    if number < 2:
        return np.zeros((0, 2), dtype=np.int64)
    near = FLUSH * slack_of(mesh)
    pairs = crossing_pairs(mesh, near, reach=near)
    pairs = pairs[shell[pairs[:, 0]] != shell[pairs[:, 1]]]
    one, other = normals(mesh)[pairs].swapaxes(0, 1)
    return pairs[np.abs(np.einsum("ij,ij->i", one, other)) > FLAT]


def _union(bodies: list[Mesh], slack: float | None) -> Mesh | None:
    """The union of bodies; None where the kernel does not take them. slack: mm, where some lie flush. Those are first
    made to meet as parts of a piece are, unless more crosses then, and too much to be patched.
    """
    given = together(bodies)
    met = None if slack is None else _met_and_united(bodies, slack)
    if met is not None:
        met = without_hairs(met, given)
        if len(known_crossings(met)) == 0:
            return met
    solids = [kernel_solid(body) for body in bodies]
    if any(s is None for s in solids):
        return met
    found = without_hairs(mesh_of(union_of(solids)), given)
    most = max(FEW_LEFT, len(known_crossings(found)))
    return met if met is not None and len(known_crossings(met)) <= most else found


def _met_and_united(bodies: list[Mesh], slack: float) -> Mesh | None:
    """The union of bodies made to meet where they are flush to so many slacks, mm: in a size where that is contact."""
    scale = math.ldexp(1.0, math.frexp(CONTACT / (FLUSH * slack))[1] - 1)  # by a power of two nothing is rounded
    try:
        solids = [Solid.from_mesh(Mesh(body.vertices * scale, body.triangles), "body") for body in bodies]
        found = boolean("union", snap_coincident(solids)).without_films(SLIVER).mesh_only()
    except MeshError:
        return None
    return Mesh(found.vertices / scale, found.triangles)


def kernel_solid(mesh: Mesh) -> Manifold | None:
    """A closed manifold mesh as the kernel holds it; None where it refuses."""
    raw = Mesh64(np.ascontiguousarray(mesh.vertices), np.ascontiguousarray(mesh.triangles, dtype=np.uint64))
    found = Manifold(raw)
    return found if found.status() == Error.NoError else None
