"""How far mending moved a surface, both ways."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.gather import equal_corners
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Mesh


@dataclass(frozen=True)
class Moved:
    """mm: the largest distance between two surfaces, both ways, and the mean over their area; None where one of them is
    empty.
    """

    largest: float | None
    typical: float | None

    @staticmethod
    def between(before: Mesh, after: Mesh) -> Moved:
        """Measured at vertices and face middles; triangles that are in both to the last bit are as far as nothing."""
        if len(before.triangles) == 0 or len(after.triangles) == 0:
            return Moved(None, None)
        kept_before, kept_after = _in_both(before, after)
        found = [_away(before.keep(~kept_before), after), _away(after.keep(~kept_after), before)]
        largest = max((float(d.max()) for d, _ in found if len(d)), default=0.0)
        area = float(areas(before).sum() + areas(after).sum())
        return Moved(largest, float(sum((d * w).sum() for d, w in found)) / area if area > 0 else 0.0)


def _away(source: Mesh, target: Mesh) -> tuple[Floats, Floats]:
    """Distances of corners and middles of some triangles from a surface, and how much area each stands for."""
    if len(source.triangles) == 0:
        return np.zeros(0), np.zeros(0)
    distance = MeshDistance(target)
    at_corners = distance.unsigned_distance(source.vertices)[0][source.triangles]
    at_middles = distance.unsigned_distance(source.corners.mean(axis=1))[0]
    size = areas(source)
    return (
        np.concatenate([at_corners.ravel(), at_middles]),
        np.concatenate([np.repeat(size / 4, 3), size / 4]),
    )


def _in_both(before: Mesh, after: Mesh) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which triangles of each have their corners in the other too, in any order."""
    points = np.concatenate([before.vertices, after.vertices])
    index, _ = equal_corners(np.ascontiguousarray(points))
    known = [np.sort(index[: len(before.vertices)][before.triangles], axis=1)]
    known.append(np.sort(index[len(before.vertices) :][after.triangles], axis=1))
    codes, _ = equal_corners(np.concatenate(known).astype(np.float64))
    one, other = np.split(codes, [len(before.triangles)])
    return np.isin(one, other), np.isin(other, one)
