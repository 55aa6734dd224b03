"""Every form at its default beside the bare kernel's sphere of as many triangles; and drafts while forms are drawn.

python -m bench.forms

`worst_ratio`: the form's fields to a kernel manifold, over the kernel's own sphere of about as many triangles, each the
best of several runs with empty caches; lettering and cells, which work out text and cells, are told apart.
`draw_ms`: the median of a draft while a point of a profile, an outline or a limb of a piece is moved, in the process
that makes drafts; `draw_kernel_share` of it is the kernel joining the new mesh with what stands there.
"""

from __future__ import annotations

import gc
import json
import math
import statistics
import time
from collections.abc import Callable
from functools import partial
from importlib import import_module
from typing import Any

import numpy as np
from manifold3d import Manifold, Mesh64

from noble_clay.core.evaluate.drafts import Drafter
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.read import piece_from_values
from noble_clay.core.primitives.registry import PRIMITIVES

RUNS = 7
SECONDS = 0.15
"""Of runs of what is done in an instant: the best of few says more of the machine than of the work."""
APART = ("lettering", "cells")


def best_of(*works: Callable[[], Any], before: Callable[[], None] = lambda: None) -> list[float]:
    """Seconds of the best run of each, done by turns, so that what slows the machine slows all of them."""
    found: list[list[float]] = [[] for _ in works]
    while len(found[0]) < RUNS or sum(map(sum, found)) < SECONDS:
        before()
        gc.disable()
        for work, seconds in zip(works, found, strict=True):
            start = time.perf_counter()
            work()
            seconds.append(time.perf_counter() - start)
        gc.enable()
    return [min(seconds) for seconds in found]


def forget() -> None:
    """Empties what the forms' files keep of what they made; the fonts stay read, as libraries stay imported."""
    for kind in PRIMITIVES:
        module = import_module(PRIMITIVES[kind].__module__)
        for value in vars(module).values():
            if hasattr(value, "cache_clear"):
                value.cache_clear()


def built(kind: str) -> Manifold:
    cls = PRIMITIVES[kind]
    mesh = cls.model_validate({"kind": kind, **cls.sample}).mesh()
    return Manifold(Mesh64(mesh.vertices, mesh.triangles.astype(np.uint64)))


def sphere_of(triangles: int) -> Callable[[], int]:
    """The kernel's sphere has 8 n² triangles for 4 n segments."""
    segments = 4 * max(1, round(math.sqrt(triangles / 8)))
    return lambda: Manifold.sphere(10.0, segments).num_tri()


def forms() -> dict[str, Any]:
    rows = {}
    for kind in PRIMITIVES:
        triangles = built(kind).num_tri()
        ours, kernel = best_of(partial(built, kind), sphere_of(triangles), before=forget)
        rows[kind] = {"triangles": triangles, "ms": round(ours * 1e3, 2), "ratio": round(ours / kernel, 2)}
        print(f"{kind:12} {triangles:6} triangles {ours * 1e3:8.2f} ms   {ours / kernel:7.2f} x the kernel's sphere")
    return rows


DRAWN = {
    "turned": ("profile", [2, 0]),
    "outline": ("loops", [0, 2, 0]),
    "limb": ("points", [1, 0]),
}
OUTLINE = [[[0, 0], [30, 0], [34, 12], [26, 24], [8, 26], [-6, 14]]]


def drafts() -> tuple[float, float, float]:
    """Median ms of a draft, the worst form's median, and the kernel's share of the medians."""
    medians, kernels = [], []
    for kind, (field, path) in DRAWN.items():
        sample = {"loops": OUTLINE, "height": 6} if kind == "outline" else PRIMITIVES[kind].sample
        drawn = {"kind": kind, **sample}
        parts = [
            {"id": "body", "primitive": {"kind": "box", "size": [60, 60, 8]}, "place": {"position": [0, 0, -8]}},
            {"id": "drawn", "primitive": drawn},
            {"id": "hole", "op": "difference", "primitive": {"kind": "cylinder", "radius": 2, "height": 90}},
        ]
        piece = piece_from_values({"format": "noble-clay-piece", "version": 1, "name": "Drawn", "parts": parts})
        evaluator = Evaluator()
        evaluator.evaluate(piece)
        drafter = Drafter(evaluator)
        took, bare = [], []
        for step in range(1, 26):
            values = json.loads(json.dumps(drawn))
            spot = values[field]
            for index in path[:-1]:
                spot = spot[index]
            spot[path[-1]] += step * 0.1
            edit = edit_from_values({"kind": "set_primitive", "id": "drawn", "primitive": values})
            forget()
            start = time.perf_counter()
            drafter.draft(piece, apply(piece, edit).piece)
            took.append(time.perf_counter() - start)
            mesh = PRIMITIVES[kind].model_validate(values).mesh()
            start = time.perf_counter()
            body = Manifold.cube((60, 60, 8), center=True).translate((0, 0, -8))
            added = Manifold(Mesh64(mesh.vertices, mesh.triangles.astype(np.uint64)))
            (body + added - Manifold.cylinder(90, 2, 2, 64, center=True)).num_tri()
            bare.append(time.perf_counter() - start)
        medians.append(statistics.median(took))
        kernels.append(statistics.median(bare))
        print(f"drawing a {kind:8} draft {medians[-1] * 1e3:6.1f} ms, of it the kernel {kernels[-1] * 1e3:6.1f} ms")
    return statistics.median(medians) * 1e3, max(medians) * 1e3, sum(kernels) / sum(medians)


def main() -> None:
    rows = forms()
    draw_ms, worst_ms, share = drafts()
    told = {
        "worst_ratio": max(row["ratio"] for kind, row in rows.items() if kind not in APART),
        **{f"{kind}_ratio": rows[kind]["ratio"] for kind in APART},
        "draw_ms": round(draw_ms, 1),
        "draw_worst_ms": round(worst_ms, 1),
        "draw_kernel_share": round(share, 2),
    }
    print(json.dumps(told))


if __name__ == "__main__":
    main()
