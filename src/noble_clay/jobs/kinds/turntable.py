"""A moving picture of a piece that turns once around."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.sheet.sheet import glazed
from noble_clay.core.sheet.turntable import MOVING, Turning, moving, turned_once
from noble_clay.jobs.kinds.base import Params, PieceJob, Tell, asked_for, keep_files
from noble_clay.jobs.kinds.made import made_in
from noble_clay.store.tables import JobRow

TURNTABLE = "turntable"


class TakeTurntable(PieceJob):
    kind: ClassVar[str] = "turntable"
    label: ClassVar[str] = "Turntable"
    quiet: ClassVar[bool] = True
    of_piece: ClassVar[bool] = False  # asked for by a way of its own

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        asked = asked_for(Turning, params)
        tell(0.0, "making the piece")
        piece, result = made_in(folder)
        colours = glazed(piece, result)
        pictures = turned_once(result.written.mesh, colours, asked, lambda share: tell(0.1 + 0.8 * share, "drawing"))
        for kind in MOVING:
            tell(0.95, "writing")
            (folder / f"{TURNTABLE}.{kind}").write_bytes(moving(pictures, asked.seconds, kind))
        return {"pictures": len(pictures), "revision": params["revision"]}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        keep_files(session, row, folder, [f"{TURNTABLE}.{kind}" for kind in MOVING])

    def outcome(self, result: Params) -> str:
        return f"{result['pictures']} pictures"
