"""Round, hollow and grow of the demo's parts, beside libigl's offset surface of the same part on as many cells.

python -m bench.offsets [--quick]

Every part of the band's figures that is no mesh, by sizes that go by its own: what the change takes once the part is
known, the best of two. libigl's is one signed distance lattice and marching cubes, without edges, parts or simplifying;
`Round` takes three such. `over_second` is how many take longer than a second, `worst` the longest, s; `of_libigl` the
median ratio of grow and hollow to libigl, `round_of_libigl` that of round.
"""

from __future__ import annotations

import argparse
import json
import statistics
import time
from typing import Any

import igl
import numpy as np

from noble_clay.core.changes.rebuilt import MOST_CELLS
from noble_clay.core.errors import ClayError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.convex import is_convex
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.read import piece_from_values
from noble_clay.demo.loader import demo_pieces


def changes(size: float) -> dict[str, dict[str, Any]]:
    """For a part of so many mm along its longest side."""
    return {
        "grown": {"kind": "grow", "by": round(size * 0.02, 2)},
        "thinned": {"kind": "grow", "by": -round(size * 0.01, 2)},
        "hollowed": {"kind": "hollow", "wall": round(size * 0.04, 2)},
        "rounded": {"kind": "round", "radius": round(size * 0.03, 2)},
    }


def alone(part: Part, change: dict[str, Any] | None = None) -> Piece:
    values = part.model_dump(mode="json", exclude_none=True)
    made = [*values.get("changes", []), *([change] if change else [])]
    line = {**values, "op": "union", "changes": made}
    return piece_from_values({"format": "noble-clay-piece", "version": 1, "name": part.name, "parts": [line]})


def seconds(part: Part, change: dict[str, Any]) -> float:
    found = []
    for _ in range(2):
        evaluator = Evaluator()
        evaluator.evaluate(alone(part))
        piece = alone(part, change)
        started = time.perf_counter()
        evaluator.evaluate(piece)
        found.append(time.perf_counter() - started)
    return min(found)


def libigl_seconds(mesh: Mesh, by: float) -> float:
    started = time.perf_counter()
    igl.offset_surface(mesh.vertices, mesh.triangles, by, MOST_CELLS, igl.SIGNED_DISTANCE_TYPE_PSEUDONORMAL)
    return time.perf_counter() - started


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="one figure")
    figures = demo_pieces()[: 1 if parser.parse_args().quick else None]
    rows: list[tuple[str, float, float]] = []
    print(f"{'part':<36}{'change':<10}{'triangles':>10}{'ours, s':>9}{'libigl, s':>11}{'ratio':>7}")
    for piece in figures:
        for part in piece.parts:
            if part.mesh or part.reference:
                continue
            result = Evaluator().evaluate(alone(part))
            if is_convex(result.solid.manifold):
                continue
            size = float(np.ptp(result.mesh.vertices, axis=0).max())
            for name, change in changes(size).items():
                by = change.get("by") or -(change.get("wall") or change["radius"])
                try:
                    ours = seconds(part, change)
                except ClayError:  # too thin for it
                    continue
                peer = libigl_seconds(result.mesh, by)
                rows.append((name, ours, ours / peer))
                line = f"{piece.name + ': ' + part.name:<36}{name:<10}{len(result.mesh.triangles):>10,}"
                print(f"{line}{ours:>9.2f}{peer:>11.2f}{ours / peer:>7.2f}", flush=True)
    told = {
        "over_second": sum(s > 1 for _, s, _ in rows),
        "of": len(rows),
        "worst": max(s for _, s, _ in rows),
        "of_libigl": statistics.median(ratio for name, _, ratio in rows if name != "rounded"),
        "round_of_libigl": statistics.median(ratio for name, _, ratio in rows if name == "rounded"),
    }
    print(json.dumps({name: round(value, 2) for name, value in told.items()}))


if __name__ == "__main__":
    main()
