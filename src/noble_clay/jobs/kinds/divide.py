"""A piece as several bodies, one for each of its glazes, as files."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.formats.several import Named, bodies_of, several_bytes
from noble_clay.core.printing.glazes import by_glaze
from noble_clay.core.sheet.words import glaze_word
from noble_clay.jobs.kinds.base import Params, PieceJob, Tell, keep_files
from noble_clay.jobs.kinds.made import made_in
from noble_clay.store.tables import JobRow

GLAZES = "glazes"
ENDINGS = {"3mf": "3mf", "zip": "stl"}
"""Of the files that come of it, and the format of what is in each."""


class DivideByGlaze(PieceJob):
    kind: ClassVar[str] = "by_glaze"
    label: ClassVar[str] = "Bodies by glaze"
    quiet: ClassVar[bool] = True
    of_piece: ClassVar[bool] = False  # asked for by the Print stage

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        tell(0.0, "making the piece")
        piece, result = made_in(folder)
        found = by_glaze(piece, result, lambda share: tell(0.1 + 0.7 * share, "dividing by glaze"))
        bodies = bodies_of([Named(glaze_word(each.colour), each.solid, each.colour) for each in found], piece)
        for number, (ending, file_format) in enumerate(ENDINGS.items()):
            tell(0.8 + 0.1 * number, "writing and reading back")
            (folder / f"{GLAZES}.{ending}").write_bytes(several_bytes(bodies, piece.name, file_format))
        return {"bodies": len(bodies), "revision": params["revision"]}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        keep_files(session, row, folder, [f"{GLAZES}.{ending}" for ending in ENDINGS])

    def outcome(self, result: Params) -> str:
        return f"{result['bodies']} glazes"
