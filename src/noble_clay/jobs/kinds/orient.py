"""Finding ways to lay a piece on the bed."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import ClassVar

from noble_clay.core.printing.orientation import orientations
from noble_clay.jobs.kinds.base import Params, PieceJob, Tell
from noble_clay.jobs.kinds.made import made_in


class Orient(PieceJob):
    kind: ClassVar[str] = "orient"
    label: ClassVar[str] = "Ways to lie"
    quiet: ClassVar[bool] = True

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        tell(0.0, "making the piece")
        mesh = made_in(folder)[1].written.mesh
        tell(0.3, "turning it about")
        found = orientations(mesh, lambda share: tell(0.3 + 0.7 * share, "turning it about"))
        return {"ways": [asdict(way) for way in found], "revision": params["revision"]}
