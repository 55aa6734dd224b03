"""The making-of sheet of a piece, as a page and as PDF."""

from __future__ import annotations

from pathlib import Path
from typing import ClassVar

from sqlalchemy.orm import Session

from noble_clay.core.errors import MeshError
from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.printing.bed import laid
from noble_clay.core.printing.check import check_print
from noble_clay.core.sheet.page import sheet_page
from noble_clay.core.sheet.pdf import sheet_pdf
from noble_clay.core.sheet.sheet import sheet_of
from noble_clay.core.sheet.words import number
from noble_clay.jobs.kinds.base import Params, PieceJob, Tell, asked_for, keep_files, piece_in
from noble_clay.jobs.kinds.print_check import OnBed
from noble_clay.store.tables import JobRow

PAGE, PDF = "making-of.html", "making-of.pdf"


class MakingOf(PieceJob):
    kind: ClassVar[str] = "making_of"
    label: ClassVar[str] = "Making-of sheet"
    quiet: ClassVar[bool] = True
    of_piece: ClassVar[bool] = False  # asked for by the Print stage, with what its bed says

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        asked = asked_for(OnBed, params)
        tell(0.0, "making the piece")
        piece, assets = piece_in(folder)
        evaluator = Evaluator(assets=assets)
        result = evaluator.evaluate(piece)
        if result.solid.empty:
            raise MeshError("nothing is left of this piece, so there is nothing to tell of its making")
        mesh = result.written.mesh
        tell(0.2, "rehearsing")
        printing: list[tuple[str, str]] = []
        if result.inspection.manifold:
            found = check_print(laid(mesh, asked.bed.placing(mesh)), asked.printer, asked.filament, asked.bed.settings)
            printing = _printing(asked, found.values(), found.size.tolist(), found.rehearsal.support)
        sheet = sheet_of(piece, evaluator, printing, lambda share: tell(0.4 + 0.5 * share, "drawing the steps"))
        tell(0.9, "writing")
        (folder / PAGE).write_text(sheet_page(sheet), encoding="utf-8")
        (folder / PDF).write_bytes(sheet_pdf(sheet))
        return {"steps": len(sheet.steps), "revision": params["revision"]}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        keep_files(session, row, folder, [PAGE, PDF])

    def outcome(self, result: Params) -> str:
        return f"{result['steps']} steps"


def _printing(asked: OnBed, values: Params, size: list[float], support: float) -> list[tuple[str, str]]:
    """How to print it, as it lies on its bed."""
    settings = asked.bed.settings
    minutes = round(values["seconds"] / 60)
    down = ", ".join(number(v) for v in asked.bed.down)
    return [
        ("Printer", f"{asked.printer.name}, nozzle {number(asked.printer.nozzle)} mm"),
        ("Filament", f"{asked.filament.name}, {number(round(values['mass_g'], 1))} g"),
        ("Lies", "as it was made" if asked.bed.down == (0, 0, -1) else f"with {down} looking at the bed"),
        ("On the bed", " × ".join(number(round(v, 1)) for v in size) + " mm"),
        ("Layers", f"{values['layers']} of {number(settings.layer)} mm"),
        ("Walls, infill", f"{settings.walls}, {number(100 * settings.infill)} %"),
        ("Support", f"{number(round(support / 1000, 1))} cm³" if support > 1 else "none"),
        ("Time", f"{minutes // 60} h {minutes % 60} min, ± {number(100 * values['uncertainty'])} %"),
        ("Stands", f"up to {values['tip_angle_deg']:.0f}°" if values["stands"] else "falls over by itself"),
    ]
