"""One mesh mended by one method, in a process of its own: `python -m bench.mend_one METHOD IN.npz OUT.npz`.

Prints seconds, without imports and reading, and the process's peak memory. Runs in the peers' environment too.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

Result = tuple[Any, Any]


def ours() -> Callable[[Any, Any], Result]:
    from noble_clay.core.mend.plan import mend
    from noble_clay.core.mesh.mesh import Mesh

    def run(v: Any, f: Any) -> Result:
        mesh, _ = mend(Mesh(v, f))
        return mesh.vertices, mesh.triangles

    return run


def trimesh_() -> Callable[[Any, Any], Result]:
    import trimesh

    def run(v: Any, f: Any) -> Result:
        mesh = trimesh.Trimesh(v, f, process=True)
        mesh.merge_vertices()
        mesh.update_faces(mesh.unique_faces() & mesh.nondegenerate_faces())
        trimesh.repair.fix_normals(mesh)
        mesh.fill_holes()
        trimesh.repair.fix_normals(mesh)
        return mesh.vertices, mesh.faces

    return run


def pymeshfix_() -> Callable[[Any, Any], Result]:
    import pymeshfix

    def run(v: Any, f: Any) -> Result:
        return pymeshfix.clean_from_arrays(v, f.astype(np.int32))

    return run


def libigl_() -> Callable[[Any, Any], Result]:
    import igl

    def run(v: Any, f: Any) -> Result:
        vertices, _, _, faces = igl.remove_duplicate_vertices(v, f, 1e-9 * float(np.linalg.norm(np.ptp(v, axis=0))))
        faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])]
        faces, _ = igl.resolve_duplicated_faces(faces)
        faces, _ = igl.bfs_orient(faces)
        for loop in igl.boundary_loop_all(faces):  # a fan around the middle of each hole
            fan = np.column_stack([np.roll(loop, -1), loop, np.full(len(loop), len(vertices))])
            vertices, faces = np.vstack([vertices, vertices[loop].mean(axis=0)]), np.vstack([faces, fan])
        faces, component = igl.bfs_orient(faces)
        faces, _ = igl.orient_outward(vertices, faces, np.asarray(component).reshape(-1, 1))
        return vertices, faces

    return run


def scikit_image_() -> Callable[[Any, Any], Result]:
    import igl
    from skimage.measure import marching_cubes

    def run(v: Any, f: Any) -> Result:
        cell = float(np.linalg.norm(np.ptp(v, axis=0))) / 160
        low = v.min(axis=0) - 2 * cell
        counts = np.ceil((np.ptp(v, axis=0)) / cell).astype(int) + 5
        lattice = np.stack(np.meshgrid(*(np.arange(n) * cell for n in counts), indexing="ij"), axis=-1)
        inside = igl.fast_winding_number(v, f, np.ascontiguousarray(lattice.reshape(-1, 3) + low)).reshape(counts)
        vertices, faces, _, _ = marching_cubes(inside, 0.5, spacing=(cell, cell, cell), gradient_direction="ascent")
        return vertices + low, faces

    return run


METHODS: dict[str, Callable[[], Callable[[Any, Any], Result]]] = {
    "ours": ours,
    "trimesh": trimesh_,
    "pymeshfix": pymeshfix_,
    "libigl": libigl_,
    "scikit-image": scikit_image_,
}


def _small() -> Result:
    """Two boxes that run into each other, one with a corner pulled through its own floor, the other with a hole."""
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
    faces = [
        [0, 1, 3],
        [0, 3, 2],
        [4, 6, 7],
        [4, 7, 5],
        [0, 4, 5],
        [0, 5, 1],
        [2, 3, 7],
        [2, 7, 6],
        [0, 2, 6],
        [0, 6, 4],
    ]
    faces += [[1, 5, 7], [1, 7, 3]]
    pulled = corners.copy()
    pulled[7, 2] = -0.4
    f = np.array(faces, dtype=np.int64)
    return np.concatenate([pulled, corners + 0.3]), np.concatenate([f, f[:-1] + 8])


def main() -> None:
    method, source, target = sys.argv[1:4]
    run = METHODS[method]()
    with np.load(source) as file:
        v, f = file["v"], file["f"]
    run(*_small())  # what a method loads or compiles on its first mesh is no part of mending the next
    started = time.perf_counter()
    vertices, faces = run(v, f)
    seconds = time.perf_counter() - started
    np.savez(target, v=np.asarray(vertices), f=np.asarray(faces))
    # What `resource` tells would count what the parent held too.
    peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    print(json.dumps({"seconds": seconds, "mb": int(peak.split()[1]) / 1000}))


if __name__ == "__main__":
    main()
