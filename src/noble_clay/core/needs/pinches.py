"""Places where the joined skin meets itself only along an edge or in a point, by the parts that meet there."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from noble_clay.core.mesh.inspect import contact_pairs
from noble_clay.core.mesh.mesh import diagonal
from noble_clay.core.mesh.tolerances import CONTACT
from noble_clay.core.needs.need import InspectionContext, Need

KINDS = {"overshared_edges", "pinched_vertices"}


def pinches(context: InspectionContext, told: set[frozenset[str | None]]) -> Iterator[Need]:
    """Pinches between other parts than those pairs that are `told` of as touching."""
    if not any(f.kind in KINDS for f in context.result.inspection.findings):
        return
    mesh = context.result.mesh
    pairs = contact_pairs(mesh, CONTACT)
    concerned = np.zeros(len(mesh.vertices), dtype=bool)
    concerned[pairs] = True
    around = np.flatnonzero(concerned[mesh.triangles].any(axis=1))
    triangles, names = mesh.triangles[around], context.result.part_of[around]
    at: dict[frozenset[str], list[int]] = {}
    for pair in pairs:
        faces = np.isin(triangles, pair).any(axis=1)
        parts = frozenset(context.result.part_ids[p] for p in np.unique(names[faces]))
        at.setdefault(parts, []).append(int(pair[0]))
    for parts, vertices in at.items():
        if any(pair <= parts for pair in told):
            continue
        points = mesh.vertices[vertices]
        yield Need(
            "pinched",
            tuple(sorted(parts)),
            points[0] if len(points) == 1 else points.mean(axis=0),
            diagonal(points),
            {"count": len(points)},
        )
