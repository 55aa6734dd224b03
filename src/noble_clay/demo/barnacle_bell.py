"""The barnacle bell: a mesh that arrives broken. It is cracked, its barnacles are stuck on without a join, crumbs lie
about, and a hollow in its crown is turned inside out; all of that is made here.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.mesh.together import together
from noble_clay.core.piece.read import piece_from_values

NAME = "Barnacle bell"
HEIGHT, RADIUS = 50.0, 24.0
BARNACLES, CRUMBS = 9, 5


def barnacle_bell() -> Mesh:
    """The bell as it is found, mm, its mouth down."""
    bell = _cracked(_solid(*_bell()))
    barnacles = [_barnacle(k) for k in range(BARNACLES)]
    hollow = _moved(_solid(_part("h", {"kind": "sphere", "radius": 2.2, "facets": 24})), (0, 0, HEIGHT / 2 - 4.6))
    rng = np.random.default_rng(4)
    crumb = _solid(_part("c", {"kind": "sphere", "radius": 0.35, "facets": 8}))
    crumbs = [_moved(crumb, rng.uniform((-30, -30, -24), (30, 30, 20))) for _ in range(CRUMBS)]
    return together([bell, *barnacles, hollow, *crumbs])


def _part(part_id: str, primitive: dict[str, Any], z: float = 0.0, op: str = "union") -> dict[str, Any]:
    return {"id": part_id, "op": op, "primitive": primitive, "place": {"position": [0, 0, z]}}


def _bell() -> list[dict[str, Any]]:
    return [
        _part("bell", {"kind": "paraboloid", "radius": RADIUS, "height": HEIGHT, "facets": 72}),
        _part(
            "lip", {"kind": "torus", "ring_radius": RADIUS, "tube_radius": 1.8, "facets": 72, "tube_facets": 16}, -25
        ),
        _part("inside", {"kind": "paraboloid", "radius": 20.5, "height": 40, "facets": 64}, -8, "difference"),
    ]


def _solid(*parts: dict[str, Any]) -> Mesh:
    values = {"format": "noble-clay-piece", "version": 1, "name": NAME, "parts": list(parts)}
    return Evaluator().evaluate(piece_from_values(values)).mesh


def _moved(mesh: Mesh, by: Any) -> Mesh:
    return Mesh(mesh.vertices + np.asarray(by, dtype=float), mesh.triangles)


def _cracked(mesh: Mesh) -> Mesh:
    """Without the triangles along a zigzag from the lip up its front."""
    x, y, z = mesh.corners.mean(axis=1).T
    wander = 3.0 * np.sin(z / 4)
    crack = (y < -5) & (np.abs(x - wander) < 1.1) & (z > -12) & (z < 8)
    return mesh.keep(~crack)


def _barnacle(number: int) -> Mesh:
    """A stump with a hole in its top, standing out of the bell's side."""
    size = 2.4 + 0.5 * (number % 3)
    stump = _solid(
        _part("stump", {"kind": "cone", "bottom_radius": size, "top_radius": 0.55 * size, "height": 4, "facets": 20}),
        _part(
            "mouth",
            {"kind": "cone", "bottom_radius": 0.3, "top_radius": 0.4 * size, "height": 3, "facets": 20},
            1.2,
            "difference",
        ),
    )
    turn, share = 2.4 * number + 0.6, 0.2 + 0.06 * number
    height = HEIGHT * (0.5 - share**2 * 1.1)
    out = np.array([np.cos(turn), np.sin(turn), 0.55])
    at = np.array([RADIUS * share * 1.05 * np.cos(turn), RADIUS * share * 1.05 * np.sin(turn), height])
    return _moved(Mesh(stump.vertices @ _towards(out).T, stump.triangles), at)


def _towards(way: Floats) -> Floats:
    """(3, 3) a turn that takes z to a direction."""
    z = way / np.linalg.norm(way)
    x = np.cross([0.0, 0.0, 1.0], z)
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z])
