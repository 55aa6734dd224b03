"""How thick a body is: from points of its skin straight inward to the other side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Ints, Mesh
from noble_clay.core.mesh.rays import first_met
from noble_clay.core.mesh.tolerances import HAIR

PLASTIC = 0.7548776662466927, 0.5698402909980532
"""Steps of the evenest known sequence of points in a square (M. Roberts, "The unreasonable effectiveness of
quasirandom sequences", 2018)."""

OPPOSITE = 0.9
"""Cosine of the angle up to which two faces are the two sides of a wall, and no edge or tip: 26 degrees."""


@dataclass(frozen=True, eq=False)
class Samples:
    """Points spread evenly over a skin. points: (n, 3) mm. triangle: (n,) on which each lies. area: (n,) mm² that each
    stands for.
    """

    points: Floats
    triangle: Ints
    area: Floats


def spread(mesh: Mesh, apart: float, most: int) -> Samples:
    """At least one point on every triangle, and about one for every square of `apart` mm; fewer where that would be
    more than `most` besides.
    """
    area = areas(mesh)
    square = max(apart * apart, float(area.sum()) / most)
    counts = np.maximum(1, np.ceil(area / square)).astype(np.int64)
    triangle = np.repeat(np.arange(len(area)), counts)
    number = np.arange(len(triangle)) - np.repeat(np.cumsum(counts) - counts, counts)
    u, v = ((1 / 3 + number * step) % 1.0 for step in PLASTIC)
    beyond = u + v > 1
    u, v = np.where(beyond, 1 - u, u), np.where(beyond, 1 - v, v)
    a, b, c = mesh.corners[triangle].transpose(1, 0, 2)
    points = a + u[:, None] * (b - a) + v[:, None] * (c - a)
    return Samples(points, triangle, (area / counts)[triangle])


def thickness(mesh: Mesh, samples: Samples, reach: float) -> tuple[Floats, Ints]:
    """(n,) mm from each point straight inward to the other side, at most `reach`, infinite where there is none or what
    is met there does not face the other way; and (n,) which triangle is met, or -1. The mesh must be closed.
    """
    thick, met = np.full(len(samples.points), np.inf), np.full(len(samples.points), -1, dtype=np.int64)
    facing = normals(mesh)
    inward = -facing[samples.triangle]
    asked = np.flatnonzero(np.einsum("ij,ij->i", inward, inward) > 0.5)  # a triangle without area faces nowhere
    if len(asked) == 0:
        return thick, met
    start = samples.points[asked] + HAIR * inward[asked]
    hit, far = first_met(mesh, start, inward[asked], reach)
    opposite = hit >= 0
    opposite[opposite] = np.einsum("ij,ij->i", facing[hit[opposite]], inward[asked[opposite]]) >= OPPOSITE
    thick[asked[opposite]] = far[opposite] + HAIR
    met[asked[opposite]] = hit[opposite]
    return thick, met
