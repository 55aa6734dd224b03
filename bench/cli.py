"""The command line beside bare scripts that import the kernel, join the same meshes and write the same STL.

python -m bench.cli [--quick]

Every run is a process of its own, each the best of several; seconds of the clock and of CPU are both compared, and the
worse ratio counts. `help_s`: the clock for `noble-clay --help`. `start_ratio`: `noble-clay build` of a single box to
the bare script for it. `build_ratio`: what a piece takes beyond the single box, soundness and file included, to what it
takes the script beyond that; the median over the demo and 30 generated pieces.
"""

from __future__ import annotations

import argparse
import json
import os
import pickle
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from bench.pieces import chain, scales, wall
from noble_clay.core.mesh.affine import compose
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.piece.read import piece_from_values
from noble_clay.demo.loader import demo_pieces

NOBLE_CLAY = [str(Path(sys.executable).with_name("noble-clay"))]
BARE = """
import pickle, sys
import numpy as np
from manifold3d import Manifold, Mesh64, OpType
meshes, steps = pickle.load(open(sys.argv[1], "rb"))
def made(steps):
    result = None
    for op, run in steps:
        solids = [] if result is None else [result]
        for source, matrices in run:
            base = Manifold(Mesh64(*meshes[source])) if isinstance(source, int) else made(source)
            placed = [base.transform(m) for m in matrices]
            solids.append(placed[0] if len(placed) == 1 else Manifold.batch_boolean(placed, OpType.Add))
        result = solids[0] if len(solids) == 1 else Manifold.batch_boolean(solids, getattr(OpType, op))
    return result
mesh = made(steps).to_mesh64()
corners = np.asarray(mesh.vert_properties)[mesh.tri_verts]
records = np.zeros(len(corners), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("unused", "<u2")])
records["corners"] = corners
open(sys.argv[2], "wb").write(bytes(80) + np.uint32(len(records)).tobytes() + records.tobytes())
"""
OP = {"union": "Add", "difference": "Subtract", "intersection": "Intersect"}
COUNTS, FACETS = (4, 8, 16, 32, 64), (32, 64)
Meshes = list[tuple[Any, Any]]


def pieces(quick: bool) -> list[Piece]:
    """The demo, and 30 of 4 to 64 parts."""
    counts = COUNTS[::2] if quick else COUNTS
    made = [layout(n, f) for layout in (chain, scales, wall) for n in counts for f in FACETS]
    return [*demo_pieces(), *made]


def box() -> Piece:
    part = {"id": "box", "primitive": {"kind": "box", "size": [20, 20, 20]}}
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": "Box", "parts": [part]})


def steps(parts: tuple[Part, ...], meshes: Meshes) -> list[Any]:
    """Runs of one op: (kernel op, [(a mesh's number or inner steps, matrices of the copies)])."""
    found: list[Any] = []
    for part in (p for p in parts if not p.reference):
        if part.join:
            source: Any = steps(part.join.parts, meshes)
        else:
            assert part.primitive is not None
            mesh = part.primitive.mesh()
            source = len(meshes)
            meshes.append((mesh.vertices, mesh.triangles.astype(np.uint64)))
        place = place_matrix(part.place, part.flip)
        matrices = [compose(m, place) for m in part.copies.matrices()] if part.copies else [place]
        if not found or found[-1][0] != OP[part.op]:
            found.append((OP[part.op], []))
        found[-1][1].append((source, [np.ascontiguousarray(m) for m in matrices]))
    return found


def ran(command: list[str]) -> tuple[float, float]:
    """Seconds of the clock and of CPU that a process takes, its own processes included."""
    before, started = os.times(), time.perf_counter()
    subprocess.run(command, check=False, stdout=subprocess.DEVNULL)
    wall_s, after = time.perf_counter() - started, os.times()
    return wall_s, after.children_user + after.children_system - before.children_user - before.children_system


def best_of(commands: list[list[str]], times: int) -> list[tuple[float, float]]:
    """The least seconds of each, run in turns, so that a busy moment of the machine meets all."""
    found = [[ran(c) for c in commands] for _ in range(times)]
    return [tuple(min(v) for v in zip(*of_one, strict=True)) for of_one in zip(*found, strict=True)]  # type: ignore[misc]


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="fewer pieces")
    quick = parser.parse_args().quick
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "bare.py").write_text(BARE)

        def commands(piece: Piece) -> list[list[str]]:
            meshes: Meshes = []
            done = steps(piece.parts, meshes)
            (folder / "in.clay.json").write_text(piece.text())
            (folder / "in.pickle").write_bytes(pickle.dumps((meshes, done)))
            bare = [sys.executable, str(folder / "bare.py"), str(folder / "in.pickle"), str(folder / "bare.stl")]
            return [[*NOBLE_CLAY, "build", str(folder / "in.clay.json"), "-o", str(folder / "ours.stl")], bare]

        start, bare_start = best_of(commands(box()), 10)
        ((help_s, _),) = best_of([[*NOBLE_CLAY, "--help"]], 5)
        start_ratio = max(a / b for a, b in zip(start, bare_start, strict=True))
        print(f"a box: {start[0]:.2f} s, {start[1]:.2f} s of CPU; bare {bare_start[0]:.2f} s, {bare_start[1]:.2f} s")
        print(f"{'piece':<20}{'parts':>6}{'ours, s':>9}{'bare, s':>9}{'ratio':>7}{'of CPU':>8}")
        ratios = []
        for piece in pieces(quick):
            ours, bare = best_of(commands(piece), 3)
            each = [(o - s) / max(b - t, 0.001) for o, s, b, t in zip(ours, start, bare, bare_start, strict=True)]
            ratios.append(max(each))
            count = sum(1 for _ in piece.walk())
            print(f"{piece.name:<20}{count:>6}{ours[0]:>9.2f}{bare[0]:>9.2f}{each[0]:>7.2f}{each[1]:>8.2f}", flush=True)
    said = {
        "help_s": help_s,
        "start_ratio": start_ratio,
        "build_ratio": statistics.median(ratios),
        "worst": max(ratios),
    }
    print(json.dumps({k: round(v, 2) for k, v in said.items()}))


if __name__ == "__main__":
    main()
