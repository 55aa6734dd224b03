"""Moving one part of the crab, from the POST to the answer, on a real server and database.

python -m bench.edit [--quick]

Each of five parts is moved step by step, as arrow keys do. `answer_ms` is the median of all steps, `first_ms` that of
the first ones after another part was moved; `kernel`, `store` and `rest` are the shares spent evaluating in the
solver, in the database, and in everything else (HTTP, JSON, the view's placements). Beside it, in the same run, the
bare kernel's evaluation of the crab from nothing: `of_kernel` is the answer's time as a ratio to that.
"""

from __future__ import annotations

import argparse
import json
import os
import statistics
import time
import uuid
from typing import Any

from tests.serving import serving
from tools.cluster import Cluster

from bench.evaluate import best, kernel
from bench.pieces import crab

MOVED = ["knuckle", "eye", "bow", "shell", "tip"]


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true")
    rounds = 50 if parser.parse_args().quick else 100
    kernel_seconds, _ = best(kernel, crab(), 3)
    cluster = Cluster("bench-postgres")
    cluster.start()
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    try:
        with serving() as server, server.client() as client:
            found = measure(client, rounds)
    finally:
        cluster.stop()
        cluster.remove()
    answers = [f["answer"] for f in found]
    median = statistics.median(answers)
    shares = {name: statistics.median(f[name] / f["answer"] for f in found) for name in ("evaluate", "store", "answer")}
    rest = 1 - shares["evaluate"] - shares["store"]
    print(f"{'moved part':<12}{'median, ms':>12}")
    for part in MOVED:
        print(f"{part:<12}{statistics.median(f['answer'] for f in found if f['part'] == part) * 1000:>12.1f}")
    print(
        f"{'all':<12}{median * 1000:>12.1f}   95th percentile {sorted(answers)[int(len(answers) * 0.95)] * 1000:.1f} ms"
    )
    print(f"kernel, the whole crab from nothing: {kernel_seconds * 1000:.1f} ms")
    print(
        json.dumps(
            {
                "answer_ms": round(median * 1000, 1),
                "first_ms": round(statistics.median(f["answer"] for f in found if f["first"]) * 1000, 1),
                "kernel": round(shares["evaluate"], 3),
                "store": round(shares["store"], 3),
                "rest": round(rest, 3),
                "of_kernel": round(median / kernel_seconds, 3),
            }
        )
    )


def measure(client: object, rounds: int) -> list[dict[str, Any]]:
    card = next(c for c in client.get("/api/pieces").json() if c["name"] == "Fiddler crab")  # type: ignore[attr-defined]
    url = f"/api/pieces/{card['id']}"
    revision = client.get(url).json()["revision"]  # type: ignore[attr-defined]
    found = []
    each = rounds // len(MOVED)
    for i in range(each * len(MOVED)):
        part = MOVED[i // each]
        edit = {"kind": "move", "ids": [part], "by": [0.1 if i % 2 else -0.1, 0.05, 0]}
        body = {"base_revision": revision, "request_id": str(uuid.uuid4()), "edit": edit}
        started = time.perf_counter()
        state = client.post(f"{url}/edits", json=body).raise_for_status().json()  # type: ignore[attr-defined]
        answer = time.perf_counter() - started
        revision = state["revision"]
        found.append(
            {
                "part": part,
                "first": i % each == 0,
                "answer": answer,
                "evaluate": state["scene"]["seconds"]["evaluate"],
                "store": state["server_seconds"]["store"],
            }
        )
    return found


if __name__ == "__main__":
    main()
