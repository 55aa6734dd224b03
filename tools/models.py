"""Open meshes that package registries carry, fetched into .data/models once, for tests and benchmarks: the Stanford
bunny (`bunny` on npm), `airplane.ply`, `ant.ply` and `nut.ply` (in `pyvista` on PyPI), and the test models of Debian's
`assimp-testmodels`. For the benchmark of mending alone, what simulators of robots bring with them (`robot_models`).
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

ROBOTS = {
    "pybullet==3.2.7": [
        "pybullet_data/a1/meshes/thigh.obj",
        "pybullet_data/a1/meshes/thigh_mirror.obj",
        "pybullet_data/a1/meshes/calf.obj",
        "pybullet_data/kiva_shelf/meshes/pod_lowres.stl",
        "pybullet_data/husky/meshes/user_rail.stl",
        "pybullet_data/laikago/upper_leg_mirror2.obj",
        "pybullet_data/mini_cheetah/meshes/mini_lower_link.obj",
        "pybullet_data/lego/lego.obj",
        "pybullet_data/xarm/xarm_description/meshes/xarm6/visual/link2.stl",
        "pybullet_data/xarm/xarm_gripper/meshes/base_link.STL",
        "pybullet_data/roboschool/models_outdoor/stadium/stadium.obj",
    ],
    "gymnasium-robotics==1.4.2": [
        "gymnasium_robotics/envs/assets/stls/fetch/estop_link.stl",
        "gymnasium_robotics/envs/assets/adroit_hand/resources/meshes/forearm_Cy_PlateAsmbly.stl",
        "gymnasium_robotics/envs/assets/adroit_hand/resources/meshes/forearm_weight.stl",
    ],
    "robosuite==1.5.2": [
        "robosuite/models/assets/bullet_data/baxter_description/meshes/base/PEDESTAL.stl",
        "robosuite/models/assets/robots/gr1/meshes/r_hand_yaw.STL",
        "robosuite/models/assets/robots/gr1/meshes/waist_pitch.STL",
        "robosuite/models/assets/robots/gr1/meshes/l_upper_arm_yaw.STL",
        "robosuite/models/assets/robots/tiago/meshes/grippers/gripper_finger_link.stl",
        "robosuite/models/assets/robots/sawyer/obj_meshes/l4/l4_6.obj",
        "robosuite/models/assets/robots/sawyer/obj_meshes/l6/l6_5.obj",
        "robosuite/models/assets/robots/spot/meshes/body_0.obj",
        "robosuite/models/assets/robots/ur5e/meshes/wrist3_vis.obj",
        "robosuite/models/assets/grippers/meshes/fourier_hands/L_thumb_proximal_link.STL",
        "robosuite/models/assets/grippers/meshes/rethink_gripper/connector_plate.obj",
    ],
}
"""By package on PyPI the meshes of it that were hardest to mend, of two hundred: open and closed shells within and
beside each other, parts that touch in whole faces, in metres and in millimetres.
"""


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


def robot_models() -> list[Path]:
    """The meshes of `ROBOTS`, fetched on the first call (300 MB, of which 20 stay)."""
    folder = FOLDER / "robots"
    done = folder / "done"
    if not done.exists():
        say("Fetching meshes of robots to mend (once, 300 MB) ...")
        folder.mkdir(parents=True, exist_ok=True)
        for package, names in ROBOTS.items():
            with tempfile.TemporaryDirectory() as held:
                _download(package, Path(held))
                with zipfile.ZipFile(next(Path(held).glob("*.whl"))) as archive:
                    for name in names:
                        (folder / Path(name).name).write_bytes(archive.read(name))
        done.write_text("")
    return [folder / Path(name).name for names in ROBOTS.values() for name in names]


def _download(package: str, folder: Path) -> None:
    pip = [sys.executable, "-m", "pip", "download", "-q", "--disable-pip-version-check", "--no-deps", package]
    _run(pip, folder, package)


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
    _download(PYVISTA, folder)
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
