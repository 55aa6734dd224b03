"""How long files of a million triangles take to be written, beside the bytes alone, lib3mf and trimesh.

python -m bench.export [--quick]

`stl_of_write` is the time of an STL file to that of writing an array of the same bytes; `threemf_ratio` that of a 3MF
to lib3mf fed the same mesh. Each the median of several turns, taken by turns.
"""

from __future__ import annotations

import argparse
import json
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import trimesh
from lib3mf import Position, Triangle, get_wrapper

from noble_clay.core.formats.named_parts import NamedParts
from noble_clay.core.formats.write import mesh_bytes
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.primitives.registry import PRIMITIVES

TURNS = 5


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="a tenth of the triangles")
    facets = 316 if parser.parse_args().quick else 1000
    egg = (
        PRIMITIVES["egg"].model_validate({"kind": "egg", "width": 60, "height": 80, "bias": 0.2, "facets": 256}).mesh()
    )
    mesh = subdivided(egg, facets * facets)
    parts = NamedParts(np.zeros(len(mesh.triangles), dtype=np.int64), [("bench", "#c7a384")])
    library = trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)
    print(f"{len(mesh.triangles):,} triangles")
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "out"
        size = len(mesh_bytes(mesh, "bench", "stl"))
        block = np.zeros(size, dtype=np.uint8)
        runs: dict[str, Callable[[], object]] = {
            "bytes alone": lambda: file.write_bytes(block.tobytes()),
            "lib3mf": lambda: lib3mf(mesh, file),
            **{
                f"{e}": lambda e=e: file.write_bytes(mesh_bytes(mesh, "bench", e, parts))
                for e in ("stl", "3mf", "ply", "glb")
            },
            **{f"trimesh {e}": lambda e=e: library.copy().export(file, file_type=e) for e in ("stl", "ply", "glb")},
        }
        times: dict[str, list[float]] = {name: [] for name in runs}
        for run in runs.values():
            run()
        for _ in range(TURNS):
            for name, run in runs.items():
                started = time.perf_counter()
                run()
                times[name].append(time.perf_counter() - started)
    median = {name: statistics.median(found) for name, found in times.items()}
    for name, seconds in median.items():
        print(f"{name:<14}{seconds:>8.3f}s")
    ratios = {
        "stl_of_write": median["stl"] / median["bytes alone"],
        "threemf_ratio": median["3mf"] / median["lib3mf"],
        **{f"{e}_of_trimesh": median[e] / median[f"trimesh {e}"] for e in ("stl", "ply", "glb")},
    }
    print(json.dumps({name: round(ratio, 2) for name, ratio in ratios.items()}))


def write(file: Path, mesh: Mesh, ending: str, parts: NamedParts) -> None:
    file.write_bytes(mesh_bytes(mesh, "bench", ending, parts))


def subdivided(mesh: Mesh, least: int) -> Mesh:
    """The same skin in at least so many triangles."""
    found = trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)
    while len(found.faces) < least:
        found = found.subdivide()
    return Mesh(np.array(found.vertices), np.array(found.faces, dtype=np.int64)[:least])


def lib3mf(mesh: Mesh, file: Path) -> None:
    """The library fed the arrays as quickly as it takes them."""
    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    found = model.AddMeshObject()

    points = (Position * len(mesh.vertices)).from_buffer_copy(mesh.vertices.astype(np.float32).tobytes())
    corners = (Triangle * len(mesh.triangles)).from_buffer_copy(mesh.triangles.astype(np.uint32).tobytes())
    found.SetGeometry(points, corners)
    model.AddBuildItem(found, wrapper.GetIdentityTransform())
    model.QueryWriter("3mf").WriteToFile(str(file))


if __name__ == "__main__":
    main()
