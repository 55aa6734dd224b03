"""One mesh mended by one method, in a process of its own: `python -m bench.mend_one METHOD IN.npz OUT.npz`.

Prints whether the method says that what it made is closed, and the process's peak memory. Runs in the peers'
environment too.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

Result = tuple[Any, Any]


def ours() -> Callable[[Any, Any], tuple[Any, Any, bool]]:
    from noble_clay.core.mend.plan import mend
    from noble_clay.core.mesh.mesh import Mesh

    def run(v: Any, f: Any) -> tuple[Any, Any, bool]:
        mesh, report = mend(Mesh(v, f))
        return mesh.vertices, mesh.triangles, report.after.manifold

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


def chain() -> Callable[[Any, Any], Result]:
    import trimesh

    def run(v: Any, f: Any) -> Result:
        for method in (trimesh_, pymeshfix_):
            found = method()(v, f)
            if len(found[1]) and trimesh.Trimesh(*found, process=False).is_watertight:
                return found
        return scikit_image_()(v, f)

    return run


METHODS: dict[str, Callable[[], Callable[[Any, Any], Any]]] = {
    "ours": ours,
    "trimesh": trimesh_,
    "pymeshfix": pymeshfix_,
    "libigl": libigl_,
    "scikit-image": scikit_image_,
    "chain": chain,
}


def main() -> None:
    method, source, target = sys.argv[1:4]
    run = METHODS[method]()
    with np.load(source) as file:
        v, f = file["v"], file["f"]
    vertices, faces, *closed = run(v, f)
    np.savez(target, v=np.asarray(vertices), f=np.asarray(faces))
    # What `resource` tells would count what the parent held too.
    peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    print(json.dumps({"closed": bool(closed and closed[0]), "mb": int(peak.split()[1]) / 1000}))


if __name__ == "__main__":
    main()
