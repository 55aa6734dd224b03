"""The front end: its packages from the lock file and its build, each only when something changed."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

from tools.machine import MADE, ROOT, run, say

FRONTEND = ROOT / "frontend"
NODE_BIN = ROOT / ".venv" / "bin"
"""Node.js comes as a Python wheel, so the version is the lock file's."""


def node_environment() -> dict[str, str]:
    return {**os.environ, "PATH": f"{NODE_BIN}{os.pathsep}{os.environ['PATH']}", "npm_config_update_notifier": "false"}


def ensure_packages() -> None:
    """npm's packages as the lock file says."""
    if stamp_is_current("npm", [FRONTEND / "package-lock.json"]) and (FRONTEND / "node_modules").exists():
        return
    say("Setting up the front end's packages (once, about half a minute) ...")
    command = [str(NODE_BIN / "npm"), "ci", "--no-audit", "--no-fund"]
    run(
        command,
        "The front end's packages could not be installed. Check the network and run this again.",
        FRONTEND,
        node_environment(),
    )
    mark_current("npm", [FRONTEND / "package-lock.json"])


def ensure_built() -> None:
    """The built page in frontend/dist."""
    sources = [p for p in sorted((FRONTEND / "src").rglob("*")) if p.is_file()]
    sources += [FRONTEND / n for n in ("index.html", "vite.config.ts", "package-lock.json", "tsconfig.json")]
    if stamp_is_current("build", sources) and (FRONTEND / "dist" / "index.html").exists():
        return
    ensure_packages()
    say("Building the page (a few seconds) ...")
    command = [str(NODE_BIN / "node"), "node_modules/vite/bin/vite.js", "build"]
    run(command, "The page could not be built.", FRONTEND, node_environment())
    mark_current("build", sources)


def _digest(files: list[Path]) -> str:
    total = hashlib.sha256()
    for path in files:
        total.update(str(path.relative_to(ROOT)).encode() + b"\0" + path.read_bytes() + b"\0")
    return total.hexdigest()


def stamp_is_current(name: str, files: list[Path]) -> bool:
    """Whether the files are what they were when `mark_current` was last called under this name."""
    stamp = MADE / f"made-{name}"
    return stamp.exists() and stamp.read_text() == _digest(files)


def marked_at(name: str) -> float:
    """When `mark_current` was last called under this name, as files tell time."""
    return (MADE / f"made-{name}").stat().st_mtime


def mark_current(name: str, files: list[Path]) -> None:
    MADE.mkdir(exist_ok=True)
    (MADE / f"made-{name}").write_text(_digest(files))
