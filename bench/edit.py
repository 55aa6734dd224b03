"""Moving one part by 1 mm in pieces of 10 to 1,000 overlapping parts, beside the bare kernel's full evaluation.

python -m bench.edit [--quick]

A solver is asked as the web process asks it, without the network, in a process of its own. `view` is the time until the
bytes are there that the view needs of a step (the median of 12), `first` that of the first step after another part was
in hand, `pill` that until the soundness of the whole and its skin are there after a step, `export` that until the one
closed mesh is. `kernel` evaluates the same piece from nothing.

`view_100` and `view_1000` are kernel to view, the median over the layouts; `view_growth` is the view's time at 1,000
parts to that at 100; `first_worst` the worst ratio of first to view; `pill_1000` kernel to pill, and `pill_s` its
longest time in seconds; `export_100` kernel to export. `memory_mb` is the largest that a solver became until it was
asked to export, which takes what the kernel takes. Then one crab is edited over HTTP on a real server: `answer_ms`.

A quick run takes one layout of each size and leaves the export of 1,000 parts out.
"""

from __future__ import annotations

import argparse
import json
import multiprocessing
import os
import statistics
import tempfile
import time
import uuid
from pathlib import Path
from typing import Any

from tests.serving import serving
from tools.cluster import Cluster

from bench.evaluate import best, kernel
from bench.pieces import LAYOUTS
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.models import Piece
from noble_clay.core.piece.read import piece_from_values
from noble_clay.solvers.operations.dragging import draft
from noble_clay.solvers.operations.showing import adopt, count, show
from noble_clay.solvers.operations.taking import export
from noble_clay.solvers.solver import Solver

STEPS = 12


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    quick = parser.parse_args().quick
    cluster = Cluster("bench-postgres")
    cluster.start()
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    rows = []
    columns = [("kernel", 8), ("view", 8), ("first", 8), ("pill", 8), ("export", 8), ("ratio", 7)]
    print(f"{'ms':<8}{'parts':>6}" + "".join(f"{name:>{width}}" for name, width in columns))
    try:
        for count in (100, 1000) if quick else (10, 30, 100, 300, 1000):
            for name in ("scales",) if quick else LAYOUTS:
                row = measure(LAYOUTS[name](count), with_export=not (quick and count == 1000))
                rows.append({"layout": name, "parts": count, **row})
                exported = f"{row['export']:.0f}" if row["export"] else "-"
                print(
                    f"{name:<8}{count:>6}{row['kernel']:>8.0f}{row['view']:>8.1f}{row['first']:>8.1f}{row['pill']:>8.0f}"
                    f"{exported:>8}{row['kernel'] / row['view']:>7.0f}",
                    flush=True,
                )
        with serving() as server, server.client() as client:
            answer = over_http(client)
    finally:
        cluster.stop()
        cluster.remove()

    def median(count: int, value: Any) -> float:
        return statistics.median(value(r) for r in rows if r["parts"] == count)

    found = {
        "view_100": round(median(100, lambda r: r["kernel"] / r["view"]), 1),
        "view_1000": round(median(1000, lambda r: r["kernel"] / r["view"]), 1),
        "view_growth": round(median(1000, lambda r: r["view"]) / median(100, lambda r: r["view"]), 2),
        "first_worst": round(max(r["first"] / r["view"] for r in rows), 1),
        "pill_1000": round(median(1000, lambda r: r["kernel"] / r["pill"]), 1),
        "pill_s": round(max(r["pill"] for r in rows) / 1000, 2),
        "export_100": round(median(100, lambda r: r["kernel"] / r["export"]), 2),
        "memory_mb": round(max(r["memory"] for r in rows)),
        "answer_ms": round(answer, 1),
    }
    print(json.dumps(found))


def measure(piece: Piece, with_export: bool) -> dict[str, Any]:
    seconds, _ = best(kernel, piece, 1 if len(piece.parts) > 100 else 2)
    with multiprocessing.get_context("spawn").Pool(1) as alone:
        return {"kernel": seconds * 1000, **alone.apply(solved, (piece.dump(), with_export))}


def solved(document: dict[str, Any], with_export: bool) -> dict[str, Any]:
    """What a solver takes for one piece, ms, and its memory, MB."""
    piece = piece_from_values(document)
    with tempfile.TemporaryDirectory() as folder:
        solver = Solver(Path(folder))
        show(solver, "piece", document)
        adopt(solver, "piece", document, count(solver, "piece", document))
        # Another part was in hand before.
        other, moved = f"p{len(piece.parts) // 5}", f"p{len(piece.parts) // 2}"
        for part in (other, other):
            draft_ms(solver, document, part, 1)
        first = draft_ms(solver, document, moved, 1)
        steps = [draft_ms(solver, document, moved, n + 2) for n in range(STEPS)]
        pills = []
        for by in range(1, 4):
            after = apply(piece, edit_from_values(move(moved, by))).piece.dump()
            started = time.perf_counter()
            count(solver, "piece", after)
            pills.append((time.perf_counter() - started) * 1000)
        memory = peak_mb()
        export_ms = None
        if with_export:
            started = time.perf_counter()
            export(solver, after, "stl")
            export_ms = (time.perf_counter() - started) * 1000
    return {
        "first": first,
        "view": statistics.median(steps),
        "pill": statistics.median(pills),
        "export": export_ms,
        "memory": memory,
    }


def peak_mb() -> float:
    """The most that this process held; `ru_maxrss` would count what its parent held too."""
    line = next(at for at in Path("/proc/self/status").read_text().splitlines() if at.startswith("VmHWM"))
    return int(line.split()[1]) / 1000


def move(part: str, by: float) -> dict[str, Any]:
    return {"kind": "move", "ids": [part], "by": [by * 0.5, 0, by * 0.5]}


def draft_ms(solver: Solver, document: dict[str, Any], part: str, by: float) -> float:
    """ms until the bytes of one step are there."""
    started = time.perf_counter()
    if draft(solver, "piece", 1, None, move(part, by)) is None:
        draft(solver, "piece", 1, document, move(part, by))
    return (time.perf_counter() - started) * 1000


def over_http(client: Any, rounds: int = 30) -> float:
    """ms until the answer of an edit of the crab, the median."""
    card = next(c for c in client.get("/api/pieces").json() if c["name"] == "Fiddler crab")
    return statistics.median(timed_edits(client, card["id"], rounds))


def timed_edits(client: Any, piece: str, count: int) -> list[float]:
    """ms until the answer of each of some edits of the crab."""
    url = f"/api/pieces/{piece}"
    revision = client.get(url).json()["revision"]
    found = []
    for i in range(count):
        edit = {"kind": "move", "ids": ["knuckle"], "by": [0.1 if i % 2 else -0.1, 0.05, 0]}
        body = {"base_revision": revision, "request_id": str(uuid.uuid4()), "edit": edit}
        started = time.perf_counter()
        revision = client.post(f"{url}/edits", json=body).raise_for_status().json()["revision"]
        found.append((time.perf_counter() - started) * 1000)
    return found


if __name__ == "__main__":
    main()
