"""This machine: saying things, running programs, installing Debian packages, free ports."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
MADE = ROOT / ".data"
"""What was made of the checkout's own files, and marks of that."""

DATA = Path(os.environ.get("NOBLE_CLAY_DATA", MADE))
"""Databases, meshes, and who runs here."""


class Stop(Exception):
    """Something that the person at the terminal has to put right; the message says what."""


def say(text: str) -> None:
    print(text, flush=True)


def is_root() -> bool:
    return os.geteuid() == 0


def install_debian(packages: list[str], what: str) -> None:
    """Install Debian packages as root; as anyone else, say what is to be installed."""
    command = f"apt-get install {' '.join(packages)}"
    if not is_root() or shutil.which("apt-get") is None:
        raise Stop(f"{what} is missing. Install it (on Debian, as root: {command}), then run this again.")
    say(f"Installing {what} (Debian's {', '.join(packages)}) ...")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for step in (["apt-get", "update", "-qq"], ["apt-get", "install", "-y", "-qq", *packages]):
        done = subprocess.run(step, env=environment, capture_output=True, text=True, check=False)
        if done.returncode:
            last = (done.stderr.strip() or done.stdout.strip()).splitlines()[-1:]
            raise Stop(f"{what} could not be installed: {' '.join(last)}\nCheck the network, then run this again.")


def run(command: list[str], failing: str, cwd: Path = ROOT, env: dict[str, str] | None = None) -> None:
    """Run a program quietly; when it fails, stop with `failing` and its last lines."""
    done = subprocess.run(command, cwd=cwd, env=env, capture_output=True, text=True, check=False)
    if done.returncode:
        said = "\n".join((done.stdout + done.stderr).strip().splitlines()[-8:])
        raise Stop(f"{failing}\n{said}")


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def port_taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return True
        return False


def ended_well(main: object) -> int:
    """Run a command's `main`; a `Stop` becomes its message and status 1."""
    try:
        return int(main() or 0)  # type: ignore[operator]
    except Stop as stop:
        print(stop, file=sys.stderr)
        return 1
