"""Inspecting a mesh: what it measures, how many bodies it has, and every flaw, counted exactly."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.measure.mass import areas, signed_volumes, volumes_and_areas
from noble_clay.core.mend.topology import Topology, vertex_shells
from noble_clay.core.mesh import Floats, Ints, Mesh
from noble_clay.core.nearby import close_pairs

CRUMB_MM3 = 1.0
"""A separate body smaller than this is a crumb."""


@dataclass(frozen=True)
class Finding:
    """A flaw: its kind as the piece format names it, how often, and what more there is to say."""

    kind: str
    count: int
    more: dict[str, Any] = field(default_factory=dict)

    def values(self) -> dict[str, Any]:
        return {"kind": self.kind, "count": self.count, **self.more}


@dataclass(frozen=True)
class Shell:
    """One connected surface: triangles, signed volume (mm³, below 0 when turned inward), bounds (2, 3), closed."""

    triangles: int
    volume: float
    bounds: Floats
    closed: bool


@dataclass(frozen=True)
class Inspection:
    """Everything `inspect` says. Volumes mm³, areas mm², bounds (2, 3) mm or None when empty."""

    triangles: int
    vertices: int
    volume: float
    area: float
    bounds: Floats | None
    bodies: int
    voids: int
    genus: int
    manifold: bool
    findings: tuple[Finding, ...]
    shells: tuple[Shell, ...]

    @property
    def sound(self) -> bool:
        """One closed manifold body and nothing wrong."""
        return self.manifold and self.bodies == 1 and not self.findings

    def values(self) -> dict[str, Any]:
        """As the command line prints it."""
        return {
            "triangles": self.triangles,
            "vertices": self.vertices,
            "volume_mm3": self.volume,
            "area_mm2": self.area,
            "bounds": None if self.bounds is None else self.bounds.tolist(),
            "bodies": self.bodies,
            "voids": self.voids,
            "genus": self.genus,
            "manifold": self.manifold,
            "findings": [f.values() for f in self.findings],
        }


FLAWS = (
    "open_edges",
    "overshared_edges",
    "pinched_vertices",
    "flipped_faces",
    "inside_out_bodies",
    "duplicate_faces",
)
"""Findings that make a mesh no closed manifold; degenerate faces and loose bodies do not by themselves."""


def inspect_mesh(mesh: Mesh) -> Inspection:
    """Measure a mesh whose vertices are told apart by index, and find its flaws. Vertices at one point should have
    been merged before (see `weld`). Self-intersections are not looked for.
    """
    degenerate = degenerate_faces(mesh)
    collapsed = collapsed_faces(mesh)
    whole = mesh.keep(~collapsed) if collapsed.any() else mesh
    duplicate = duplicate_faces(whole)
    single = whole.keep(~duplicate) if duplicate.any() else whole
    topology = Topology(single)
    turned, one_sided = topology.turned
    straight = Mesh(single.vertices, np.where(turned[:, None], single.triangles[:, ::-1], single.triangles))
    shells = _shells(straight, topology)
    findings = [
        Finding("open_edges", len(topology.open_half_edges)),
        Finding("overshared_edges", int(np.sum(topology.faces_per_edge > 2))),
        Finding("pinched_vertices", len(topology.pinched)),
        Finding("flipped_faces", int(turned.sum()) + int(one_sided.sum())),
        Finding("inside_out_bodies", sum(inside_out(straight, topology))),
        Finding("degenerate_faces", int(degenerate.sum())),
        Finding("duplicate_faces", int(duplicate.sum())),
        Finding("loose_bodies", max(0, sum(s.volume >= 0 for s in shells) - 1)),
    ]
    present = tuple(f for f in findings if f.count)
    closed = len(single.triangles) > 0 and not any(f.kind in FLAWS for f in present)
    return Inspection(
        triangles=len(mesh.triangles),
        vertices=len(mesh.vertices),
        volume=float(signed_volumes(mesh).sum()),
        area=float(areas(mesh).sum()),
        bounds=mesh.bounds,
        bodies=sum(s.volume >= 0 for s in shells),
        voids=sum(s.volume < 0 for s in shells),
        genus=int(np.sum(2 - topology.euler) // 2) if closed else 0,
        manifold=closed,
        findings=present,
        shells=shells,
    )


def inspect_solid(mesh: Mesh, contact: float) -> Inspection:
    """Inspect a mesh that the kernel made: manifold by index, so that only contacts need a closer look.

    Vertices of the surface within `contact` mm of each other that no edge links are one point in any file: where
    that makes an edge or vertex overshared, the mesh is no manifold.
    """
    flaws = contact_flaws(mesh, contact_pairs(mesh, contact))
    apart = _inspect_closed(mesh)
    return replace(apart, manifold=apart.manifold and not flaws, findings=flaws + apart.findings)


def contact_pairs(mesh: Mesh, contact: float) -> Ints:
    """(k, 2) vertices within `contact` mm of each other that no edge links."""
    pairs = close_pairs(mesh.vertices, np.arange(len(mesh.vertices)), contact)
    if len(pairs) == 0:
        return pairs
    near = np.zeros(len(mesh.vertices), dtype=bool)
    near[pairs] = True
    around = mesh.triangles[near[mesh.triangles].sum(axis=1) >= 2]
    edges = np.sort(np.stack([around, np.roll(around, -1, axis=1)], axis=-1).reshape(-1, 2), axis=1)
    span = np.int64(len(mesh.vertices) + 1)
    linked = np.isin(pairs[:, 0] * span + pairs[:, 1], edges[:, 0] * span + edges[:, 1])
    return pairs[~linked]


def contact_flaws(mesh: Mesh, pairs: Ints) -> tuple[Finding, ...]:
    """Edges and vertices that become overshared when each of `pairs` (k, 2) of vertices is one point.

    Only the faces around those points can be concerned, so only they are looked at.
    """
    if len(pairs) == 0:
        return ()
    to = np.arange(len(mesh.vertices))
    for low, high in pairs:
        to[high] = to[low]
    merged = np.zeros(len(mesh.vertices), dtype=bool)
    merged[to[pairs]] = True
    triangles = to[mesh.triangles]
    near = Mesh(mesh.vertices, triangles[merged[triangles].any(axis=1)])
    topology = Topology(Mesh(near.vertices, near.triangles[~collapsed_faces(near)]))
    overshared = int(np.sum(topology.faces_per_edge > 2))
    pinched = int(merged[topology.pinched].sum())
    found = (Finding("overshared_edges", overshared), Finding("pinched_vertices", pinched))
    return tuple(f for f in found if f.count)


def _inspect_closed(mesh: Mesh) -> Inspection:
    """The inspection of a mesh known to be a closed manifold turned outward, voids inward, every vertex in use."""
    number, shell = vertex_shells(mesh)
    each_volume, each_area = volumes_and_areas(mesh)
    volumes = np.bincount(shell, weights=each_volume, minlength=number)
    faces = np.bincount(shell, minlength=number)
    whole = np.array([mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)]) if number else None
    low, high = _bounds_by(shell, number, mesh.corners) if number > 1 or whole is None else whole[:, None]
    vertices = len(mesh.vertices)
    shells = tuple(
        Shell(int(faces[i]), float(volumes[i]), np.array([low[i], high[i]]), closed=True) for i in range(number)
    )
    bodies = int(np.sum(volumes >= 0))
    # V - E + F = 2 (shells - genus) with E = 3/2 F.
    genus = number - (vertices - len(mesh.triangles) // 2) // 2
    return Inspection(
        triangles=len(mesh.triangles),
        vertices=vertices,
        volume=float(volumes.sum()),
        area=float(each_area.sum()),
        bounds=whole,
        bodies=bodies,
        voids=number - bodies,
        genus=genus,
        manifold=number > 0,
        findings=loose_bodies(bodies),
        shells=shells,
    )


def loose_bodies(bodies: int) -> tuple[Finding, ...]:
    return (Finding("loose_bodies", bodies - 1),) if bodies > 1 else ()


def collapsed_faces(mesh: Mesh) -> NDArray[np.bool_]:
    """(m,) triangles that name a vertex twice."""
    a, b, c = mesh.triangles.T
    return (a == b) | (b == c) | (c == a)


def degenerate_faces(mesh: Mesh) -> NDArray[np.bool_]:
    """(m,) triangles without area: two corners the same, or all three in a line (to rounding)."""
    a, b, c = mesh.corners.transpose(1, 0, 2)
    longest = np.maximum.reduce([((b - a) ** 2).sum(1), ((c - b) ** 2).sum(1), ((a - c) ** 2).sum(1)])
    double_area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    return collapsed_faces(mesh) | (double_area <= 1e-14 * longest)


def duplicate_faces(mesh: Mesh) -> NDArray[np.bool_]:
    """(m,) triangles on the same three vertices as an earlier one."""
    if len(mesh.triangles) == 0:
        return np.zeros(0, dtype=bool)
    _, first = np.unique(np.sort(mesh.triangles, axis=1), axis=0, return_index=True)
    found = np.ones(len(mesh.triangles), dtype=bool)
    found[first] = False
    return found


def _shells(mesh: Mesh, topology: Topology) -> tuple[Shell, ...]:
    number, shell = topology.shells
    if number == 0:
        return ()
    volumes = np.bincount(shell, weights=signed_volumes(mesh), minlength=number)
    counts = np.bincount(shell, minlength=number)
    is_open = open_shells(topology)
    low, high = _bounds_by(shell, number, mesh.corners)
    return tuple(
        Shell(int(counts[i]), float(volumes[i]), np.array([low[i], high[i]]), not is_open[i]) for i in range(number)
    )


def _bounds_by(shell: Ints, number: int, corners: Floats) -> tuple[Floats, Floats]:
    """Lowest and highest corner, each (shells, 3), of the triangles of every shell."""
    order = np.argsort(shell, kind="stable")
    starts = np.searchsorted(shell[order], np.arange(number))
    low = np.minimum.reduceat(corners.min(axis=1)[order], starts) if number else np.zeros((0, 3))
    high = np.maximum.reduceat(corners.max(axis=1)[order], starts) if number else np.zeros((0, 3))
    return low, high


def open_shells(topology: Topology) -> NDArray[np.bool_]:
    """(shells,) whether a shell has an edge that is not shared by exactly two faces."""
    number, shell = topology.shells
    _, edge, count = topology._edge_of
    found = np.zeros(number, dtype=bool)
    found[shell[np.flatnonzero(count[edge] == 1) // 3]] = True
    return found


def inside_out(mesh: Mesh, topology: Topology) -> list[bool]:
    """For each shell, whether it is closed and turned the wrong way: inward where it is a body, outward where it is
    a void in one. A shell inside an odd number of others is a void.
    """
    number, shell = topology.shells
    volumes = np.bincount(shell, weights=signed_volumes(mesh), minlength=number)
    is_open = open_shells(topology)
    if number == 1:
        return [bool(volumes[0] < 0 and not is_open[0])]
    found = []
    first_face = np.full(number, -1)
    first_face[shell[::-1]] = np.arange(len(shell))[::-1]
    low, high = _bounds_by(shell, number, mesh.corners)
    for i in range(number):
        around = [
            j
            for j in range(number)
            if j != i and not is_open[j] and np.all(low[j] <= low[i]) and np.all(high[j] >= high[i])
        ]
        point = mesh.vertices[mesh.triangles[first_face[i], 0]]
        depth = sum(abs(winding_number(point, mesh.corners[shell == j])) > 0.5 for j in around)
        # A void is right when turned inward; a body nested in a body is left as it is turned.
        wrong = volumes[i] < 0 and depth % 2 == 0
        found.append(bool(wrong and not is_open[i]))
    return found


def winding_number(point: Floats, corners: Floats) -> float:
    """How often triangles (m, 3, 3) go around a point (3,): solid angles after Van Oosterom and Strackee, 1983."""
    a, b, c = (corners - point).transpose(1, 0, 2)
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    numerator = np.einsum("ij,ij->i", a, np.cross(b, c))
    denominator = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return float(np.arctan2(numerator, denominator).sum() / (2 * np.pi))
