"""The compiled functions of the core, made once and kept on disk, each time that the core has changed."""

from __future__ import annotations

import sys

from tools.frontend import mark_current, marked_at, stamp_is_current
from tools.machine import ROOT, run, say

CORE = ROOT / "src/noble_clay/core"


def ensure_compiled() -> None:
    """Compile what is not compiled yet, so that nothing waits for it later."""
    sources = [
        path
        for path in sorted(CORE.rglob("*.py"))
        if path.name == "loops.py" or "core.loops import" in path.read_text()
    ]
    if stamp_is_current("compiled", sources):
        return
    for kept in CORE.rglob("*.nb[ic]"):  # what one file holds of another's loops may be old
        kept.unlink()
    say("Compiling the geometry (once, up to two minutes) ...")
    run([sys.executable, "-m", "noble_clay.core.warm"], "The geometry could not be compiled.")
    mark_current("compiled", sources)


def compiled_late() -> list[str]:
    """What was compiled since: somebody waited for it, where `warm` should have done so."""
    made = marked_at("compiled")
    return sorted(path.name for path in CORE.rglob("*.nbc") if path.stat().st_mtime > made)
