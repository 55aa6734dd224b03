"""All that lies on a bed as one file: the piece, its copies, and the pieces beside it, as they are laid out; where one
bed has no room for all, a file for each bed.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.core.formats.file_names import plain_name
from noble_clay.core.formats.read_back import check_read_back
from noble_clay.core.formats.several import zipped
from noble_clay.core.formats.threemf_write import Body, write_threemf_of
from noble_clay.core.formats.write import mesh_bytes, named_parts
from noble_clay.core.mesh.together import together
from noble_clay.core.mesh.written import in_float32
from noble_clay.core.printing.bed import Bed, laid
from noble_clay.core.printing.plate import ToLay, beds_of, lay_out
from noble_clay.core.printing.profiles import Printer
from noble_clay.jobs.kinds.base import Params, PieceJob, Run, Tell, asked_for, keep_files, lay_ready
from noble_clay.jobs.kinds.made import made_in
from noble_clay.store.database import Sessions
from noble_clay.store.tables import JobRow

PLATE = "plate"
OFF_MM = 1e-3
"""By which a placed point may be off in a 3MF, whose turns and scales have six decimals."""


class Another(BaseModel):
    """A piece beside the one the job is about. state: of its parts, so that the same is not asked for twice."""

    model_config = ConfigDict(extra="forbid")

    piece: str
    copies: int
    bed: Bed
    state: str


class OnPlate(BaseModel):
    """bed: of the piece that the job is about. printer: the profile that it names."""

    model_config = ConfigDict(extra="forbid")

    bed: Bed
    printer: Printer
    others: list[Another]


class TakeOutPlate(PieceJob):
    kind: ClassVar[str] = "plate"
    label: ClassVar[str] = "Everything on the bed"
    quiet: ClassVar[bool] = True
    of_piece: ClassVar[bool] = False  # asked for by the Print stage, with what its bed says

    def inputs(self, sessions: Sessions, row: JobRow, folder: Path) -> list[Run]:
        (run,) = super().inputs(sessions, row, folder)
        for number, other in enumerate(asked_for(OnPlate, row.params).others):
            own = folder / str(number)
            own.mkdir()
            with sessions.begin() as session:
                lay_ready(session, other.piece, own)
        return [run]

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        asked = asked_for(OnPlate, params)
        wanted = [(folder, asked.bed, asked.bed.copies)]
        wanted += [(folder / str(n), other.bed, other.copies) for n, other in enumerate(asked.others)]
        made, things = [], []
        for number, (place, bed, copies) in enumerate(wanted):
            tell(0.6 * number / len(wanted), "making the pieces")
            piece, result = made_in(place)
            if not result.inspection.sound:
                raise MeshError(f'"{piece.name}" is not sound: mend it, or take it off the bed')
            made.append((piece, result))
            things.append(ToLay(result.written.mesh, bed, copies))
        tell(0.6, "arranging")
        lying = lay_out(things, asked.printer, asked.bed.gap)
        stand = sum(len(one.spots) for one in lying)
        if not stand:
            raise MeshError("nothing of this finds room on the bed")
        beds, name = beds_of(lying), made[0][0].name
        pieces = [Body(result.written.mesh, piece.name, named_parts(piece, result), []) for piece, result in made]
        for share, ending in ((0.7, "3mf"), (0.85, "stl")):
            tell(share, f"writing {ending.upper()}")
            files = {}
            for number in range(beds):
                there = [replace(body, matrices=one.matrices(number)) for body, one in zip(pieces, lying, strict=True)]
                title = f"{name}, bed {number + 1}" if beds > 1 else f"{name}, bed"
                files[f"{plain_name(title)}.{ending}"] = _file([body for body in there if body.matrices], title, ending)
            (folder / f"{PLATE}.{ending}").write_bytes(zipped(files) if beds > 1 else next(iter(files.values())))
        left_out = sum(thing.copies for thing in things) - stand
        return {"bodies": stand, "beds": beds, "left_out": left_out, "revision": params["revision"]}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        keep_files(session, row, folder, [f"{PLATE}.3mf", f"{PLATE}.stl"])

    def outcome(self, result: Params) -> str:
        beds = result["beds"]
        return f"{result['bodies']} on {'the bed' if beds == 1 else f'{beds} beds'}"


def _file(bodies: list[Body], title: str, ending: str) -> bytes:
    """One bed, read back and compared."""
    whole = together([laid(body.mesh, matrix) for body in bodies for matrix in body.matrices])
    whole = in_float32(whole)  # as files hold it
    data = write_threemf_of(bodies, title) if ending == "3mf" else mesh_bytes(whole, title, ending)
    check_read_back(data, ending, whole, OFF_MM)
    return data
