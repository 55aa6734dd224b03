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
    from noble_clay.core.mesh import Mesh

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


def pymeshlab_(resurfaced: bool = False) -> Callable[[Any, Any], Result]:
    import pymeshlab

    def run(v: Any, f: Any) -> Result:
        meshes = pymeshlab.MeshSet()
        meshes.add_mesh(pymeshlab.Mesh(v, f.astype(np.int32)))
        meshes.meshing_merge_close_vertices()
        meshes.meshing_remove_duplicate_faces()
        meshes.meshing_remove_null_faces()
        if resurfaced:
            size = float(np.linalg.norm(np.ptp(v, axis=0)))
            cell = pymeshlab.PureValue(size / 160)
            meshes.generate_resampled_uniform_mesh(cellsize=cell, mergeclosevert=True, multisample=True)
        else:
            meshes.meshing_repair_non_manifold_edges()
            meshes.meshing_repair_non_manifold_vertices()
            meshes.meshing_close_holes(maxholesize=1000)
            meshes.meshing_re_orient_faces_coherently()
        mesh = meshes.current_mesh()
        return mesh.vertex_matrix(), mesh.face_matrix()

    return run


METHODS: dict[str, Callable[[], Callable[[Any, Any], Result]]] = {
    "ours": ours,
    "trimesh": trimesh_,
    "pymeshfix": pymeshfix_,
    "pymeshlab": pymeshlab_,
    "pymeshlab_resurface": lambda: pymeshlab_(True),
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
