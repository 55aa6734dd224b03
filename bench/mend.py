"""Mending beside the general-purpose repair libraries on PyPI, over real open meshes, those that show robots, and
solids damaged on purpose.

python -m bench.mend [--quick]

The peers are libraries: trimesh, pymeshfix, libigl, and resurfacing on a lattice by scikit-image. They live in a
virtual environment of their own under .data/peers, made when what is wanted in it changes; the meshes come by
`tools.models`. Each mesh and method runs in a process of its own with a time limit, so that peak memory is that of the
one, and a crash is a mesh not mended.

Everything is judged on the file: what a method makes is written as 32 bit STL and read back. mended: closed, wound
alike and of positive volume, as trimesh sees it. kept_shape: 95% of the old surface that can be seen from outside lies
within 0.5% of the diagonal of the new one; faithful: the other way round as well; as shares of all meshes.
false_success: what we call closed and the file is not. Times are of whole processes: `time_ratio` is our median to
that of pymeshfix, `worst_ratio` the most that one mesh takes us, less 2 s, to what resurfacing takes it. `chain` is the
first of trimesh, pymeshfix and resurfacing that closes the mesh.
"""

from __future__ import annotations

import argparse
import json
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import igl
import numpy as np
import trimesh
from numpy.typing import NDArray
from tests.damage import DAMAGES, damaged, kinked, primitive, together
from tools.machine import DATA, ROOT
from tools.models import ensure_models, robot_models

from bench.mend_cases import hard_meshes
from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mesh.mesh import Mesh

PEERS = DATA / "peers"
PACKAGES = [
    "pymeshfix==0.18.1",
    "trimesh==5.2.0",
    "libigl==2.6.3",
    "scikit-image==0.26.0",
    "scipy",
    "networkx",
    "psutil",
]
METHODS = ["ours", "trimesh", "pymeshfix", "libigl", "scikit-image", "chain"]
SECONDS = 60
NEAR = 0.95
RAYS = 64
Points = NDArray[np.float64]
REAL = [
    "bunny.obj",
    *(f"{name}.ply" for name in ("airplane", "ant", "nut", "sphere")),
    *(f"assimp/STL/{name}" for name in ("Wuson.stl", "Spider_ascii.stl", "3DSMaxExport.STL", "sphereWithHole.stl")),
    *(f"assimp/OBJ/{name}.obj" for name in ("spider", "box", "regr01")),
    "assimp/PLY/cube_uv.ply",
    "assimp/3MF/box.3mf",
    "assimp/glTF2/2CylinderEngine-glTF-Binary/2CylinderEngine.glb",
]


def meshes(quick: bool) -> dict[str, Mesh]:
    """All meshes by name; each encloses something."""
    folder = ensure_models()
    found = {name: read_mesh((folder / name).read_bytes(), Path(name).suffix).mesh for name in REAL}
    solids = {
        "ball": primitive("sphere", radius=20, facets=64),
        "ring": primitive("torus", ring_radius=20, tube_radius=6, facets=64, tube_facets=32),
        "box": trimesh_mesh(trimesh.creation.box((30, 20, 10)).subdivide().subdivide().subdivide()),
        "bunny": found["bunny.obj"],
    }
    for solid, mesh in solids.items():
        for name, steps in DAMAGES.items():
            found[f"{solid}, {name}"] = damaged(mesh, steps)
        found[f"{solid}, folded"] = kinked(mesh, np.random.default_rng(1))
        found[f"{solid}, twice"] = together(
            mesh, Mesh(mesh.vertices + 0.9 * np.ptp(mesh.vertices, axis=0), mesh.triangles)
        )
    found |= {f"robot, {path.stem}": read_mesh(path.read_bytes(), path.suffix).mesh for path in robot_models()}
    found |= dict(hard_meshes(quick))
    return dict(list(found.items())[::5]) if quick else found


def installed() -> list[str]:
    """The packages that the peers' environment was made of."""
    done = PEERS / "done"
    return done.read_text().splitlines() if done.exists() else []


def trimesh_mesh(mesh: Any) -> Mesh:
    return Mesh(np.array(mesh.vertices), np.array(mesh.faces, dtype=np.int64))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--quick", action="store_true", help="every fifth mesh")
    parser.add_argument("--only", help="one method", choices=METHODS)
    arguments = parser.parse_args()
    methods = [arguments.only] if arguments.only else METHODS
    if methods != ["ours"] and installed() != PACKAGES:
        subprocess.run([sys.executable, "-m", "venv", str(PEERS)], check=True)
        subprocess.run([str(PEERS / "bin/pip"), "install", "-q", *PACKAGES], check=True)
        (PEERS / "done").write_text("\n".join(PACKAGES))
    rows: dict[str, list[dict[str, Any]]] = {m: [] for m in methods}
    every = meshes(arguments.quick)
    with tempfile.TemporaryDirectory() as folder:
        run("ours", next(iter(every.values())), Path(folder))  # what is compiled, is
        for name, mesh in every.items():
            seen = seen_points(mesh)
            for method in methods:
                rows[method].append(judged(mesh, seen, *run(method, mesh, Path(folder))))
            marks = " ".join(f"{m}:{mark(rows[m][-1])}{rows[m][-1]['seconds']:.1f}" for m in methods)
            print(f"{name:40s}{len(mesh.triangles):>8}  {marks}", flush=True)
    print(f"\n{len(every)} meshes\n{'':<20}{'mended':>8}{'kept':>8}{'faithful':>9}{'seconds':>9}{'MB':>7}")
    found = {m: summary(rows[m]) for m in methods}
    for method, s in found.items():
        shares = "".join(f"{s[k]:>8.1%}" for k in ("mended", "kept_shape", "faithful"))
        print(f"{method:<20}{shares}{s['seconds']:>9.2f}{s['mb']:>7.0f}")
    said = {k: round(found["ours"][k], 3) for k in ("mended", "kept_shape", "faithful")}
    said["false_success"] = sum(r["said"] and not r["mended"] for r in rows["ours"])
    if "pymeshfix" in found:
        said["time_ratio"] = round(found["ours"]["seconds"] / found["pymeshfix"]["seconds"], 2)
        pairs = zip(rows["ours"], rows["scikit-image"], strict=True)
        said["worst_ratio"] = round(max((o["seconds"] - 2) / r["seconds"] for o, r in pairs), 2)
    print(json.dumps(said))


def mark(row: dict[str, Any]) -> str:
    """Of one mesh and method: - not mended, o mended and not its shape, + its shape, * faithful."""
    if not row["mended"]:
        return "-"
    return "o" if row["kept"] < NEAR else "+" if row["new"] < NEAR else "*"


def run(method: str, mesh: Mesh, folder: Path) -> tuple[Mesh | None, bool, float, float]:
    """What a method makes of a mesh, whether it says that it is closed, its seconds, and its peak memory, MB."""
    source, target = folder / "in.npz", folder / "out.npz"
    target.unlink(missing_ok=True)
    np.savez(source, v=mesh.vertices, f=mesh.triangles)
    python = sys.executable if method == "ours" else str(PEERS / "bin/python")
    command = [python, "-m", "bench.mend_one", method, str(source), str(target)]
    started = time.perf_counter()
    try:
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return None, False, SECONDS, 0.0
    seconds = time.perf_counter() - started
    if done.returncode or not target.exists():
        return None, False, SECONDS if done.returncode < 0 else seconds, 0.0
    said = json.loads(done.stdout.splitlines()[-1])
    with np.load(target) as file:
        return Mesh(file["v"].astype(float), file["f"].astype(np.int64)), said["closed"], seconds, said["mb"]


def judged(before: Mesh, seen: Points, after: Mesh | None, said: bool, seconds: float, mb: float) -> dict[str, Any]:
    found = {"mended": False, "said": said, "kept": 0.0, "new": 0.0, "seconds": seconds, "mb": mb}
    if after is None or len(after.triangles) == 0:
        return found
    corners = after.vertices[after.triangles].astype(np.float32).reshape(-1, 3)  # as STL has them
    points, index = np.unique(corners, axis=0, return_inverse=True)
    skin = trimesh.Trimesh(points, index.reshape(-1, 3), process=False)
    found["mended"] = bool(skin.is_watertight and skin.is_winding_consistent and skin.volume > 0)
    off = 0.005 * float(np.linalg.norm(np.ptp(before.vertices, axis=0)))
    found["kept"], found["new"] = share_near(seen, after, off), share_near(points_on(after), before, off)
    return found


def points_on(mesh: Mesh) -> Points:
    surface = trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)
    return np.asarray(trimesh.sample.sample_surface(surface, 4000, seed=1)[0])


def seen_points(mesh: Mesh) -> Points:
    """Points on a surface that can be seen from outside: from one of its sides some rays meet nothing. Asked of the
    mesh made 1000 across: the library's rays begin 1e-4 away from their points, whatever the size.
    """
    middle, grown = mesh.vertices.mean(axis=0), 1000 / float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    vertices = (mesh.vertices - middle) * grown
    surface = trimesh.Trimesh(vertices, mesh.triangles, process=False)
    found, faces = trimesh.sample.sample_surface(surface, 4000, seed=1)
    points, normals = np.asarray(found), np.asarray(surface.face_normals)[faces]
    off = 0.01
    shut = [
        igl.ambient_occlusion(vertices, mesh.triangles, points + side * off * normals, side * normals, RAYS)
        for side in (1.0, -1.0)
    ]
    return points[np.min(shut, axis=0).ravel() < 1 - 2 / RAYS] / grown + middle


def share_near(points: Points, target: Mesh, off: float) -> float:
    """The share of points no farther off a surface than that."""
    if len(points) == 0:
        return 1.0
    away = np.sqrt(igl.point_mesh_squared_distance(points, target.vertices, target.triangles)[0])
    return float(np.mean(away < off))


def summary(rows: list[dict[str, Any]]) -> dict[str, float]:
    kept = [r["mended"] and r["kept"] >= NEAR for r in rows]
    return {
        "mended": statistics.mean(r["mended"] for r in rows),
        "kept_shape": statistics.mean(kept),
        "faithful": statistics.mean(k and r["new"] >= NEAR for k, r in zip(kept, rows, strict=True)),
        "seconds": statistics.median(r["seconds"] for r in rows),
        "mb": max(r["mb"] for r in rows),
    }


if __name__ == "__main__":
    main()
