"""How long it takes to look a joined piece over, beside joining it, and how long rays take beside libigl alone.

python -m bench.needs [--quick]

`of_join` is the time of `find_needs` to that of the kernel that joins the same piece anew, the worst of the pieces;
`of_rays` the time of `thickness` to that of libigl's rays alone, on the same samples.
"""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Callable
from typing import Any

import igl
import numpy as np

from bench.pieces import chain, crab, scales, wall
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.evaluate.view import Views
from noble_clay.core.measure.neighbours import Neighbours
from noble_clay.core.measure.walls import Samples, spread, thickness
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.needs.find import find_needs
from noble_clay.core.needs.thin_walls import APART_MM, MOST_SAMPLES, NOTHING_MM
from noble_clay.core.piece.models import Piece


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="smaller pieces")
    quick = parser.parse_args().quick
    count = 30 if quick else 100
    pieces = [crab(), scales(count), wall(count), chain(count)]
    measure(pieces[0])  # nothing is timed cold
    print(f"{'piece':<20}{'triangles':>10}{'joined':>9}{'needs':>9}{'of':>7}{'found':>7}{'rays':>7}")
    of_join, of_rays = [], []
    for piece in pieces:
        row = measure(piece)
        of_join.append(row["needs"] / row["join"])
        of_rays.append(row["thickness"] / row["rays"])
        print(
            f"{piece.name:<20}{row['triangles']:>10,}{row['join']:>8.2f}s{row['needs']:>8.2f}s{of_join[-1]:>7.2f}"
            f"{row['found']:>7}{of_rays[-1]:>7.2f}",
            flush=True,
        )
    print(json.dumps({"of_join": round(max(of_join), 2), "of_rays": round(max(of_rays), 2)}))


def measure(piece: Piece) -> dict[str, Any]:
    evaluator = Evaluator()
    joined, result = timed(lambda: evaluator.evaluate(piece))
    result.inspection  # noqa: B018
    looking, found = timed(lambda: find_needs(piece, result, Neighbours(evaluator), Views(evaluator)))
    samples = spread(result.mesh, APART_MM, MOST_SAMPLES)
    ours, _ = timed(lambda: thickness(result.mesh, samples, NOTHING_MM))
    bare, _ = timed(lambda: rays(result.mesh, samples))
    return {
        "triangles": len(result.mesh.triangles),
        "join": joined,
        "needs": looking,
        "found": len(found.found),
        "thickness": ours,
        "rays": bare,
    }


def rays(mesh: Mesh, samples: Samples) -> Any:
    """The library's part alone."""
    inward = -normals(mesh)[samples.triangle]
    tree = igl.AABB()
    tree.init(mesh.vertices, mesh.triangles)
    start = np.ascontiguousarray(samples.points + 1e-6 * inward)
    return tree.intersect_ray_first(mesh.vertices, mesh.triangles, start, inward, NOTHING_MM)


def timed(work: Callable[[], Any]) -> tuple[float, Any]:
    """Seconds, and what came of it."""
    started = time.perf_counter()
    found = work()
    return time.perf_counter() - started, found


if __name__ == "__main__":
    main()
