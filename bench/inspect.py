"""A 1-million-triangle STL read and fully inspected, beside what `trimesh` needs to load it, in one run.

python -m bench.inspect [--quick]

`read` is the reading alone, `inspect` the finding of every flaw, pairs of triangles that cross included. `of_load` is
both to trimesh's load, the median of the rounds.
"""

from __future__ import annotations

import argparse
import io
import json
import statistics
import time

import numpy as np
import trimesh

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.formats.stl import stl_bytes
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.core.mesh.mesh import Mesh


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="a quarter of the triangles")
    level = 7 if parser.parse_args().quick else 8
    ball = trimesh.creation.icosphere(level, 30.0)
    count = 1_000_000 // (4 if level == 7 else 1)
    bumpy = np.array(ball.vertices) * (1 + 0.02 * np.sin(20 * np.array(ball.vertices[:, :1]) / 30))
    data = stl_bytes(Mesh(bumpy, np.array(ball.faces, dtype=np.int64)[:count]), "bench")
    inspect_mesh(read_mesh(data[:84][:80] + np.uint32(1000).tobytes() + data[84 : 84 + 50_000], "stl").mesh)  # compiled
    rows = []
    for _ in range(3):
        started = time.perf_counter()
        trimesh.load(io.BytesIO(data), file_type="stl")
        loaded = time.perf_counter()
        mesh = read_mesh(data, "stl").mesh
        read = time.perf_counter()
        found = inspect_mesh(mesh)
        done = time.perf_counter()
        rows.append((loaded - started, read - loaded, done - read))
        print(f"trimesh load {rows[-1][0]:.2f} s, read {rows[-1][1]:.2f} s, inspect {rows[-1][2]:.2f} s", flush=True)
    print([f.values() for f in found.findings])
    ratio = statistics.median((read + inspect) / load for load, read, inspect in rows)
    print(json.dumps({"triangles": count, "of_load": round(ratio, 2)}))


if __name__ == "__main__":
    main()
