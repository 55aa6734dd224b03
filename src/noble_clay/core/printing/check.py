"""All that is asked of a mesh before it is printed, as it stands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.measure.walls import spread, thickness
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.printing.layers import islands, sections
from noble_clay.core.printing.overhangs import overhanging
from noble_clay.core.printing.profiles import Filament, Printer, Settings, check_layer
from noble_clay.core.printing.rehearsal import Rehearsal, rehearse
from noble_clay.core.printing.standing import Standing, set_down, standing

APART_MM = 1.0
"""Between places where the thickness is measured."""

MOST_PLACES = 200_000


@dataclass(frozen=True, eq=False)
class PrintCheck:
    """standing, rehearsal: as they are found. fits: within the printer. overhang: mm² that face down too steeply.
    islands: how many areas begin in the air. thinnest: mm, None where nothing has another side, as `_thinnest` has it.
    thin: mm² under two lines of the nozzle.
    """

    standing: Standing
    fits: bool
    overhang: float
    islands: int
    thinnest: float | None
    thin: float
    rehearsal: Rehearsal

    def values(self) -> dict[str, Any]:
        """As the command line says it."""
        s, r = self.standing, self.rehearsal
        return {
            "stands": s.stands,
            "tip_angle_deg": s.tip_angle,
            "tip_towards_deg": s.tip_towards,
            "centre_of_mass": s.centre.tolist(),
            "floor_area_mm2": s.floor_area,
            "fits": self.fits,
            "overhang_mm2": self.overhang,
            "islands": self.islands,
            "thinnest_mm": self.thinnest,
            "thin_mm2": self.thin,
            "layers": r.layers,
            "filament_mm": r.filament,
            "mass_g": r.mass,
            "seconds": r.seconds,
            "uncertainty": r.uncertainty,
        }


def check_print(mesh: Mesh, printer: Printer, filament: Filament, settings: Settings) -> PrintCheck:
    """Of a closed mesh, mm, set down on z = 0. Raises MeshError for one that is empty or not closed."""
    check_layer(settings, printer)
    if len(mesh.triangles) == 0:
        raise MeshError("nothing is left of this, so there is nothing to print")
    mesh = set_down(mesh)
    solid = manifold_of(mesh)
    if solid.is_empty():
        raise MeshError("this is no closed body, so it cannot be printed: mend it first")
    assert mesh.bounds is not None
    size = mesh.bounds[1] - mesh.bounds[0]
    layers = sections(solid, settings.layer)
    samples = spread(mesh, APART_MM, MOST_PLACES)
    thick, _ = thickness(mesh, samples, float(np.linalg.norm(size)) + 1)
    return PrintCheck(
        standing=standing(mesh),
        fits=fits(size.tolist(), printer),
        overhang=float(areas(mesh)[overhanging(mesh)].sum()),
        islands=len(islands(layers)),
        thinnest=_thinnest(thick, samples.area, (2 * printer.nozzle) ** 2),
        thin=float(samples.area[thick < 2 * printer.nozzle].sum()),
        rehearsal=rehearse(layers, float(size[2]), printer, filament, settings),
    )


def _thinnest(thick: Floats, area: Floats, least: float) -> float | None:
    """mm: how thick the thinnest places are that are as large together as `least` mm²; so flakes of no size that a seam
    leaves do not count. None where nothing has another side.
    """
    order = np.argsort(thick)[: int(np.isfinite(thick).sum())]
    if len(order) == 0:
        return None
    reached = np.searchsorted(np.cumsum(area[order]), least)
    return float(thick[order[min(int(reached), len(order) - 1)]])


def fits(size: list[float], printer: Printer) -> bool:
    """Whether something so wide, deep and high, mm, goes into a printer, if need be turned by a right angle."""
    (w, d, h), bed = size, printer.bed
    return h <= bed[2] and ((w <= bed[0] and d <= bed[1]) or (d <= bed[0] and w <= bed[1]))
