"""Mending meshes of a piece: a job whose end is one step of the piece's history."""

from __future__ import annotations

from pathlib import Path
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.formats.pieces import asset_mesh
from noble_clay.core.mend.mend_place import mend_place
from noble_clay.core.mend.plan import RepairOptions, Report, mend
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mesh import Mesh
from noble_clay.core.piece.edits.mended import Mended
from noble_clay.core.piece.models import MeshAsset
from noble_clay.jobs.kinds.base import INPUT, MeshJob, Params, Tell
from noble_clay.jobs.kinds.found_meshes import MESH, in_words, keep_mesh, leave_mesh
from noble_clay.store import jobs
from noble_clay.store.pieces import apply_edit, load_piece
from noble_clay.store.tables import JobRow

MOVED = "moved.f4"


class Mend(MeshJob):
    """Of each mesh: `scale`, mm in a unit of it, and either `options`, their lengths in mm, or `only`, the kind and
    number of a single flaw.
    """

    kind: ClassVar[str] = "mend"
    label: ClassVar[str] = "Mend"

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        before = asset_mesh((folder / INPUT).read_bytes())
        repaired, report = mended(before, params, lambda share, step: tell(0.9 * share, step))
        tell(0.92, "looking it over")
        found = leave_mesh(folder, repaired)
        shown = asset_mesh((folder / MESH).read_bytes())
        moved = MeshDistance(before).unsigned_distance(shown.corners.mean(axis=1))[0] * params["scale"]
        (folder / MOVED).write_bytes(moved.astype("<f4").tobytes())  # of each triangle's middle
        return {**found, "report": in_mm(report.values(), params["scale"])}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        for number, found in enumerate(result.values()):
            keep_mesh(session, folder / str(number), found["sha256"])
            jobs.add_block(session, row.id, f"moved-{number}", 0, (folder / str(number) / MOVED).read_bytes())
        _put_into_piece(session, row, result)

    def outcome(self, result: Params) -> str:
        return "; ".join(in_words(found["report"]) for found in result.values())


def _put_into_piece(session: Session, row: JobRow, result: Params) -> None:
    """One step of the piece's history. Raises PieceError where its parts have other meshes by now."""
    assert row.piece_id is not None
    meshes = {
        part: (MeshAsset(asset=params["sha256"]), MeshAsset(asset=result[part]["sha256"]))
        for part, params in row.params["meshes"].items()
        if params["sha256"] != result[part]["sha256"]
    }
    if meshes:
        now = load_piece(session, row.piece_id)
        apply_edit(session, row.piece_id, now.revision, f"job-{row.id}", Mended(kind="mended", meshes=meshes))


def mended(mesh: Mesh, params: Params, tell: Tell) -> tuple[Mesh, Report]:
    """A mesh mended as a job asks for it, and the report, both in the mesh's own units."""
    only = params.get("only")
    if only is not None:
        return mend_place(mesh, only["kind"], only["number"], tell)
    return mend(mesh, options_of(params["options"], params["scale"]), tell)


def options_of(values: dict[str, Any], scale: float) -> RepairOptions:
    """What a maker asks for, in mm, in the units of a mesh that is shown `scale` times as large."""
    lengths = {k: values[k] / scale for k in ("weld_mm", "wall_mm", "resolution_mm") if values.get(k) is not None}
    crumb = values["crumb_mm3"] / scale**3 if values.get("crumb_mm3") is not None else None
    skip = frozenset(values.get("skip", ()))
    return RepairOptions(skip=skip, crumb_mm3=crumb, bodies=values.get("bodies", "leave"), **lengths)


def in_mm(values: Any, scale: float) -> Any:
    """Measures of a mesh as they are where it is shown, `scale` times as large: lengths, areas and volumes by the ends
    of their names.
    """
    match values:
        case dict():
            return {key: _scaled(key, in_mm(value, scale), scale) for key, value in values.items()}
        case list():
            return [in_mm(value, scale) for value in values]
        case _:
            return values


def _scaled(key: str, value: Any, scale: float) -> Any:
    power = next((p for p, end in enumerate(("_mm", "_mm2", "_mm3"), 1) if key.endswith(end)), 0)
    if key == "bounds" and value is not None:
        return [[c * scale for c in corner] for corner in value]
    return value * scale**power if power and value is not None else value
