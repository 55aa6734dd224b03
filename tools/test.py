"""./test: linters, types and the page's own tests, then pytest with real PostgreSQL and real Chromium.

`./test core` and the like run a folder or a file; `./test --long` tries many more examples; what else is given goes to
pytest. Files are shared out among `WORKERS` processes, each with a database and servers of its own.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import time
from concurrent.futures import Executor, ThreadPoolExecutor
from pathlib import Path

from tools.cluster import ensure_programs
from tools.compiled import compiled_late, ensure_compiled
from tools.frontend import FRONTEND, NODE_BIN, ensure_built, ensure_packages, node_environment
from tools.machine import ROOT, ended_well, install_debian, say

WORKERS = 2
BIN = ROOT / ".venv" / "bin"


def main() -> int:
    folders = [a for a in sys.argv[1:] if not a.startswith("-") and (ROOT / "tests" / a.split("::")[0]).exists()]
    others = [a for a in sys.argv[1:] if a not in folders]
    with ThreadPoolExecutor(WORKERS) as beside:
        compiled = beside.submit(ensure_compiled)
        ensure_packages()
        ensure_built()
        if shutil.which("chromium") is None or shutil.which("chromedriver") is None:
            install_debian(["chromium", "chromium-driver"], "Chromium and its driver")
        ensure_programs()
        failed = [] if folders else check(beside)
        compiled.result()
    wanted = [f"tests/{f}" for f in folders] or ["tests"]
    shared = ["-n", str(WORKERS), "--dist", "loadfile", "--no-loadscope-reorder", "--durations", "10"]
    status = subprocess.run([str(BIN / "pytest"), *shared, *others, *wanted], cwd=ROOT, check=False)
    if late := compiled_late():
        say(f"Compiled only when it was first called, which a maker would have waited for: {', '.join(late)}")
    if failed:
        say(f"Failed: {', '.join(failed)}")
    return status.returncode or (1 if failed else 0)


def check(beside: Executor) -> list[str]:
    """Run every checker, as many at once as there are workers; returns the names of those that found something."""
    node = str(NODE_BIN / "node")
    checks = {
        "mypy": ([str(BIN / "mypy")], ROOT),
        "vitest": ([node, "node_modules/vitest/vitest.mjs", "run"], FRONTEND),
        "tsc": ([node, "node_modules/typescript/bin/tsc", "--noEmit"], FRONTEND),
        "ruff": ([str(BIN / "ruff"), "check", "src", "tests", "bench", "tools"], ROOT),
        "ruff format": ([str(BIN / "ruff"), "format", "--check", "src", "tests", "bench", "tools"], ROOT),
        "import-linter": ([str(BIN / "lint-imports")], ROOT),
        "biome": ([node, "node_modules/@biomejs/biome/bin/biome", "check", "src", "tests"], FRONTEND),
    }
    done = [beside.submit(passes, name, *how) for name, how in checks.items()]
    return [name for name, each in zip(checks, done, strict=True) if not each.result()]


def passes(name: str, command: list[str], folder: Path) -> bool:
    """Whether a checker finds nothing; what it finds is told."""
    started = time.monotonic()
    done = subprocess.run(command, cwd=folder, env=node_environment(), capture_output=True, text=True, check=False)
    told = f"{name}: {'well' if done.returncode == 0 else 'FAILED'} ({time.monotonic() - started:.1f} s)"
    say(f"{told}\n{done.stdout}{done.stderr}" if done.returncode else told)
    return done.returncode == 0


if __name__ == "__main__":
    sys.exit(ended_well(main))
