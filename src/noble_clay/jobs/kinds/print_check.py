"""Looking over a piece as it lies on the bed: what hangs in the air, how thick it is, its layers, and a rehearsal."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any, ClassVar

from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session

from noble_clay.core.mesh.packed import mesh_blocks
from noble_clay.core.printing.bed import Bed, laid
from noble_clay.core.printing.check import LISTED, PrintCheck, check_print
from noble_clay.core.printing.maps import Maps, maps_of
from noble_clay.core.printing.paths import blocks
from noble_clay.core.printing.profiles import Filament, Printer
from noble_clay.jobs.kinds.base import Params, PieceJob, Tell, asked_for
from noble_clay.jobs.kinds.made import made_in
from noble_clay.store import jobs
from noble_clay.store.tables import JobRow

DETAILS = "details"
MAPS = "maps"
LAYERS = "layers"


class OnBed(BaseModel):
    """bed: how the piece lies. printer, filament: the profiles that it names, as they were when this was asked."""

    model_config = ConfigDict(extra="forbid")

    bed: Bed = Bed()
    printer: Printer
    filament: Filament


class CheckPrint(PieceJob):
    kind: ClassVar[str] = "print"
    label: ClassVar[str] = "Print check"
    quiet: ClassVar[bool] = True
    of_piece: ClassVar[bool] = False  # asked for by the Print stage, with what its bed says

    def task(self, folder: Path, params: Params, tell: Tell) -> Params:
        asked = asked_for(OnBed, params)
        tell(0.0, "making the piece")
        mesh = made_in(folder)[1].written.mesh
        placing = asked.bed.placing(mesh)
        settings = asked.bed.settings
        found = check_print(laid(mesh, placing), asked.printer, asked.filament, settings, tell)
        tell(0.8, "drawing maps")
        (folder / MAPS).write_bytes(_map_bytes(maps_of(found.solid)))
        tell(0.9, "drawing paths")
        for number, rings in blocks(iter(found.layers), asked.printer, settings):
            (folder / f"{LAYERS}-{number}").write_bytes(rings.packed())
        (folder / DETAILS).write_text(json.dumps({**_details(found), "placing": placing.reshape(-1).tolist()}))
        rehearsal = {"support": found.rehearsal.support, "cost": found.rehearsal.cost}
        return {**found.values(), "rehearsal": rehearsal, "revision": params["revision"]}

    def keep(self, session: Session, row: JobRow, folder: Path, result: Params) -> None:
        for file in sorted(folder.iterdir()):
            if file.name in (MAPS, DETAILS) or file.name.startswith(f"{LAYERS}-"):
                jobs.add_block(session, row.id, file.name, 0, file.read_bytes())

    def outcome(self, result: Params) -> str:
        return f"{result['layers']:,} layers, {result['mass_g']:.3g} g"


def _map_bytes(maps: Maps) -> bytes:
    """The mesh as the view's files hold it; then for each triangle float32 degrees, and float32 mm."""
    scalars = (values.astype("<f4").tobytes() for values in (maps.leans, maps.thick))
    return b"".join([*mesh_blocks(maps.mesh), *scalars])


def _details(found: PrintCheck) -> dict[str, Any]:
    """What the page shows beside the figures, and a simulated run goes by."""
    return {
        "size": found.size.tolist(),
        "islands": [asdict(place) for place in found.islands[:LISTED]],
        "bridges": [asdict(place) for place in found.bridges[:LISTED]],
        "thin": [asdict(place) for place in found.thin_places],
        "fine": [asdict(place) for place in found.fine],
        "hollows": [asdict(hollow) for hollow in found.hollows[:LISTED]],
        "layer_seconds": found.rehearsal.layer_seconds,
    }
