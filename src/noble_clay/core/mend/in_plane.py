"""Which triangles overlap in one plane, and which edges lie in the plane of a triangle, over it: where surfaces touch,
so that how they cross is decided by rounding.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mend.window import beside
from noble_clay.core.mesh.box_tree import meeting_boxes
from noble_clay.core.mesh.cross import slack_of
from noble_clay.core.mesh.gather import connected_components, distinct, unique_rows
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.topology import Topology

OFF = 4.0
"""How far off a plane points may be, in slacks, and lie in it."""


def sheets_of(mesh: Mesh, pairs: Ints) -> Iterator[tuple[Ints, Ints]]:
    """Triangles (k,) of one plane that overlap, or have edges of others lying on them, with those edges (e, 2): about
    the triangles that cross, pairs (k, 2).
    """
    return _Touching.of(mesh, pairs).sheets(mesh)


@dataclass
class _Touching:
    """flat: (f, 2) triangles that overlap in one plane. marks: (k, 3) triangles, each with the ends of an edge of
    another that lies in its plane and over it. off: mm, how far off a plane points may be and lie in it.
    """

    flat: Ints
    marks: Ints
    off: float

    @staticmethod
    def of(mesh: Mesh, pairs: Ints) -> _Touching:
        off = OFF * slack_of(mesh)
        candidates = meeting_boxes(mesh, np.flatnonzero(beside(mesh, distinct(pairs))))
        both = np.concatenate([candidates, candidates[:, ::-1]])
        one, other = both.T
        away = np.abs(_heights(mesh, one, other)) <= off
        flat = both[away.all(axis=1) & np.isin(_code(mesh, both), _code(mesh, pairs))]
        sides = [
            np.column_stack([one[at], mesh.triangles[other[at], k], mesh.triangles[other[at], (k + 1) % 3]])
            for k in range(3)
            for at in [np.flatnonzero(away[:, k] & away[:, (k + 1) % 3])]
        ]
        marks = np.concatenate(sides)
        marks[:, 1:] = np.sort(marks[:, 1:], axis=1)
        marks = unique_rows(marks)
        return _Touching(flat, marks[_over(mesh, marks, off)], off)

    def sheets(self, mesh: Mesh) -> Iterator[tuple[Ints, Ints]]:
        members = distinct(np.concatenate([self.flat.reshape(-1), self.marks[:, 0]]))
        if len(members) == 0:
            return
        inside = np.zeros(len(mesh.triangles), dtype=bool)
        inside[members] = True
        halves, _ = Topology(mesh).pairs
        beside = halves[inside[halves // 3].all(axis=1)] // 3
        level = [_heights(mesh, beside[:, i], beside[:, 1 - i]) for i in (0, 1)]
        beside = beside[(np.abs(np.stack(level)) <= self.off).all(axis=(0, 2))]
        _, label = connected_components(len(mesh.triangles), np.ascontiguousarray(np.concatenate([self.flat, beside])))
        sizes = areas(mesh)
        members = members[np.argsort(-sizes[members], kind="stable")]
        _, first, which = np.unique(label[members], return_index=True, return_inverse=True)
        lead = members[first][which.reshape(-1)]
        members = members[(np.abs(_heights(mesh, lead, members)) <= self.off).all(axis=1)]
        members = members[np.argsort(label[members], kind="stable")]
        owner = label[self.marks[:, 0]]
        for own in np.split(members, np.flatnonzero(np.diff(label[members])) + 1):
            there = self.marks[(owner == label[own[0]]) & np.isin(self.marks[:, 0], own)]
            yield own, unique_rows(there[:, 1:])


def _code(mesh: Mesh, pairs: Ints) -> Ints:
    low, high = np.sort(pairs, axis=1).T
    found: Ints = low * len(mesh.triangles) + high
    return found


def _heights(mesh: Mesh, one: Ints, other: Ints) -> Floats:
    """(k, 3) how far the corners of the triangles `other` (k,) are off the planes of `one` (k,), mm."""
    corners = mesh.corners
    of, origin = corners[one], corners[one, 0]
    normal = np.cross(of[:, 1] - origin, of[:, 2] - origin)
    normal /= np.maximum(np.linalg.norm(normal, axis=1), np.finfo(float).tiny)[:, None]
    return np.einsum("kij,kj->ki", corners[other] - origin[:, None], normal)


def _over(mesh: Mesh, marks: Ints, off: float) -> NDArray[np.bool_]:
    """(k,) whether edges lie over more of their triangle than a spot. marks: (k, 3) triangles and their edges' ends."""
    corners = mesh.vertices[mesh.triangles[marks[:, 0]]]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    start, way = mesh.vertices[marks[:, 1]], mesh.vertices[marks[:, 2]] - mesh.vertices[marks[:, 1]]
    low, high = np.zeros(len(marks)), np.ones(len(marks))
    for k in range(3):
        inward = np.cross(normal, corners[:, (k + 1) % 3] - corners[:, k])
        inward /= np.maximum(np.linalg.norm(inward, axis=1), np.finfo(float).tiny)[:, None]
        here = np.einsum("ij,ij->i", start - corners[:, k], inward)
        more = np.einsum("ij,ij->i", way, inward)
        with np.errstate(divide="ignore", invalid="ignore"):
            at = -here / more
        low = np.where(more > 0, np.maximum(low, at), low)
        high = np.where(more < 0, np.minimum(high, at), high)
        high = np.where((more == 0) & (here <= off), -1.0, high)
        high = np.where(np.maximum(here, here + more) <= off, -1.0, high)  # along that side, or beyond it
    long = np.linalg.norm(way, axis=1)
    found: NDArray[np.bool_] = (high - low) * long > 2 * off
    return found
