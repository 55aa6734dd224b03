"""Finding what is wrong with a mesh of a piece."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.formats.pieces import asset_mesh
from noble_clay.core.mesh.inspect import inspect_mesh
from noble_clay.jobs.kinds.base import INPUT, MeshJob, Params, Tell
from noble_clay.jobs.kinds.found_meshes import keep_findings, leave_findings
from noble_clay.store.tables import JobRow


class InspectMesh(MeshJob):
    """Look an asset over; its findings are kept by its SHA-256."""

    kind: ClassVar[str] = "inspect"
    label: ClassVar[str] = "Look over"
    quiet: ClassVar[bool] = True

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        tell(0.1, "looking it over")
        mesh = asset_mesh((folder / INPUT).read_bytes())
        leave_findings(folder, mesh, inspect_mesh(mesh))
        return {}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        for number, params in enumerate(row.params["meshes"].values()):
            keep_findings(session, folder / str(number), params["sha256"])
