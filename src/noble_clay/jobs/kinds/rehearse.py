"""Telling what mending would do, and changing nothing."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from noble_clay.core.formats.pieces import asset_mesh
from noble_clay.jobs.kinds.base import INPUT, MeshJob, Params, Tell
from noble_clay.jobs.kinds.mend import in_mm, mended


class Rehearse(MeshJob):
    """As `Mend`, but only its report is kept."""

    kind: ClassVar[str] = "rehearse"
    label: ClassVar[str] = "Try out"
    quiet: ClassVar[bool] = True

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        _, report = mended(asset_mesh((folder / INPUT).read_bytes()), params, tell)
        return {"report": in_mm(report.values(), params["scale"])}
