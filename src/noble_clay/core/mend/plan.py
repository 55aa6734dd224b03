"""The mending plan: which steps a mesh needs, run in order, each only while something is wrong."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import igl
import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.mend.close_holes import close_holes
from noble_clay.core.mend.drop_crumbs import drop_crumbs
from noble_clay.core.mend.drop_useless import drop_useless
from noble_clay.core.mend.inspect import Inspection, inspect_mesh
from noble_clay.core.mend.orient import orient
from noble_clay.core.mend.step import Done
from noble_clay.core.mend.weld import weld
from noble_clay.core.mesh import Floats, Mesh


@dataclass(frozen=True)
class Report:
    """What mending found, did and left. deviation: mm, the farthest that either surface is from the other."""

    before: Inspection
    after: Inspection
    steps: tuple[Done, ...]
    deviation: float | None

    def values(self) -> dict[str, Any]:
        return {
            **self.after.values(),
            "steps": [s.values() for s in self.steps],
            "deviation_mm": self.deviation,
            "before": self.before.values(),
        }


def mend(mesh: Mesh) -> tuple[Mesh, Report]:
    """Weld, drop, turn, close and drop crumbs, as far as each is needed. Raises MeshError for a mesh of nothing.

    A mesh with nothing wrong comes back as it is.
    """
    if len(mesh.triangles) == 0:
        raise MeshError("the mesh holds no triangles")
    before = inspect_mesh(mesh)
    now, steps = mesh, list[Done]()

    def take(result: tuple[Mesh, Done]) -> None:
        nonlocal now
        if result[1].count:
            now = result[0]
            steps.append(result[1])

    flawed = {f.kind for f in before.findings}
    if flawed:
        if "open_edges" in flawed:
            take(weld(now, weld_distance(now)))
        take(drop_useless(now))
        take(orient(now))
        take(close_holes(now))
        if any(s.step == "close_holes" for s in steps):
            take(orient(now))
        take(drop_crumbs(now))
    after = inspect_mesh(now) if steps else before
    return now, Report(before, after, tuple(steps), deviation(mesh, now) if steps else 0.0)


def weld_distance(mesh: Mesh) -> float:
    """How near points must be to be one, mm: a hundred-thousandth of the mesh, at most a hundredth of a millimetre."""
    diagonal = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    return min(0.01, 1e-5 * diagonal)


def deviation(before: Mesh, after: Mesh) -> float | None:
    """mm: the largest distance of a vertex or face middle of one mesh from the surface of the other, both ways."""
    if len(before.triangles) == 0 or len(after.triangles) == 0:
        return None
    return max(_farthest(before, after), _farthest(after, before))


def _farthest(source: Mesh, target: Mesh) -> float:
    points: Floats = np.concatenate([source.compact().vertices, source.corners.mean(axis=1)])
    squared = igl.point_mesh_squared_distance(points, target.vertices, target.triangles)[0]
    return float(np.sqrt(np.max(squared)))
