"""Unite: separate closed bodies that run into each other, or lie flush, become one."""

from __future__ import annotations

import numpy as np
from manifold3d import Error, Manifold, Mesh64, OpType
from numpy.typing import NDArray

from noble_clay.core.mend.known_crossings import known_crossings
from noble_clay.core.mend.step import Done
from noble_clay.core.mesh.gather import boxes_by, connected_components
from noble_clay.core.mesh.mass import shell_sums, signed_volumes
from noble_clay.core.mesh.mesh import Ints, Mesh
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.topology import Topology

MOST_OWN = 0.005
"""Of its triangles, that a shell may cross itself with: the kernel takes it all the same, and leaves them to be mended
by themselves.
"""


def unite(mesh: Mesh) -> tuple[Mesh, Done]:
    """The exact union of every cluster of closed shells that cross each other, none of which is much crossed by itself.

    Hollows go with the body around them. All other shells stay as they are.
    """
    topology = Topology(mesh)
    number, shell = topology.shells
    pairs = known_crossings(mesh) if number > 1 else np.zeros((0, 2), dtype=np.int64)
    links = shell[pairs]
    own = links[:, 0] == links[:, 1]
    if own.all():
        return mesh, Done("unite", 0)
    volumes = shell_sums(shell, signed_volumes(mesh), number)
    holder = _holders(mesh, shell, number, volumes)
    hollows = np.flatnonzero(holder >= 0)
    usable = _usable(topology, shell, links[own, 0])
    body = np.where(holder >= 0, holder, np.arange(number))
    usable &= ~np.isin(body, body[~usable])  # a body and its hollows go together
    met = links[~own]
    met = met[usable[met].all(axis=1)]
    tied = np.concatenate([met, np.column_stack([hollows, holder[hollows]])])
    count, cluster = connected_components(number, np.ascontiguousarray(tied))
    crossed = np.zeros(count, dtype=bool)
    crossed[cluster[met.reshape(-1)]] = True
    united, done = [], np.zeros(number, dtype=bool)
    for which in np.flatnonzero(crossed):
        members = np.flatnonzero(cluster == which)
        solids = [_solid(mesh, shell, int(i), holder) for i in members if holder[i] < 0]
        if any(s is None for s in solids):
            continue
        united.append(mesh_of(Manifold.batch_boolean(solids, OpType.Add)))
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


def _solid(mesh: Mesh, shell: Ints, body: int, holder: Ints) -> Manifold | None:
    own = np.flatnonzero(holder == body)
    return kernel_solid(mesh.keep(np.isin(shell, [body, *own])))


def kernel_solid(mesh: Mesh) -> Manifold | None:
    """A closed manifold mesh as the kernel holds it; None where it refuses."""
    raw = Mesh64(np.ascontiguousarray(mesh.vertices), np.ascontiguousarray(mesh.triangles, dtype=np.uint64))
    found = Manifold(raw)
    return found if found.status() == Error.NoError else None


def mesh_of(solid: Manifold) -> Mesh:
    """The surface of a kernel solid."""
    raw = solid.to_mesh64()
    return Mesh(np.array(raw.vert_properties)[:, :3], np.array(raw.tri_verts).astype(np.int64))
