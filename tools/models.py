"""Open meshes that package registries carry, fetched into .data/models once, for tests and benchmarks: the Stanford
bunny (`bunny` on npm), `airplane.ply`, `ant.ply` and `nut.ply` (in `pyvista` on PyPI), and the test models of Debian's
`assimp-testmodels`.
"""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from pathlib import Path

from tools.frontend import NODE_BIN, node_environment
from tools.machine import DATA, Stop, ended_well, say

FOLDER = DATA / "models"
PYVISTA, BUNNY = "pyvista==0.49.1", "bunny@1.0.1"
ASSIMP = "assimp-testmodels"


def ensure_models() -> Path:
    """The folder, filled on the first call. Raises Stop where a registry does not answer."""
    done = FOLDER / "done"
    if not done.exists():
        say("Fetching open meshes to test with (once, a few MB) ...")
        FOLDER.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory() as folder:
            _bunny(Path(folder))
            _pyvista(Path(folder))
            _assimp(Path(folder))
        done.write_text("")
    return FOLDER


def _run(command: list[str], folder: Path, what: str) -> None:
    done = subprocess.run(command, cwd=folder, env=node_environment(), capture_output=True, text=True, check=False)
    if done.returncode:
        raise Stop(f"{what} could not be fetched: {' '.join((done.stderr or done.stdout).split())[-200:]}")


def _bunny(folder: Path) -> None:
    npm = NODE_BIN / "npm"
    _run([str(npm), "pack", "--silent", BUNNY], folder, "The bunny")
    with tarfile.open(next(folder.glob("bunny-*.tgz"))) as archive:
        text = archive.extractfile("package/index.js").read().decode()  # type: ignore[union-attr]
    script = f"{text}\nconsole.log(JSON.stringify([exports.positions, exports.cells]))"
    (folder / "bunny.js").write_text(script)
    found = subprocess.run([str(NODE_BIN / "node"), "bunny.js"], cwd=folder, capture_output=True, text=True, check=True)
    points, cells = json.loads(found.stdout)
    lines = [f"v {x} {y} {z}" for x, y, z in points] + [f"f {a + 1} {b + 1} {c + 1}" for a, b, c in cells]
    (FOLDER / "bunny.obj").write_text("\n".join(lines) + "\n")


def _pyvista(folder: Path) -> None:
    pip = [sys.executable, "-m", "pip", "download", "-q", "--disable-pip-version-check", "--no-deps", PYVISTA]
    _run(pip, folder, "pyvista's examples")
    with zipfile.ZipFile(next(folder.glob("pyvista-*.whl"))) as archive:
        for name in ("airplane", "ant", "nut", "sphere"):
            (FOLDER / f"{name}.ply").write_bytes(archive.read(f"pyvista/examples/{name}.ply"))


def _assimp(folder: Path) -> None:
    if shutil.which("apt-get") is None:
        return
    subprocess.run(["apt-get", "update", "-qq"], capture_output=True, check=False)
    _run(["apt-get", "download", "-q", ASSIMP], folder, f"Debian's {ASSIMP}")
    _run(["dpkg", "-x", str(next(folder.glob("assimp*.deb"))), "assimp"], folder, f"Debian's {ASSIMP}")
    shutil.copytree(folder / "assimp/usr/share/assimp/models", FOLDER / "assimp", dirs_exist_ok=True)


if __name__ == "__main__":
    sys.exit(ended_well(lambda: ensure_models() and 0))
