"""How long a print check's parts take on a piece of about 200,000 triangles, beside the nearest calls of libraries.

python -m bench.print [--quick]

Overhangs, walls and balance beside trimesh and libigl; layers beside trimesh's own sections of the same planes; and,
told apart, the paths beside the kernel's bare slices. `worst_ratio` is the worst of the first four.
"""

from __future__ import annotations

import argparse
import json
import statistics
import time
from collections.abc import Callable

import igl
import numpy as np
import trimesh
from scipy.spatial import ConvexHull

from bench.pieces import crab
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.plain import manifold_of, mesh_of
from noble_clay.core.measure.walls import Samples, spread, thickness
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.printing.layers import sections
from noble_clay.core.printing.overhangs import overhanging
from noble_clay.core.printing.paths import blocks, regions
from noble_clay.core.printing.profiles import PRINTERS, Settings
from noble_clay.core.printing.standing import set_down, standing

TURNS = 3
LAYER = 0.2


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="a quarter of the triangles")
    least = 50_000 if parser.parse_args().quick else 200_000
    mesh = set_down(Evaluator().evaluate(crab()).mesh)
    fine = 8.0
    while len(mesh.triangles) < least:
        mesh, fine = mesh_of(manifold_of(mesh).refine_to_length(fine)), fine * 0.7
    height = float(mesh.vertices[:, 2].max())
    print(f"{len(mesh.triangles):,} triangles, {height / LAYER:.0f} layers")
    samples = spread(mesh, 1.0, 100_000)
    reach = float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    levels = (np.arange(int(height / LAYER)) + 0.5) * LAYER
    printer, settings = PRINTERS[0], Settings(layer=LAYER)
    solid = manifold_of(mesh)
    found = sections(solid, LAYER)
    pairs: dict[str, tuple[Callable[[], object], Callable[[], object]]] = {
        "overhangs": (lambda: overhanging(mesh), lambda: their_overhangs(mesh)),
        "walls": (lambda: thickness(mesh, samples, reach), lambda: their_walls(mesh, samples)),
        "balance": (lambda: standing(mesh), lambda: their_balance(mesh)),
        "layers": (
            lambda: sections(manifold_of(mesh), LAYER),
            lambda: trimesh_of(mesh).section_multiplane([0, 0, 0], [0, 0, 1], levels.tolist()),
        ),
        "paths": (
            lambda: list(blocks(regions(found, height, printer, settings), printer, settings)),
            lambda: [solid.slice(float(z)) for z in levels],
        ),
    }
    ratios = {}
    for name, runs in pairs.items():
        times: tuple[list[float], list[float]] = ([], [])
        for _ in range(TURNS):
            for run, kept in zip(runs, times, strict=True):
                started = time.perf_counter()
                run()
                kept.append(time.perf_counter() - started)
        ours, theirs = map(statistics.median, times)
        ratios[name] = ours / theirs
        print(f"{name:<12}{ours:>9.3f}s beside {theirs:>8.3f}s: {ratios[name]:.2f}", flush=True)
    paths = ratios.pop("paths")
    print(json.dumps({"worst_ratio": round(max(ratios.values()), 2), "paths_of_slices": round(paths, 2)}))


def trimesh_of(mesh: Mesh) -> trimesh.Trimesh:
    return trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)


def their_overhangs(mesh: Mesh) -> object:
    found = trimesh_of(mesh)
    return (found.face_normals[:, 2] < -np.sqrt(0.5)) & (found.triangles_center[:, 2] > 0.005)


def their_walls(mesh: Mesh, samples: Samples) -> object:
    """libigl's rays, from the same points."""
    inward = -normals(mesh)[samples.triangle]
    start = samples.points + 1e-6 * inward
    tree = igl.AABB()
    tree.init(mesh.vertices, mesh.triangles)
    return tree.intersect_ray_first(mesh.vertices, mesh.triangles, np.ascontiguousarray(start), inward, 1000.0)


def their_balance(mesh: Mesh) -> object:
    found = trimesh_of(mesh)
    rests = found.vertices[found.vertices[:, 2] < 0.005]
    return found.center_mass, ConvexHull(rests[:, :2])


if __name__ == "__main__":
    main()
