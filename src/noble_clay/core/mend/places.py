"""Where the flaws of a mesh are and how large, so that each can be listed, drawn and gone to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.close_holes import open_loops
from noble_clay.core.mesh.crossings import crossing_pairs
from noble_clay.core.mesh.gather import connected_components, distinct
from noble_clay.core.mesh.inspect import collapsed_faces, degenerate_faces, duplicate_faces
from noble_clay.core.mesh.mass import shell_volumes
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, diagonal
from noble_clay.core.mesh.nesting import depths, inside_out
from noble_clay.core.mesh.severity import SEVERITY, MeshFlaw, Severity
from noble_clay.core.mesh.topology import Topology

MOST_PLACES = 60
"""Places told of one kind, the largest."""

MOST_DRAWN = 1_500
"""Points of lines, or corners of faces, drawn of one place."""


@dataclass(frozen=True, eq=False)
class Flaw:
    """One place. count: of the kind's own units there. at: (3,) mm. size: mm, how far it reaches. lines: (k, 2, 3)
    segments and faces: (j, 3, 3) triangles to draw, as many as `MOST_DRAWN`. more: numbers worth telling. where:
    vertices of open or overshared edges and of a pinch, faces of all other kinds; of the mesh without its degenerate
    and duplicate faces, but for duplicate ones of the mesh itself.
    """

    kind: MeshFlaw
    count: int
    at: Floats
    size: float
    lines: Floats
    faces: Floats
    more: dict[str, float]
    where: Ints

    @property
    def severity(self) -> Severity:
        return SEVERITY[self.kind]

    def values(self) -> dict[str, Any]:
        return {
            "kind": self.kind,
            "severity": self.severity,
            "count": self.count,
            "at": [round(float(c), 5) for c in self.at],
            "size_mm": self.size,
            "lines": np.round(self.lines, 5).reshape(-1).tolist(),
            "faces": np.round(self.faces, 5).reshape(-1).tolist(),
            **self.more,
        }


def flaws(mesh: Mesh) -> list[Flaw]:
    """Every flaw of a mesh by place, kind by kind, the largest first; what `inspect_mesh` counts, located."""
    collapsed = collapsed_faces(mesh)
    duplicate = duplicate_faces(mesh) & ~collapsed
    single = mesh.keep(~(collapsed | duplicate)) if (collapsed | duplicate).any() else mesh
    topology = Topology(single)
    found = [*_rims(single, topology), *_overshared(single, topology), *_pinches(single, topology)]
    turned, _ = topology.turned
    found += _patches(single, topology, turned, "flipped_faces")
    straight = Mesh(single.vertices, np.where(turned[:, None], single.triangles[:, ::-1], single.triangles))
    found += _shells(straight, topology)
    found += _patches(single, topology, degenerate_faces(single), "degenerate_faces")
    doubles = [_of_faces("duplicate_faces", mesh, group) for group in _grouped(mesh, np.flatnonzero(duplicate))]
    found += _most(doubles)
    found += _tangles(single)
    return found


def _most(found: list[Flaw]) -> list[Flaw]:
    return sorted(found, key=lambda f: -f.size)[:MOST_PLACES]


def _of_lines(kind: MeshFlaw, count: int, lines: Floats, where: Ints, **more: float) -> Flaw:
    points = lines.reshape(-1, 3)
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    return Flaw(kind, count, middle, diagonal(points), lines[: MOST_DRAWN // 2], np.zeros((0, 3, 3)), more, where)


def _of_faces(kind: MeshFlaw, mesh: Mesh, faces: Ints, count: int | None = None, **more: float) -> Flaw:
    corners = mesh.vertices[mesh.triangles[faces]]
    points = corners.reshape(-1, 3)
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    step = max(1, -(-len(corners) * 3 // MOST_DRAWN)) if kind != "flipped_faces" else 1
    drawn = corners[::step][: MOST_DRAWN // 3]
    number = len(faces) if count is None else count
    return Flaw(kind, number, middle, diagonal(points), np.zeros((0, 2, 3)), drawn, more, faces)


def _rims(mesh: Mesh, topology: Topology) -> list[Flaw]:
    edges = topology.open_half_edges
    loops = open_loops(edges)
    found = []
    for loop in loops:
        points = mesh.vertices[loop]
        lines = np.stack([points, np.roll(points, -1, axis=0)], axis=1)
        length = float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum())
        found.append(_of_lines("open_edges", len(loop), lines, loop, length_mm=length, width_mm=_width(points)))
    looped = {(int(b), int(a)) for loop in loops for a, b in zip(loop, np.roll(loop, -1), strict=True)}
    loose = np.array([e for e in edges.tolist() if tuple(e) not in looped], dtype=np.int64).reshape(-1, 2)
    return _most(found + _chains(mesh, loose, "open_edges"))


def _width(points: Floats) -> float:
    """mm: how wide a loop (n, 3) is across, at right angles to where it is longest."""
    spread = points - points.mean(axis=0)
    _, _, axes = np.linalg.svd(spread, full_matrices=False)
    return float(np.ptp(spread @ axes[1])) if len(axes) > 1 else 0.0


def _chains(mesh: Mesh, edges: Ints, kind: MeshFlaw) -> list[Flaw]:
    if len(edges) == 0:
        return []
    number, label = connected_components(len(mesh.vertices), np.ascontiguousarray(edges))
    of = label[edges[:, 0]]
    found = [edges[of == i] for i in distinct(of)[: 4 * MOST_PLACES]]
    return [_of_lines(kind, len(own), mesh.vertices[own], distinct(own)) for own in found]


def _overshared(mesh: Mesh, topology: Topology) -> list[Flaw]:
    return _most(_chains(mesh, topology.edges[topology.faces_per_edge > 2], "overshared_edges"))


def _pinches(mesh: Mesh, topology: Topology) -> list[Flaw]:
    nothing = np.zeros((0, 2, 3)), np.zeros((0, 3, 3))
    most = topology.pinched[:MOST_PLACES]
    return [Flaw("pinched_vertices", 1, mesh.vertices[v], 0.0, *nothing, {}, np.array([v])) for v in most]


def _grouped(mesh: Mesh, faces: Ints) -> list[Ints]:
    """Some faces in groups that share vertices."""
    if len(faces) == 0:
        return []
    a, b, c = mesh.triangles[faces].T
    _, label = connected_components(
        len(mesh.vertices), np.concatenate([np.column_stack([a, b]), np.column_stack([b, c])])
    )
    of = label[a]
    order = np.argsort(of, kind="stable")
    return np.split(faces[order], np.flatnonzero(np.diff(of[order])) + 1)


def _patches(mesh: Mesh, topology: Topology, which: NDArray[np.bool_], kind: MeshFlaw) -> list[Flaw]:
    return _most([_of_faces(kind, mesh, group) for group in _grouped(mesh, np.flatnonzero(which))])


def _shells(mesh: Mesh, topology: Topology) -> list[Flaw]:
    """Shells that are inside out, and bodies beside the largest."""
    number, shell = topology.shells
    if number == 0:
        return []
    volumes, _ = shell_volumes(mesh, shell, number)
    closed = topology.closed_shells
    wrong = inside_out(volumes, depths(mesh, shell, closed), closed)
    order = np.argsort(shell, kind="stable")
    faces = np.split(order, np.flatnonzero(np.diff(shell[order])) + 1)
    found = [_of_faces("inside_out_bodies", mesh, faces[i], 1, volume_mm3=volumes[i]) for i in np.flatnonzero(wrong)]
    bodies = [i for i in np.argsort(-volumes) if volumes[i] >= 0]
    loose = [
        _of_faces("loose_bodies", mesh, faces[i], 1, volume_mm3=float(volumes[i]))
        for i in bodies[1 : 1 + 2 * MOST_PLACES]
    ]
    return _most(found) + _most(loose)


def _tangles(mesh: Mesh) -> list[Flaw]:
    """Pairs that cross in clusters that hang together, with the lines in which they do."""
    pairs = crossing_pairs(mesh)
    if len(pairs) == 0:
        return []
    faces = distinct(pairs)
    a, b, c = mesh.triangles[faces].T
    ties = [np.column_stack([a, b]), np.column_stack([b, c]), mesh.triangles[pairs][:, :, 0]]
    _, label = connected_components(len(mesh.vertices), np.ascontiguousarray(np.concatenate(ties)))
    of = label[mesh.triangles[pairs[:, 0], 0]]
    found = []
    for group in distinct(of):
        own = pairs[of == group]
        each = (_crossing_line(mesh, i, j) for i, j in own[:MOST_DRAWN].tolist())
        lines = [line for line in each if line is not None]
        if lines:
            found.append(_of_lines("self_intersections", len(own), np.array(lines), distinct(own)))
        else:
            found.append(_of_faces("self_intersections", mesh, distinct(own), len(own)))
    return _most(found)


def _crossing_line(mesh: Mesh, i: int, j: int) -> Floats | None:
    """(2, 3) the ends of what two triangles have in common; None for those of one plane."""
    ends = []
    for one, other in ((i, j), (j, i)):
        p, q, r = mesh.vertices[mesh.triangles[other]]
        normal = np.cross(q - p, r - p)
        corners = mesh.vertices[mesh.triangles[one]]
        heights = (corners - p) @ normal
        for k in range(3):
            m = (k + 1) % 3
            if heights[k] * heights[m] < 0:
                point = corners[k] + heights[k] / (heights[k] - heights[m]) * (corners[m] - corners[k])
                ends.append(point)
    if len(ends) < 2:
        return None
    points = np.array(ends)
    along = points @ (points[np.argmax(np.linalg.norm(points - points[0], axis=1))] - points[0])
    middle = points[np.argsort(along)][1:3] if len(points) == 4 else points[[0, -1]]
    found: Floats = middle if len(middle) == 2 else points[:2]
    return found
