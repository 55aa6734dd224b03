"""How long an edit's answer takes while others work, beside the same server idle.

python -m bench.web_under_load [--quick]

First two workers mend a noisy mesh each, over and over, while one maker moves a part of the crab: `median_ratio` and
`p95_ratio` are the busy server's times to the idle one's. Then a soft figure that its solver shares with the crab is
made for a minute or more: `other_median_ratio` and `other_p95_ratio`. The machine's cores are shared by all of them.
"""

from __future__ import annotations

import argparse
import json
import os
import statistics
import time
import uuid
import zlib
from typing import Any

import numpy as np
from tests.building import soft_worm
from tests.damage import primitive
from tests.serving import end, launch_worker, serving
from tools.cluster import Cluster

from bench.edit import timed_edits
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.mesh.mesh import Mesh


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="fewer edits")
    rounds = 30 if parser.parse_args().quick else 120
    cluster = Cluster("bench-postgres")
    cluster.start()
    os.environ["NOBLE_CLAY_DATABASE"] = cluster.url
    try:
        with serving() as server, server.client() as client:
            second = launch_worker()
            try:
                parts = [brought(client, seed) for seed in (1, 2)]
                crab = next(c for c in client.get("/api/pieces").json() if c["name"] == "Fiddler crab")
                timed_edits(client, crab["id"], 10)
                idle = timed_edits(client, crab["id"], rounds)
                jobs = [mend(client, *part) for part in parts]
                busy: list[float] = []
                while len(busy) < rounds:
                    busy += timed_edits(client, crab["id"], 5)
                    for i, (job, part) in enumerate(zip(jobs, parts, strict=True)):
                        if client.get(f"/api/jobs/{job}").json()["state"] not in ("waiting", "running"):
                            step = {"base_revision": client.get(f"/api/pieces/{part[0]}").json()["revision"]}
                            client.post(f"/api/pieces/{part[0]}/undo", json=step)
                            jobs[i] = mend(client, *part)
                for job in jobs:
                    client.post(f"/api/jobs/{job}/cancel")
            finally:
                end(second)
            time.sleep(3)
            other_idle = timed_edits(client, crab["id"], rounds)
            other, seconds = beside_a_long_one(client, crab["id"], rounds)
    finally:
        cluster.stop()
        cluster.remove()
    told = {"idle": idle, "beside mending": busy, "idle again": other_idle, "beside a long one": other}
    figures = {name: (statistics.median(t), float(np.percentile(t, 95))) for name, t in told.items()}
    for name, (median, p95) in figures.items():
        print(f"{name}: median {median:.0f} ms, 95th percentile {p95:.0f} ms, {len(told[name])} edits")
    print(f"the long one was being made for {seconds:.0f} s meanwhile")
    names = ("median_ratio", "p95_ratio", "other_median_ratio", "other_p95_ratio")
    ratios = [figures["beside mending"][i] / figures["idle"][i] for i in (0, 1)]
    ratios += [figures["beside a long one"][i] / figures["idle again"][i] for i in (0, 1)]
    print(json.dumps({name: round(ratio, 2) for name, ratio in zip(names, ratios, strict=True)}))


def beside_a_long_one(client: Any, crab: str, rounds: int) -> tuple[list[float], float]:
    """ms of the crab's edits while another piece of its solver is being made, and the seconds that went on."""
    cores = max(1, min(8, os.cpu_count() or 1))
    while True:
        long = client.post("/api/pieces", json={"name": "Long one"}).json()["id"]
        if zlib.crc32(long.encode()) % cores == zlib.crc32(crab.encode()) % cores:
            break
    edit = {"kind": "add_parts", "parts": [soft_worm(90)]}
    body = {"base_revision": 0, "request_id": str(uuid.uuid4()), "edit": edit}
    assert client.post(f"/api/pieces/{long}/edits", json=body).raise_for_status().json()["making"]
    began, found = time.monotonic(), []
    while len(found) < rounds:
        found += timed_edits(client, crab, 5)
        assert client.get(f"/api/pieces/{long}").json()["making"], "it must not be done before the edits are"
    seconds = time.monotonic() - began
    client.post(f"/api/pieces/{long}/stop")
    return found, seconds


def brought(client: Any, seed: int) -> tuple[str, str]:
    """A piece with a mesh that takes long to mend; its id, and the part's."""
    ball = primitive("sphere", radius=20, facets=120)
    noisy = Mesh(ball.vertices + np.random.default_rng(seed).normal(0, 0.3, ball.vertices.shape), ball.triangles)
    piece = client.post("/api/pieces", json={"name": f"Noise {seed}"}).json()
    url = f"/api/pieces/{piece['id']}"
    job = client.post(f"{url}/bring-in", params={"name": "noise.stl"}, content=stl_bytes(noisy, "n")).json()
    while client.get(f"/api/jobs/{job['id']}").json()["state"] != "done":
        time.sleep(0.2)
    body = {"base_revision": 0, "request_id": str(uuid.uuid4()), "unit": "millimeter"}
    return piece["id"], client.post(f"{url}/bring-in/{job['id']}/put", json=body).raise_for_status().json()["chosen"][0]


def mend(client: Any, piece: str, part: str) -> str:
    answer = client.post(f"/api/pieces/{piece}/mend", json={"parts": [part], "options": {"resolution_mm": 0.25}})
    return str(answer.raise_for_status().json()["id"])


if __name__ == "__main__":
    main()
