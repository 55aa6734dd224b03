"""The flat faces of several meshes, down to single triangles, and which of them lie upon one another."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.close_points import DIRECTION, near_pairs
from noble_clay.core.mesh.flat_overlap import cover_the_same
from noble_clay.core.mesh.gather import spans
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh, double_normals
from noble_clay.core.mesh.tolerances import CONTACT, SHARE

KEY_DIRECTION = np.array([*DIRECTION, 1.0]) / math.sqrt(2)
"""Along which planes, each its normal and offset, are sorted."""

SAME = 1e-7
"""Normals that differ by less are of one face; so do distances to the middle, as a share of the longest."""

MANY = 200_000
"""Pairs of triangles that are looked at in one go."""

THIN = 1e-3
"""mm. The normal of a triangle that is nowhere higher says little."""


def are_slanted(normals: Floats) -> NDArray[np.bool_]:
    """(k,) which of some unit normals (k, 3) are along no axis."""
    found: NDArray[np.bool_] = np.abs(normals).max(axis=1) <= 1 - SHARE
    return found


def near_planes(normals: Floats, offsets: Floats) -> Ints:
    """(n, 2) indices of planes within `CONTACT` of each other, whichever way each is turned.

    normals: (k, 3), unit. offsets: (k,), n · p of a point p on each, mm.
    """
    lead = normals[np.arange(len(normals)), np.argmax(np.abs(normals) > 1e-6, axis=1)]
    sign = np.where(lead < 0, -1.0, 1.0)
    keys = np.column_stack([normals * sign[:, None], offsets * sign])
    return near_pairs(keys, keys @ KEY_DIRECTION, CONTACT)


@dataclass(frozen=True, eq=False)
class Patch:
    """Some triangles of a solid. owner: its number. before: how many points the solids before it have. mesh: the whole
    of it. places: (m,) which triangles.
    """

    owner: int
    before: int
    mesh: Mesh
    places: Ints


@dataclass(frozen=True, eq=False)
class Faces:
    """owners: (k,) whose each face is. normals: (k, 3) unit, outward. points: (k, 3), mm, one on each. starts: (k + 1,)
    where its triangles begin among all: corners (m, 3), as numbers among the points of all solids, and places (m,)
    among the owner's.
    """

    owners: Ints
    normals: Floats
    points: Floats
    starts: Ints
    corners: Ints
    places: Ints

    @staticmethod
    def of(patches: list[Patch], middle: Floats) -> Faces:
        """All that are square to no axis. middle: (3,), mm, where they are: offsets are told from there."""
        found = [_faces(patch, middle) for patch in patches]
        sizes = np.concatenate([np.diff(f.starts) for f in found])
        return Faces(
            np.concatenate([f.owners for f in found]),
            np.concatenate([f.normals for f in found]),
            np.concatenate([f.points for f in found]),
            np.concatenate([[0], np.cumsum(sizes)]),
            np.concatenate([f.corners for f in found]),
            np.concatenate([f.places for f in found]),
        )

    def triangles_of(self, faces: Ints) -> tuple[Ints, Ints]:
        """The triangles of each of some faces (n,) in turn, and which of those each is of."""
        sizes = np.diff(self.starts)[faces]
        return spans(self.starts[faces], sizes), np.repeat(np.arange(len(faces)), sizes)

    def in_one_plane(self, points: Floats, middle: Floats) -> Ints:
        """(n, 2) faces of two owners, the lower owner's first, in about one plane, whose boxes meet.

        points: (j, 3) of all solids, mm. middle: as in `of`.
        """
        if len(self.owners) == 0:
            return np.zeros((0, 2), dtype=np.int64)
        corners = points[self.corners]
        low = np.minimum.reduceat(corners.min(axis=1), self.starts[:-1]) - CONTACT
        high = np.maximum.reduceat(corners.max(axis=1), self.starts[:-1]) + CONTACT
        pairs = near_planes(self.normals, np.einsum("ij,ij->i", self.normals, self.points - middle))
        a, b = pairs.T
        near = np.all((low[a] <= high[b]) & (low[b] <= high[a]), axis=1) & (self.owners[a] != self.owners[b])
        pairs = pairs[near]
        pairs = np.where((self.owners[pairs[:, 0]] < self.owners[pairs[:, 1]])[:, None], pairs, pairs[:, ::-1])
        return pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]

    def covering(self, pairs: Ints, points: Floats) -> NDArray[np.bool_]:
        """(n,) which pairs (n, 2) of faces in one plane cover some of the same ground. points: as in `in_one_plane`."""
        corners = points[self.corners]
        number = np.diff(self.starts)[pairs].prod(axis=1)
        many = number > MANY
        found = np.zeros(len(pairs), dtype=bool)
        few = np.flatnonzero(~many)
        for lot in _lots(number[few]):
            found[few[lot]] = self._cover(pairs[few[lot]], corners)
        found[many] = [self._cover_large(one, other, corners) for one, other in pairs[many]]
        return found

    def _cover(self, pairs: Ints, corners: Floats) -> NDArray[np.bool_]:
        """(n,) whether the faces of each pair cover some of the same ground: every triangle of one with every one of
        the other. corners: (m, 3, 3) of all triangles.
        """
        first, second = np.diff(self.starts)[pairs].T
        number = first * second
        of_pair = np.repeat(np.arange(len(pairs)), number)
        within = spans(np.zeros_like(number), number)
        ours = corners[self.starts[pairs[of_pair, 0]] + within // second[of_pair]]
        theirs = corners[self.starts[pairs[of_pair, 1]] + within % second[of_pair]]
        near = _boxes_meet(ours, theirs)
        covering = cover_the_same(ours[near], theirs[near], self.normals[pairs[of_pair[near], 0]], CONTACT)
        found = np.zeros(len(pairs), dtype=bool)
        found[of_pair[near][covering]] = True
        return found

    def _cover_large(self, one: int, other: int, corners: Floats) -> bool:
        """The same of two faces of many triangles: each with those that it meets along one axis, some at a time, until
        any covers.
        """
        ours, theirs = (corners[self.starts[face] : self.starts[face + 1]] for face in (one, other))
        axis = int(np.argmax(np.ptp(ours, axis=(0, 1))))
        low, high = (theirs[:, :, axis].min(axis=1), theirs[:, :, axis].max(axis=1))
        theirs = theirs[np.argsort(low)]
        low, widest = np.sort(low), float((high - low).max())
        first = np.searchsorted(low, ours[:, :, axis].min(axis=1) - widest)
        number = np.searchsorted(low, ours[:, :, axis].max(axis=1), side="right") - first
        for some in _lots(number):
            i, j = np.repeat(some, number[some]), spans(first[some], number[some])
            near = _boxes_meet(ours[i], theirs[j])
            normals = np.broadcast_to(self.normals[one], (int(near.sum()), 3))
            if cover_the_same(ours[i[near]], theirs[j[near]], normals, CONTACT).any():
                return True
        return False

    def with_the_same_corners(self, pairs: Ints, index: Ints) -> NDArray[np.bool_]:
        """(n,) whether both faces of a pair have the same corners and as many triangles over them.

        index: (j,) of all points, equal for those at one place.
        """
        sizes = np.diff(self.starts)[pairs]
        found: NDArray[np.bool_] = sizes[:, 0] == sizes[:, 1]
        named = []
        for side in (0, 1):
            triangles, of = self.triangles_of(pairs[:, side])
            named.append((of[:, None] * len(index) + index[self.corners[triangles]]).reshape(-1))
        for one, other in (named, named[::-1]):
            found[other[~np.isin(other, one)] // len(index)] = False
        return found


def _lots(number: Ints) -> list[Ints]:
    """Which things to take together, in order, of which each makes so many pairs (n,): a lot has about `MANY`."""
    return np.split(np.arange(len(number)), np.flatnonzero(np.diff(np.cumsum(number) // MANY)) + 1)


def _boxes_meet(ours: Floats, theirs: Floats) -> NDArray[np.bool_]:
    """(n,) of pairs of triangles (n, 3, 3)."""
    found: NDArray[np.bool_] = np.all(
        (ours.max(axis=1) >= theirs.min(axis=1)) & (theirs.max(axis=1) >= ours.min(axis=1)), axis=1
    )
    return found


def _faces(patch: Patch, middle: Floats) -> Faces:
    mesh = Mesh(patch.mesh.vertices, patch.mesh.triangles[patch.places])
    across, corners = double_normals(mesh).T, mesh.corners
    areas = np.linalg.norm(across, axis=1)
    longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    normals = across / np.where(areas > 0, areas, 1.0)[:, None]
    kept = np.flatnonzero((areas > THIN * longest) & are_slanted(normals))
    normals, points = normals[kept], corners[kept, 0] - middle
    offsets = np.einsum("ij,ij->i", normals, points) / max(1.0, float(np.abs(points).max(initial=0.0)))
    rounded = np.rint(np.column_stack([normals, offsets]) / SAME)
    order = np.lexsort(rounded.T)
    differs = np.any(np.diff(rounded[order], axis=0) != 0, axis=1)
    starts = np.flatnonzero(np.concatenate([[True], differs]))[: len(kept)]
    return Faces(
        np.full(len(starts), patch.owner),
        normals[order[starts]],
        points[order[starts]] + middle,
        np.append(starts, len(kept)),
        mesh.triangles[kept[order]] + patch.before,
        patch.places[kept[order]],
    )
