"""Mending beside the general-purpose repair libraries on PyPI, over real open meshes and solids damaged on purpose.

python -m bench.mend [--quick]

The peers are libraries: trimesh, pymeshfix, libigl, and resurfacing on a lattice by scikit-image. They live in a
virtual environment of their own under .data/peers, made when what is wanted in it changes; the meshes come by
`tools.models`. Each mesh and method runs in a process of its own with a time limit, so that peak memory is that of the
one, and a crash is a mesh not mended.

mended: closed, wound alike and of positive volume, as trimesh sees it. kept_shape: 95% of the old surface within 0.5%
of the diagonal of the new one; nothing_invented: the other way round; both as shares of all meshes. Times are medians.
`time_ratio` is ours to that of the fastest peer that mends at least half.
"""

from __future__ import annotations

import argparse
import json
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import igl
import numpy as np
import trimesh
from tests.damage import DAMAGES, damaged, kinked, primitive, together
from tools.machine import DATA, ROOT
from tools.models import ensure_models

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
METHODS = ["ours", "trimesh", "pymeshfix", "libigl", "scikit-image"]
SECONDS = 60
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
            for method in methods:
                rows[method].append(judged(mesh, *run(method, mesh, Path(folder))))
            marks = " ".join(
                f"{m}:{'+' if rows[m][-1]['mended'] else '-'}{rows[m][-1]['seconds']:.2f}" for m in methods
            )
            print(f"{name:40s}{len(mesh.triangles):>8}  {marks}", flush=True)
    print(f"\n{len(every)} meshes\n{'':<20}{'mended':>8}{'kept':>8}{'new':>8}{'seconds':>9}{'MB':>7}")
    found = {m: summary(rows[m]) for m in methods}
    for method, s in found.items():
        shares = "".join(f"{s[k]:>8.1%}" for k in ("mended", "kept_shape", "nothing_invented"))
        print(f"{method:<20}{shares}{s['seconds']:>9.2f}{s['mb']:>7.0f}")
    peers = [s for m, s in found.items() if m != "ours" and s["mended"] >= 0.5]
    ours = found["ours"]
    said = {k: round(ours[k], 3) for k in ("mended", "kept_shape", "nothing_invented")}
    if peers:
        said["time_ratio"] = round(ours["seconds"] / min(p["seconds"] for p in peers), 2)
    print(json.dumps(said))


def run(method: str, mesh: Mesh, folder: Path) -> tuple[Mesh | None, float, float]:
    """What a method makes of a mesh, its seconds, and its peak memory, MB."""
    source, target = folder / "in.npz", folder / "out.npz"
    target.unlink(missing_ok=True)
    np.savez(source, v=mesh.vertices, f=mesh.triangles)
    python = sys.executable if method == "ours" else str(PEERS / "bin/python")
    command = [python, "-m", "bench.mend_one", method, str(source), str(target)]
    try:
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return None, SECONDS, 0.0
    if done.returncode or not target.exists():
        return None, SECONDS if done.returncode < 0 else 0.0, 0.0
    said = json.loads(done.stdout.splitlines()[-1])
    with np.load(target) as file:
        return Mesh(file["v"].astype(float), file["f"].astype(np.int64)), said["seconds"], said["mb"]


def judged(before: Mesh, after: Mesh | None, seconds: float, mb: float) -> dict[str, Any]:
    found = {"mended": False, "kept": 0.0, "new": 0.0, "seconds": seconds, "mb": mb}
    if after is None or len(after.triangles) == 0:
        return found
    skin = trimesh.Trimesh(after.vertices, after.triangles, process=False)
    found["mended"] = bool(skin.is_watertight and skin.is_winding_consistent and skin.volume > 0)
    found["kept"], found["new"] = share_near(before, after, before), share_near(after, before, before)
    return found


def share_near(source: Mesh, target: Mesh, before: Mesh) -> float:
    """The share of one surface within 0.5% of the old diagonal of another."""
    surface = trimesh.Trimesh(source.vertices, source.triangles, process=False)
    points = np.asarray(trimesh.sample.sample_surface(surface, 4000, seed=1)[0])
    away = np.sqrt(igl.point_mesh_squared_distance(points, target.vertices, target.triangles)[0])
    return float(np.mean(away < 0.005 * np.linalg.norm(np.ptp(before.vertices, axis=0))))


def summary(rows: list[dict[str, Any]]) -> dict[str, float]:
    return {
        "mended": statistics.mean(r["mended"] for r in rows),
        "kept_shape": statistics.mean(r["mended"] and r["kept"] >= 0.95 for r in rows),
        "nothing_invented": statistics.mean(r["mended"] and r["new"] >= 0.95 for r in rows),
        "seconds": statistics.median(r["seconds"] for r in rows),
        "mb": max(r["mb"] for r in rows),
    }


if __name__ == "__main__":
    main()
