"""Reading a stranger's mesh file."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.formats.read import read_mesh
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.jobs.kinds.base import INPUT, JobKind, Params, Run, Tell
from noble_clay.jobs.kinds.found_meshes import in_words, keep_mesh, leave_mesh
from noble_clay.store import jobs
from noble_clay.store.database import Sessions
from noble_clay.store.tables import JobRow


class BringIn(JobKind):
    """Read a mesh file and look it over; its middle comes to the origin."""

    kind: ClassVar[str] = "bring_in"
    label: ClassVar[str] = "Bring in"

    def inputs(self, sessions: Sessions, row: JobRow, folder: Path) -> list[Run]:
        with sessions.begin() as session, (folder / INPUT).open("wb") as file:
            for block in jobs.job_file(session, row.id, INPUT):
                file.write(block)
        return [Run("", folder, row.params)]

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        tell(0.05, "reading")
        file = read_mesh((folder / INPUT).read_bytes(), params["ending"])
        bounds = file.mesh.bounds
        assert bounds is not None
        mesh = Mesh(file.mesh.vertices - bounds.mean(axis=0), file.mesh.triangles)
        tell(0.5, "looking it over")
        found = leave_mesh(folder, mesh)
        names = list(dict.fromkeys(n for n in file.names if n))[:20]
        colours = {c for c in file.colours if c}
        return {
            **found,
            "unit": file.unit,
            "size": (bounds[1] - bounds[0]).tolist(),
            "names": names,
            "colour": colours.pop() if len(colours) == 1 else None,
        }

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        keep_mesh(session, folder, result["sha256"])

    def outcome(self, result: Params) -> str:
        return in_words(result)
