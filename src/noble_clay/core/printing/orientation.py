"""Which way down: ways to lay a body on the bed, each with what it takes to print it so.

Tried are the faces of its convex hull, on which it can lie, and ways spread evenly over the sphere. A quick guess at
what they would want of support, all that is below overhangs, tells the promising ones; of those it is found by slices,
as a rehearsal does, down to the bed or to the body.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel.plain import manifold_of, mesh_of
from noble_clay.core.mesh.mass import areas, normals
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.printing.bed import DOWN, shortest_turn
from noble_clay.core.printing.hull_faces import hull_faces
from noble_clay.core.printing.overhangs import STEEP_DEG
from noble_clay.core.printing.paths import supports

FACES = 60
"""Of the hull, the largest."""

SPREAD = 120
SAME = math.cos(math.radians(3))
TAKEN = 10
SLICES = 60
GAP_MM = 0.4
"""Between a support and what stands beside it: about a line."""

SIMPLER_SHARE = 0.05
"""Of a slice's thickness: so far off may outlines be."""


@dataclass(frozen=True)
class Orientation:
    """down: the way that looks at the bed, a unit vector in the body. support: mm³ below what leans out too far, down
    to the bed or to the body. overhang: mm² of that. height: mm. rests_on: mm² that lie on the bed. neck: mm², the
    smallest layer between a tenth and nine tenths of the height: where it would break. best_for: in what it is first.
    """

    down: tuple[float, float, float]
    support: float
    overhang: float
    height: float
    rests_on: float
    neck: float
    best_for: tuple[str, ...] = ()


Tell = Callable[[float], None]


def orientations(mesh: Mesh, tell: Tell = lambda share: None) -> list[Orientation]:
    """The way it stands, first; and the best others, those with least support first. Raises MeshError for one that is
    empty or not closed.
    """
    solid = manifold_of(mesh)
    if solid.is_empty():
        raise MeshError("this is no closed body, so it cannot be turned for printing: mend it first")
    facing, area, middle = normals(mesh), areas(mesh), mesh.corners.mean(axis=1)
    hull = mesh_of(solid.hull()).vertices
    ways = _ways(solid)
    flat = facing @ ways.T
    scored = []
    for number, way in enumerate(ways):
        heights = -(hull @ way)
        low = float(heights.min())
        leans = flat[:, number] > math.sin(math.radians(STEEP_DEG)) + 1e-9
        above = -(middle[leans] @ way) - low
        lies = above <= 1e-3
        hanging = np.where(lies, 0.0, area[leans])
        support = float((hanging * flat[leans, number] * above).sum())
        rests = float(area[leans][lies].sum())
        scored.append((support, float(hanging.sum()), float(heights.max()) - low, rests, number))
    now = scored[0]
    # All that is below, whatever is in between: no less than what support needs, and told in a moment.
    others = sorted(scored[1:], key=lambda s: (round(s[0], 1), s[2]))[:TAKEN]
    # Whatever it is best in, the tallest and the flattest are there to be chosen.
    others += [max(scored, key=lambda s: s[2]), max(scored, key=lambda s: s[3]), min(scored, key=lambda s: s[2])]
    chosen = {s[4]: s for s in [now, *others]}
    found = []
    for done, (_, overhang, height, rests, number) in enumerate(chosen.values()):
        tell(done / len(chosen))
        way = ways[number]
        support, neck = _sliced(solid, way, height)
        found.append(Orientation(tuple(way.tolist()), support, overhang, height, rests, neck))
    return _named([found[0], *sorted(found[1:], key=lambda o: (round(o.support, 1), o.height))])


def _named(found: list[Orientation]) -> list[Orientation]:
    """With what each is the best of, the one that comes first of equals."""
    best = {
        "least support": min(found, key=lambda o: (round(o.support, 1), -o.rests_on)),
        "tallest": max(found, key=lambda o: round(o.height, 3)),
        "flattest": min(found, key=lambda o: round(o.height, 3)),
        "strongest": max(found, key=lambda o: round(o.neck, 2)),
        "broadest foot": max(found, key=lambda o: round(o.rests_on, 2)),
    }
    return [replace(o, best_for=tuple(word for word, first in best.items() if first is o)) for o in found]


def _ways(solid: Manifold) -> Floats:
    """(n, 3) unit vectors: as it stands, the outward normals of the hull's largest faces, and some of every way."""
    number = np.arange(SPREAD) + 0.5
    z, turn = 1 - 2 * number / SPREAD, number * math.pi * (3 - math.sqrt(5))
    around = np.sqrt(1 - z * z)
    sphere = np.column_stack([around * np.cos(turn), around * np.sin(turn), z])
    ways: list[Floats] = []
    for way in [DOWN, *hull_faces(solid)[:FACES], *sphere]:
        if not ways or np.max(np.array(ways) @ way) < SAME:
            ways.append(way)
    return np.array(ways)


def _sliced(solid: Manifold, way: Floats, height: float) -> tuple[float, float]:
    """The room for support, mm³, and the smallest slice between a tenth and nine tenths of the height, mm²."""
    turned = solid.transform(np.column_stack([shortest_turn(way, DOWN), np.zeros(3)]))
    low, thick = turned.bounding_box()[2], height / SLICES
    slices = [turned.slice(low + (i + 0.5) * thick).simplify(SIMPLER_SHARE * thick) for i in range(SLICES)]
    room = sum(prop.area() for prop in supports(slices, thick, GAP_MM)) * thick
    return room, min(s.area() for s in slices[SLICES // 10 : -SLICES // 10])
