"""One mesh mended by one method, in a process of its own: `python bench/mend_one.py METHOD IN.npz OUT.npz`.

Prints seconds, without imports and reading, and the process's peak memory. Runs in the peers' environment too.
"""

from __future__ import annotations

import json
import resource
import sys
import time
from collections.abc import Callable
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


def main() -> None:
    method, source, target = sys.argv[1:4]
    run = METHODS[method]()
    with np.load(source) as file:
        v, f = file["v"], file["f"]
    started = time.perf_counter()
    vertices, faces = run(v, f)
    seconds = time.perf_counter() - started
    np.savez(target, v=np.asarray(vertices), f=np.asarray(faces))
    print(json.dumps({"seconds": seconds, "mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000}))


if __name__ == "__main__":
    main()
