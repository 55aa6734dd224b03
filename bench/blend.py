"""Soft lists beside the bare kernel's sharp boolean of the same parts, and a blend of two beside libigl's distances.

python -m bench.blend [--quick]

A figure of 13 parts, an octopus of 97, 300 scales on a ball, two boxes; all until the triangles are there to be shown
and measured, which for a soft list takes no kernel, by a process that begins as a solver does. `…_whole` is the whole
after one part was moved, with what was learnt before, to the kernel's time; `…_first` the same, made by an evaluator
that knows the parts but nothing of the list, to that; `…_draft_ms` the median of drafts while that part moves, and
`…_draft` its ratio to the whole. `first_worst` is the largest first. `beyond_…_mm` is the most that vertices of the
result further than the radius from every other part are off their parts' true surfaces, and `own_share` how many of
them are vertices of the parts' own meshes. `seam_5deg` is the share of the length of edges at the seam at which the
surface turns by more than 5°, the parts' own facets included; `own_5deg` that of the parts' own meshes by themselves at
the same places.

Then a blend of two 30 mm primitives at 0.25 mm, beside libigl's signed distance on the same lattice. Ours: from the
two parts to the blended solid, once each as union, difference and intersection, exact join and all. libigl's: the
signed distance to both meshes at every lattice point of the box around the seam, which is where a blend by sampling
begins; nothing else. `faster` is libigl's time to ours, the median over the pairs. A quick run measures libigl at a
share of the points and scales its time up, and leaves the scales out.
"""

from __future__ import annotations

import argparse
import importlib
import json
import statistics
import time

import igl
import numpy as np
from scipy.spatial import cKDTree

from bench.evaluate import best, kernel
from bench.pieces import figure, octopus, scales, soft, two_boxes
from noble_clay.core.evaluate.drafts import Drafter
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.heavy import HEAVY
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.half_edges import across
from noble_clay.core.mesh.mesh import Floats, Mesh, double_normals
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values

LISTS = {
    "boxes": (two_boxes, 3.0, 1),
    "figure": (figure, 3.0, 2),
    "octopus": (octopus, 1.5, 30),
    "scales": (lambda: scales(300, 32), 1.0, 40),
}
"""The parts, the radius, and which part is moved."""

CELL, BLEND = 0.25, 3.0
PAIRS = {
    "ball, ball": ({"kind": "sphere", "radius": 15}, {"kind": "sphere", "radius": 15}, [14, 5, 3]),
    "block, post": ({"kind": "box", "size": [30, 30, 30]}, {"kind": "cylinder", "radius": 8, "height": 30}, [4, 2, 12]),
    "ring, ball": ({"kind": "torus", "ring_radius": 11, "tube_radius": 4}, {"kind": "sphere", "radius": 15}, [6, 0, 9]),
}


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    quick = parser.parse_args().quick
    for module in HEAVY:  # each solver has them from its first moment
        importlib.import_module(module)
    found: dict[str, float] = {}
    print(f"{'soft list':<12}{'kernel, ms':>12}{'first, ms':>11}{'again, ms':>11}{'draft, ms':>11}{'triangles':>11}")
    for name, (sharp, radius, moved) in LISTS.items():
        if not quick or name != "scales":
            found |= measured(name, sharp(), radius, moved)
    found["first_worst"] = max(value for key, value in found.items() if key.endswith("_first"))
    share = 20 if quick else 1
    ratios = []
    print(f"{'pair':<14}{'join':<14}{'ours, ms':>10}{'libigl, ms':>12}{'points':>12}{'ratio':>8}")
    for name, (first, second, at) in PAIRS.items():
        points, theirs = distances(first, second, at, share)
        for op in ("union", "difference", "intersection"):
            ours = min(blended(document(first, second, at, op)) for _ in range(3))
            ratios.append(theirs / ours)
            print(f"{name:<14}{op:<14}{ours * 1000:>10.0f}{theirs * 1000:>12.0f}{points:>12,}{ratios[-1]:>8.1f}")
    found |= {"faster": statistics.median(ratios), "least": min(ratios)}
    print(json.dumps({key: round(value, 4) for key, value in found.items()}))


def measured(name: str, sharp: Piece, radius: float, moved: int) -> dict[str, float]:
    """The times and ratios of one list."""
    seconds, _ = best(kernel, sharp, 3)
    evaluator = Evaluator()
    evaluator.evaluate(sharp, crossings=False)  # the parts themselves are there
    before = soft(sharp, radius)
    started = time.perf_counter()
    first = evaluator.list_solid(before.parts)
    triangles, first_seconds = len(first.mesh_only().triangles), time.perf_counter() - started
    drafter, drafts, again = Drafter(evaluator), [], []
    for n in range(1, 8):
        after = shifted(before, moved, 0.3 * n)
        started = time.perf_counter()
        drafter.draft(before, after, within=first.bounds).solid.mesh_only()
        drafts.append(time.perf_counter() - started)
    for n in (1, 2, 3):
        started = time.perf_counter()
        evaluator.list_solid(shifted(before, moved, 0.3 * n).parts).mesh_only()
        again.append(time.perf_counter() - started)
    draft, whole = statistics.median(drafts), statistics.median(again)
    told = [seconds, first_seconds, whole, draft]
    print(f"{name:<12}{told[0] * 1e3:>12.0f}" + "".join(f"{t * 1e3:>11.0f}" for t in told[1:]) + f"{triangles:>11,}")
    found = {f"{name}_first": first_seconds / whole, f"{name}_whole": whole / seconds}
    found |= {f"{name}_draft_ms": draft * 1e3, f"{name}_draft": draft / whole}
    if name in ("boxes", "figure"):
        found |= beyond(name, evaluator, before, radius, first)
    return found


def shifted(piece: Piece, moved: int, by: float) -> Piece:
    values = piece.dump()
    place = values["parts"][0]["join"]["parts"][moved].setdefault("place", {})
    x, y, z = place.get("position", [0, 0, 0])
    place["position"] = [x, y, z + by]
    return piece_from_values(values)


def beyond(name: str, evaluator: Evaluator, piece: Piece, radius: float, solid: Solid) -> dict[str, float]:
    """How true the surface is beyond the seam, and how smoothly it runs at it."""
    parts = piece.parts[0].children
    distances = [MeshDistance(evaluator.part_solid(p).mesh_only()) for p in parts]
    mesh = solid.mesh_only()
    away = np.abs(np.array([d(mesh.vertices) for d in distances]))
    nearest, second = np.sort(away, axis=0)[:2]
    far = second > radius
    own = np.concatenate([evaluator.part_solid(p).vertices for p in parts])
    beyond_border = second > 1.25 * radius  # two cells of the lattice, as it is by default
    of_own = cKDTree(own).query(mesh.vertices[beyond_border])[0] < 1e-6
    turned, length = turning(mesh, second, radius)
    own_turned = own_length = 0.0
    for n, d in enumerate(distances):
        others = distances[:n] + distances[n + 1 :]
        seen = d.mesh.keep((nearest_of(others, d.mesh.vertices) > 0)[d.mesh.triangles].all(axis=1))
        found = turning(seen, nearest_of(others, seen.vertices), radius)
        own_turned, own_length = own_turned + found[0], own_length + found[1]
    return {
        f"beyond_{name}_mm": float(nearest[far].max()),
        f"own_share_{name}": float(of_own.mean()),
        f"seam_5deg_{name}": turned / length,
        f"own_5deg_{name}": own_turned / own_length if own_length else 0.0,
    }


def nearest_of(distances: list[MeshDistance], points: Floats) -> Floats:
    """(n,) how far points are from the nearest of some parts, mm, negative within."""
    found: Floats = np.min([distance(points) for distance in distances], axis=0)
    return found


def turning(mesh: Mesh, away: Floats, radius: float) -> tuple[float, float]:
    """mm of edges about the seam at which a surface turns by more than 5°, and of all there. away: (n,) how far its
    vertices are from the nearest part that they are not of, mm.
    """
    normals = double_normals(mesh).T
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    other = across(mesh.triangles, len(mesh.vertices))
    lengths = np.linalg.norm(np.roll(mesh.corners, -1, axis=1) - mesh.corners, axis=2)
    turn = np.degrees(np.arccos(np.clip(np.einsum("tj,tkj->tk", normals, normals[other]), -1, 1)))
    about = np.abs(away - radius)[mesh.triangles].min(axis=1) < radius / 8
    at_seam = about[:, None] & (other > np.arange(len(other))[:, None])
    return float(lengths[at_seam & (turn > 5)].sum()), float(lengths[at_seam].sum())


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
    assert len(result.mesh_only().triangles) > 0
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
