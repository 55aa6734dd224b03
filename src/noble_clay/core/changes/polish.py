"""Polish: smoothing that keeps the volume."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from noble_clay.core.changes.base import ShapeChange, with_vertices
from noble_clay.core.fields import IsNumber
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.long_edges import without_long_edges
from noble_clay.core.mesh.mass import signed_volumes
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.tolerances import SOME
from noble_clay.core.mesh.untangle import untangled

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

INFLATE = -1.06
"""The second step of each round, as a share of the first: what smoothing shrinks is let out again (Taubin 1995)."""

STEADY = 1.4
"""What a round draws the point by that stands out most against its neighbours, as a share of how far it does: more, and
drawing it in and letting it out again puts it further away than it was, each time by more.
"""

LEAST, MOST = 1e-6, 100.0
"""The weights of an edge are kept between these: the greatest is that of one across from an angle of half a degree."""

LOOKS = 60
"""Steps in which it is found how far a point may stand out."""

FINE = 30
"""Edges along the longest side of a part at least, before it is smoothed: there must be points to move."""


class Polish(ShapeChange):
    """Each round draws every vertex towards its neighbours and back out; what volume is lost is then given back."""

    label: ClassVar[str] = "Polish"
    summary: ClassVar[str] = "bumps and ridges smoothed, the volume kept"
    sample: ClassVar[dict[str, Any]] = {"rounds": 8}
    may_cross: ClassVar[bool] = True

    kind: Literal["polish"]
    rounds: Annotated[int, Field(ge=1, le=200, title="Rounds"), IsNumber]
    strength: Annotated[float, Field(gt=0, le=0.9, title="Strength"), IsNumber] = 0.5

    def made(self, solid: Solid) -> Solid:
        coarse, part_of, _ = solid.mesh_with_parts()
        mesh, origin = without_long_edges(coarse, float((solid.bounds[1] - solid.bounds[0]).max()) / FINE)
        part_of = part_of[origin]
        points = mesh.vertices.copy()
        average = _even_average(mesh)
        strength = _held_steady(self.strength, average)
        for _ in range(self.rounds):
            for share in (strength, strength * INFLATE):
                points += share * (average @ points - points)
        smooth, _ = untangled(Mesh(points, mesh.triangles))
        return with_vertices(solid, mesh, part_of, with_volume(mesh, smooth.vertices, solid.volume))


def _even_average(mesh: Mesh) -> csr_matrix:
    """(n, n): takes the points of a closed mesh to the mean of their neighbours, each weighed by the cotangents of the
    angles across from the edge to it (Pinkall and Polthier 1993): on a flat face to themselves, however it is cut up.
    """
    from scipy.sparse import coo_matrix, diags

    number, corners, triangles = len(mesh.vertices), mesh.corners, mesh.triangles
    weights = []
    for k in range(3):
        one, other = (corners[:, (k + i) % 3] - corners[:, k - 1] for i in (0, 1))
        area = np.linalg.norm(np.cross(one, other), axis=1)
        weights.append(np.clip(np.einsum("ij,ij->i", one, other) / np.maximum(area, SOME), LEAST, MOST))
    start, end = triangles.T.reshape(-1), np.roll(triangles, -1, axis=1).T.reshape(-1)
    one_way = coo_matrix((np.concatenate(weights), (start, end)), shape=(number, number)).tocsr()
    both = one_way + one_way.T
    return diags(1 / np.asarray(both.sum(axis=1)).ravel()) @ both


def _held_steady(strength: float, average: csr_matrix) -> float:
    """The strength, or what of it smooths a mesh where points have hardly more than one neighbour that counts: there a
    point and its neighbour may each be put to the other's side.
    """
    if 2 * strength <= STEADY:
        return strength
    farthest = np.sin(np.arange(average.shape[0]) * 2.4)  # any start that is none of the answers: always the same one
    for _ in range(LOOKS):
        farthest = farthest - average @ farthest
        reach = float(np.abs(farthest).max())
        farthest /= reach
    return min(strength, STEADY / reach)


def with_volume(mesh: Mesh, points: Floats, volume: float) -> Floats:
    """The points (n, 3) scaled about their middle so that the mesh encloses `volume`, mm³."""
    now = float(signed_volumes(Mesh(points, mesh.triangles)).sum())
    if now <= 0:
        return points
    middle = points.mean(axis=0)
    found: Floats = middle + (points - middle) * (volume / now) ** (1 / 3)
    return found
