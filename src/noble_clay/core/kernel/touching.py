"""Slanted faces upon one another: with the same triangles, or one a hair past the other, so that the kernel has no tie
to break.

The corners of a face that is square to no axis cannot lie exactly on one plane, nor can those that a cut makes in it.
Two such faces upon one another are to an exact kernel a hair of gap here and a hair of overlap there, and what it makes
of them hangs together by points and edges only. So where all faces in contact have the same corners, they get the same
triangles, and the kernel takes them for one. Else the later part's face goes past the earlier's: added to a body that
it stands against, or to a hole that it fills, into the body; taken from a body that it only touches, back out of it;
taken flush with the body's own face, out beyond that.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.kernel.faces import Faces, Patch, are_slanted, near_planes
from noble_clay.core.kernel.planes import Planes
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.gather import distinct, equal_corners, unique_rows
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.tolerances import CONTACT, HAIR
from noble_clay.core.mesh.topology import Topology

NEARLY_ONE = 1e-2
"""Directions less than about 11° apart (this, of how far they differ squared) are one, to a corner that goes along."""

Flags = NDArray[np.bool_]


def settle_faces(solids: list[Solid], ops: list[str], moved: list[Floats], sharing: Ints) -> dict[int, Ints]:
    """Moves `moved`, the vertices of each solid, by hardly more than `CONTACT`; or returns the triangles of solids that
    need others for their faces to agree with a neighbour's, by their numbers.

    ops: how each enters. sharing: (n, 2) solids that have some points in common, the earlier first.
    """
    planes = _in_one_plane([Planes.none() if s.empty else s.planes for s in solids])
    couples = unique_rows(np.concatenate([sharing, planes]))
    if len(couples) == 0:
        return {}
    patches, middle = _where_they_meet(solids, moved, couples)
    faces = Faces.of(patches, middle)
    every = np.concatenate(moved)
    pairs = faces.in_one_plane(every, middle)
    code = np.array([len(solids), 1])
    pairs = pairs[np.isin(faces.owners[pairs] @ code, couples @ code)]
    cutter = np.array([op == "difference" and i > 0 for i, op in enumerate(ops)])
    way = _ways(faces, pairs, np.array([op == "union" for op in ops]), cutter)
    kept = way != 0
    kept[kept] = faces.covering(pairs[kept], every)
    touching = pairs[kept]
    if len(touching) == 0:
        return {}
    index, _ = equal_corners(every)
    agree = faces.with_the_same_corners(touching, index) & ~cutter[faces.owners[touching[:, 0]]]
    # All or none: what goes past one neighbour agrees with no other any more.
    if agree.all():
        return _made_alike(faces, touching, index, {p.owner: p for p in patches})
    # What lies upon another without going past it stays in its plane, where its solid moves at all.
    beside = (way == 0) & np.isin(faces.owners[pairs[:, 1]], faces.owners[touching[:, 1]])
    beside[beside] = faces.covering(pairs[beside], every)
    pairs, way = pairs[kept | beside], way[kept | beside]
    every += _moves(faces, pairs, way, len(every))
    moved[:] = np.split(every, np.cumsum([len(m) for m in moved])[:-1])
    return {}


def _in_one_plane(planes: list[Planes]) -> Ints:
    """(k, 2) solids with large flat faces in about one plane and near each other, the earlier first."""
    every = Planes.together(planes)
    owners = np.repeat(np.arange(len(planes)), [len(p.reaches) for p in planes])
    if len(owners) < 2 or owners[0] == owners[-1]:
        return np.zeros((0, 2), dtype=np.int64)
    slanted = np.flatnonzero(are_slanted(every.normals))
    pairs = slanted[near_planes(every.normals[slanted], every.offsets[slanted])]
    pairs = pairs[owners[pairs[:, 0]] != owners[pairs[:, 1]]]
    between = np.linalg.norm(every.middles[pairs[:, 0]] - every.middles[pairs[:, 1]], axis=1)
    pairs = pairs[between <= every.reaches[pairs].sum(axis=1) + CONTACT]
    return np.sort(owners[pairs], axis=1)


def _where_they_meet(solids: list[Solid], moved: list[Floats], couples: Ints) -> tuple[list[Patch], Floats]:
    """Of each solid in a couple the triangles that come near one that it is coupled with; and the middle of it all."""
    before = np.cumsum([0, *(len(m) for m in moved)])
    every = np.zeros((len(solids), 2, 3))
    coupled = distinct(couples)
    every[coupled] = [[moved[i].min(axis=0), moved[i].max(axis=0)] for i in coupled]
    low = every[couples, 0].max(axis=1) - CONTACT
    high = every[couples, 1].min(axis=1) + CONTACT
    lows, highs = np.full((len(solids), 3), np.inf), np.full((len(solids), 3), -np.inf)
    for side in (0, 1):
        np.minimum.at(lows, couples[:, side], low)
        np.maximum.at(highs, couples[:, side], high)
    found = []
    for i in coupled.tolist():
        mesh = Mesh(moved[i], solids[i].mesh_only().triangles)
        corners = mesh.corners
        near = np.all((corners.max(axis=1) >= lows[i]) & (corners.min(axis=1) <= highs[i]), axis=1)
        found.append(Patch(i, int(before[i]), mesh, np.flatnonzero(near)))
    return found, (lows[coupled] + highs[coupled]).mean(axis=0) / 2


def _ways(faces: Faces, pairs: Ints, added: Flags, cutter: Flags) -> Ints:
    """(n,) where the second face of each pair goes along its own normal: out (1), back (-1), or nowhere (0).

    added, cutter: (s,) how each solid enters.
    """
    first, second = faces.owners[pairs].T
    along = np.einsum("ij,ij->i", faces.normals[pairs[:, 0]], faces.normals[pairs[:, 1]])
    # What a cutter leaves stands on the other side of its faces.
    facing = np.where(cutter[first], -along, along) < 0
    return np.where(added[second], np.where(facing, 1, 0), np.where(facing, -1, 1))


def _made_alike(faces: Faces, pairs: Ints, index: Ints, patches: dict[int, Patch]) -> dict[int, Ints]:
    """The triangles of solids some of whose faces get those of the face that they lie upon, which has their corners.

    index: (j,) of the points of all solids, equal for those at one place. patches: by owner.
    """
    corners = faces.corners.copy()
    changed: set[int] = set()
    _, once = np.unique(pairs[:, 1], return_index=True)
    for first, second in pairs[once]:
        one, other = (slice(faces.starts[f], faces.starts[f + 1]) for f in (first, second))
        if _same_rows(np.sort(index[corners[one]], axis=1), np.sort(index[corners[other]], axis=1)):
            continue
        own = corners[other].reshape(-1)
        order = np.argsort(index[own], kind="stable")
        at = np.searchsorted(index[own], index[corners[one]], sorter=order)
        turn = 1 if faces.normals[first] @ faces.normals[second] > 0 else -1
        corners[other] = own[order[at]][:, ::turn]
        changed.add(int(faces.owners[second]))
    found = {}
    for owner in changed:
        patch = patches[owner]
        mine = np.repeat(faces.owners, np.diff(faces.starts)) == owner
        triangles = patch.mesh.triangles.copy()
        triangles[faces.places[mine]] = corners[mine] - patch.before
        if Topology(Mesh(patch.mesh.vertices, triangles)).is_manifold:
            found[owner] = triangles
    return found


def _same_rows(a: Ints, b: Ints) -> bool:
    return np.array_equal(a[np.lexsort(a.T)], b[np.lexsort(b.T)])


def _moves(faces: Faces, pairs: Ints, way: Ints, number: int) -> Floats:
    """(number, 3) how far the points of all solids go, mm: each so that every face that it is a corner of comes to
    where it should be, as nearly as may be. Faces that lie upon another but go nowhere stay in its plane.
    """
    # Of the faces that one lies upon, the first that it goes past says where to.
    order = np.argsort(way == 0, kind="stable")
    _, once = np.unique(pairs[order, 1], return_index=True)
    chosen = order[once]
    upon, going = pairs[chosen].T
    far = np.einsum("ij,ij->i", faces.normals[going], faces.points[upon] - faces.points[going]) + way[chosen] * HAIR
    triangles, of = faces.triangles_of(going)
    corners, of = faces.corners[triangles].reshape(-1), np.repeat(of, 3)
    goes = np.zeros(number, dtype=bool)
    goes[corners[way[chosen][of] != 0]] = True
    at, of = unique_rows(np.column_stack([corners, of])[goes[corners]]).T
    at, row = np.unique(at, return_inverse=True)
    normals = faces.normals[going][of]
    squares, sums = np.zeros((len(at), 3, 3)), np.zeros((len(at), 3))
    np.add.at(squares, row, normals[:, :, None] * normals[:, None, :])
    np.add.at(sums, row, normals * far[of][:, None])
    found = np.zeros((number, 3))
    found[at] = np.einsum("nij,nj->ni", np.linalg.pinv(squares, rcond=NEARLY_ONE, hermitian=True), sums)
    return found
