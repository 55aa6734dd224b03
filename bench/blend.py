"""A blend of two 30 mm primitives at 0.25 mm, beside libigl's signed distance on the same lattice.

python -m bench.blend [--quick]

Ours: from the two parts to the blended solid, once each as union, difference and intersection, exact join and all.
libigl's: the signed distance to both meshes at every lattice point of the box around the seam, which is where a blend
by sampling begins; nothing else. `faster` is libigl's time to ours, the median over the pairs. A quick run measures
libigl at a share of the points and scales its time up.
"""

from __future__ import annotations

import argparse
import json
import statistics
import time

import igl
import numpy as np

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values

CELL, BLEND = 0.25, 3.0
PAIRS = {
    "ball, ball": ({"kind": "sphere", "radius": 15}, {"kind": "sphere", "radius": 15}, [14, 5, 3]),
    "block, post": ({"kind": "box", "size": [30, 30, 30]}, {"kind": "cylinder", "radius": 8, "height": 30}, [4, 2, 12]),
    "ring, ball": ({"kind": "torus", "ring_radius": 11, "tube_radius": 4}, {"kind": "sphere", "radius": 15}, [6, 0, 9]),
}


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    share = 20 if parser.parse_args().quick else 1
    ratios = []
    print(f"{'pair':<14}{'join':<14}{'ours, ms':>10}{'libigl, ms':>12}{'points':>12}{'ratio':>8}")
    for name, (first, second, at) in PAIRS.items():
        points, theirs = distances(first, second, at, share)
        for op in ("union", "difference", "intersection"):
            ours = min(blended(document(first, second, at, op)) for _ in range(3))
            ratios.append(theirs / ours)
            print(f"{name:<14}{op:<14}{ours * 1000:>10.0f}{theirs * 1000:>12.0f}{points:>12,}{ratios[-1]:>8.1f}")
    print(json.dumps({"faster": round(statistics.median(ratios), 1), "least": round(min(ratios), 1)}))


def document(first: dict[str, object], second: dict[str, object], at: list[float], op: str) -> Piece:
    parts = [{"id": "a", "primitive": first}, {"id": "b", "op": op, "primitive": second, "place": {"position": at}}]
    join = {"id": "j", "join": {"blend": BLEND, "fineness": CELL, "parts": parts}}
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": "Blend", "parts": [join]})


def blended(piece: Piece) -> float:
    """Seconds."""
    evaluator = Evaluator()
    for part in piece.parts[0].children:  # the parts themselves are there before they are joined
        evaluator.part_solid(part)
    started = time.perf_counter()
    result = evaluator.part_solid(piece.parts[0])
    assert result.manifold.num_tri() > 0
    return time.perf_counter() - started


def distances(first: dict[str, object], second: dict[str, object], at: list[float], share: int) -> tuple[int, float]:
    """How many lattice points the box around the seam has, and the seconds libigl takes for both distances there."""
    evaluator = Evaluator()
    solids = [evaluator.part_solid(p) for p in document(first, second, at, "union").parts[0].children]
    low = np.maximum(*(s.bounds[0] for s in solids)) - BLEND
    high = np.minimum(*(s.bounds[1] for s in solids)) + BLEND
    axes = [np.arange(a, b, CELL) for a, b in zip(low, high, strict=True)]
    points = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
    some = np.ascontiguousarray(points[::share])
    started = time.perf_counter()
    for solid in solids:
        mesh = solid.mesh_only()
        igl.signed_distance(some, mesh.vertices, mesh.triangles)
    return len(points), (time.perf_counter() - started) * share


if __name__ == "__main__":
    main()
