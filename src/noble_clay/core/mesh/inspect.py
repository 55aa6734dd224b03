"""Inspecting a mesh: what it measures, how many bodies it has, and every flaw, counted exactly."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.close_points import close_pairs
from noble_clay.core.mesh.gather import boxes_by
from noble_clay.core.mesh.mass import shell_sums, volumes_and_areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.severity import SEVERITY
from noble_clay.core.mesh.topology import Topology, vertex_shells

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


FLAWS = {kind for kind, severity in SEVERITY.items() if severity == "breaks"}
"""Findings that make a mesh no closed manifold; degenerate faces and loose bodies do not by themselves."""


def inspect_mesh(mesh: Mesh) -> Inspection:
    """Measure a mesh whose vertices are told apart by index, and find its flaws. Vertices at one point should have
    been merged before (see `weld`). Pairs of triangles that cross are counted among those that are not duplicates.
    """
    from noble_clay.core.mesh.crossings import crossing_pairs
    from noble_clay.core.mesh.nesting import depths, inside_out

    degenerate = degenerate_faces(mesh)
    collapsed = collapsed_faces(mesh)
    whole = mesh.keep(~collapsed) if collapsed.any() else mesh
    duplicate = duplicate_faces(whole)
    single = whole.keep(~duplicate) if duplicate.any() else whole
    topology = Topology(single)
    turned, one_sided = topology.turned
    straight = Mesh(single.vertices, np.where(turned[:, None], single.triangles[:, ::-1], single.triangles))
    each_volume, each_area = volumes_and_areas(straight)
    if single is mesh:
        all_volumes, all_areas = np.where(turned, -each_volume, each_volume), each_area
    else:
        all_volumes, all_areas = volumes_and_areas(mesh)
    number, shell = topology.shells
    volumes = shell_sums(shell, each_volume, number)
    closed = topology.closed_shells
    shells = _shells(straight, topology, volumes, closed)
    wrong = inside_out(volumes, depths(straight, shell, closed), closed)
    findings = [
        Finding("open_edges", len(topology.open_half_edges)),
        Finding("overshared_edges", int(np.sum(topology.faces_per_edge > 2))),
        Finding("pinched_vertices", len(topology.pinched)),
        Finding("flipped_faces", int(turned.sum()) + int(one_sided.sum())),
        Finding("inside_out_bodies", int(wrong.sum())),
        Finding("degenerate_faces", int(degenerate.sum())),
        Finding("duplicate_faces", int(duplicate.sum())),
        Finding("self_intersections", len(crossing_pairs(single))),
        Finding("loose_bodies", max(0, sum(s.volume >= 0 for s in shells) - 1)),
    ]
    present = tuple(f for f in findings if f.count)
    whole_and_closed = len(single.triangles) > 0 and not any(f.kind in FLAWS for f in present)
    return Inspection(
        triangles=len(mesh.triangles),
        vertices=len(mesh.vertices),
        volume=float(all_volumes.sum()),
        area=float(all_areas.sum()),
        bounds=mesh.bounds,
        bodies=sum(s.volume >= 0 for s in shells),
        voids=sum(s.volume < 0 for s in shells),
        genus=int(np.sum(2 - topology.euler) // 2) if whole_and_closed else 0,
        manifold=whole_and_closed,
        findings=present,
        shells=shells,
    )


def inspect_solid(
    mesh: Mesh, contact: float, merged: Ints | None = None, shells: tuple[int, Ints] | None = None
) -> Inspection:
    """Inspect the mesh of a solid: manifold by index, so that only contacts need a closer look.

    Vertices of the surface within `contact` mm of each other that no edge links are one point in any file: where
    that makes an edge or vertex overshared, the mesh is no manifold. Whether the surface runs through itself is not
    looked for: see `with_crossings`.

    merged: (k,) vertices that were several ones. shells: as `vertex_shells` tells them, where they are known.
    """
    flaws = contact_flaws(mesh, contact_pairs(mesh, contact), merged)
    apart = _inspect_closed(mesh, *(shells or vertex_shells(mesh)))
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


def with_crossings(inspection: Inspection, crossings: int) -> Inspection:
    """The inspection of a mesh that crosses itself so often."""
    found = (Finding("self_intersections", crossings),) if crossings else ()
    return replace(inspection, findings=inspection.findings + found)


def contact_flaws(mesh: Mesh, pairs: Ints, merged_before: Ints | None = None) -> tuple[Finding, ...]:
    """Edges and vertices that become overshared when each of `pairs` (k, 2) of vertices is one point.

    Only the faces around those points can be concerned, and those around `merged_before`, which have become one by now,
    so only they are looked at.
    """
    before = np.zeros(0, dtype=np.int64) if merged_before is None else merged_before
    if len(pairs) == 0 and len(before) == 0:
        return ()
    to = np.arange(len(mesh.vertices))
    for low, high in pairs:
        to[high] = to[low]
    merged = np.zeros(len(mesh.vertices), dtype=bool)
    merged[to[pairs]] = True
    merged[to[before]] = True
    triangles = to[mesh.triangles]
    near = Mesh(mesh.vertices, triangles[merged[triangles].any(axis=1)])
    topology = Topology(Mesh(near.vertices, near.triangles[~collapsed_faces(near)]))
    overshared = int(np.sum(topology.faces_per_edge > 2))
    pinched = int(merged[topology.pinched].sum())
    found = (Finding("overshared_edges", overshared), Finding("pinched_vertices", pinched))
    return tuple(f for f in found if f.count)


def _inspect_closed(mesh: Mesh, number: int, shell: Ints) -> Inspection:
    """The inspection of a mesh known to be a closed manifold turned outward, voids inward, every vertex in use."""
    each_volume, each_area = volumes_and_areas(mesh)
    volumes = np.bincount(shell, weights=each_volume, minlength=number)
    faces = np.bincount(shell, minlength=number)
    whole = np.array([mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)]) if number else None
    low, high = (
        boxes_by(shell, number, mesh.vertices, mesh.triangles) if number > 1 or whole is None else whole[:, None]
    )
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
    from noble_clay.core.mesh.pairing import thin_triangles

    found: NDArray[np.bool_] = thin_triangles(
        np.ascontiguousarray(mesh.vertices), np.ascontiguousarray(mesh.triangles, dtype=np.int64), 1e-14
    )
    return found


def duplicate_faces(mesh: Mesh) -> NDArray[np.bool_]:
    """(m,) triangles on the same three vertices as an earlier one."""
    from noble_clay.core.mesh.pairing import repeated

    found: NDArray[np.bool_] = repeated(np.ascontiguousarray(mesh.triangles, dtype=np.int64), len(mesh.vertices))
    return found


def _shells(mesh: Mesh, topology: Topology, volumes: Floats, closed: NDArray[np.bool_]) -> tuple[Shell, ...]:
    number, shell = topology.shells
    if number == 0:
        return ()
    counts = np.bincount(shell, minlength=number)
    low, high = boxes_by(shell, number, mesh.vertices, mesh.triangles)
    return tuple(
        Shell(int(counts[i]), float(volumes[i]), np.array([low[i], high[i]]), bool(closed[i])) for i in range(number)
    )
