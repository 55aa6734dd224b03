"""Full evaluation of pieces beside the bare kernel doing the same operations on the same primitive meshes.

python -m bench.evaluate [--quick]

Ours: from the piece to its solid, mesh and the part of every triangle, with empty caches. The kernel's: the same
meshes made into manifolds, placed, copied and combined in the same order, and read out; nothing else. Counting bodies
and looking for contacts (soundness) comes on top and has a column of its own.
`overhead` is the median over the pieces of the ratio of the two, each the best of several runs, `worst` the largest.
Both are of pieces whose joins are sharp, the band's figures with every blend left out among them: only there do both do
the same. `soft` is told of the figures as they are, beside the same sharp operations; `bench.blend` is about those.
"""

from __future__ import annotations

import argparse
import json
import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from manifold3d import Manifold, Mesh64

from bench.pieces import chain
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.booleans import KERNEL_OP
from noble_clay.core.mesh.affine import compose
from noble_clay.core.piece.models import Part, Piece
from noble_clay.core.piece.placing import place_matrix
from noble_clay.core.piece.read import piece_from_values
from noble_clay.demo.loader import demo_pieces


def ours(piece: Piece) -> int:
    result = Evaluator().evaluate(piece)
    return len(result.mesh.triangles) + 0 * len(result.part_of)


def bare(parts: tuple[Part, ...]) -> Manifold:
    result, at = None, 0
    lines = [p for p in parts if not p.reference]
    while at < len(lines):
        end = at
        while end < len(lines) and lines[end].op == lines[at].op:
            end += 1
        run = [bare_part(p) for p in lines[at:end]]
        solids = run if result is None else [result, *run]
        result = solids[0] if len(solids) == 1 else Manifold.batch_boolean(solids, KERNEL_OP[lines[at].op])
        at = end
    return Manifold() if result is None else result


def bare_part(part: Part) -> Manifold:
    if part.join:
        base = bare(part.join.parts)
    else:
        assert part.primitive is not None
        mesh = part.primitive.mesh()
        base = Manifold(Mesh64(mesh.vertices, mesh.triangles.astype(np.uint64)))
    place = place_matrix(part.place, part.flip)
    if part.copies is None:
        return base.transform(np.ascontiguousarray(place))
    copies = [base.transform(np.ascontiguousarray(compose(m, place))) for m in part.copies.matrices()]
    return Manifold.batch_boolean(copies, KERNEL_OP["union"])


def kernel(piece: Piece) -> int:
    mesh = bare(piece.parts).to_mesh64()
    return len(mesh.tri_verts)


def sharp(piece: Piece) -> Piece:
    """The piece without any blend."""

    def hardened(values: Any) -> Any:
        if isinstance(values, list):
            return [hardened(each) for each in values]
        if isinstance(values, dict):
            return {key: hardened(each) for key, each in values.items() if key != "blend"}
        return values

    found = piece_from_values(hardened(piece.dump()))
    return found.model_copy(update={"name": f"{piece.name}, sharp"})


def timed(run: Callable[[Piece], int], piece: Piece) -> tuple[float, int]:
    started = time.perf_counter()
    triangles = run(piece)
    return time.perf_counter() - started, triangles


def best(run: Callable[[Piece], int], piece: Piece, times: int) -> tuple[float, int]:
    """Seconds of the quickest of so many runs, and the triangles that it came to."""
    found = [timed(run, piece) for _ in range(times)]
    return min(found)


def soundness_seconds(piece: Piece) -> float:
    result = Evaluator().evaluate(piece)
    result.__dict__.pop("inspection", None)
    assert len(result.mesh.triangles) > 0
    started = time.perf_counter()
    assert result.inspection.triangles > 0
    return time.perf_counter() - started


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    quick = parser.parse_args().quick
    figures = [piece for piece in demo_pieces() if not any(part.mesh for part in piece.walk())]
    chains = [chain(n) for n in ((10, 30, 100) if quick else (10, 30, 100, 300))]
    ours(figures[0])
    kernel(figures[0])
    print(f"{'piece':<26}{'parts':>6}{'triangles':>11}{'ours, s':>10}{'kernel, s':>11}{'ratio':>8}{'soundness, s':>14}")
    ratios = [measured(piece) for piece in (*map(sharp, figures), *chains)]
    soft = [measured(piece) for piece in figures]
    found = {"overhead": statistics.median(ratios), "worst": max(ratios), "soft": max(soft)}
    print(json.dumps({name: round(value, 3) for name, value in found.items()}))


def measured(piece: Piece) -> float:
    """The ratio of both, and a line that tells it."""
    our_seconds, kernel_seconds, triangles = float("inf"), float("inf"), 0
    started, rounds = time.perf_counter(), 0
    while rounds < 3 or time.perf_counter() - started < 3:  # in turns: a busy moment of the machine meets both
        rounds += 1
        kernel_seconds = min(kernel_seconds, timed(kernel, piece)[0])
        seconds, triangles = timed(ours, piece)
        our_seconds = min(our_seconds, seconds)
    count = sum(1 for _ in piece.walk())
    print(
        f"{piece.name:<26}{count:>6}{triangles:>11,}{our_seconds:>10.3f}{kernel_seconds:>11.3f}"
        f"{our_seconds / kernel_seconds:>8.2f}{soundness_seconds(piece):>14.3f}"
    )
    return our_seconds / kernel_seconds


if __name__ == "__main__":
    main()
