"""All that is asked of a mesh before it is printed, as it lies on the bed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from manifold3d import CrossSection, Manifold

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel.plain import manifold_of
from noble_clay.core.measure.walls import Samples, spread, thickness
from noble_clay.core.mesh.mass import areas
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.printing.hollows import Hollow, hollows
from noble_clay.core.printing.layers import bridges, islands, sections, too_fine
from noble_clay.core.printing.overhangs import overhanging
from noble_clay.core.printing.paths import Regions, regions
from noble_clay.core.printing.profiles import Filament, Printer, Settings, check_layer
from noble_clay.core.printing.rehearsal import Rehearsal, rehearse
from noble_clay.core.printing.standing import Standing, set_down, standing, tipping

APART_MM = 1.0
"""Between places where the thickness is measured."""

MOST_PLACES = 200_000
LISTED = 100
"""Of each kind of place."""

THIN_APART_MM = 5.0
"""Between thin places that are listed apart."""

Tell = Callable[[float, str], None]


@dataclass(frozen=True)
class Place:
    """Something to look at. at: mm. size: mm² of an area in a layer, mm of a thickness."""

    at: tuple[float, float, float]
    size: float


@dataclass(frozen=True, eq=False)
class PrintCheck:
    """solid: as it stands on the bed. standing, rehearsal: as they are found. size: (3,) mm. fits: within the printer.
    overhang: mm² that face down too steeply. islands, bridges: areas that begin in the air, or span it. thinnest: mm,
    None where nothing has another side, as `_thinnest` has it. thin: mm² under two lines of the nozzle; thin_places:
    where. fine: what is narrower than the nozzle in a layer, so that it is left out. hollows: room that is shut in.
    layers: what each is filled with.
    """

    solid: Manifold
    standing: Standing
    size: Floats
    fits: bool
    overhang: float
    islands: list[Place]
    bridges: list[Place]
    thinnest: float | None
    thin: float
    thin_places: list[Place]
    fine: list[Place]
    hollows: list[Hollow]
    layers: list[Regions]
    rehearsal: Rehearsal

    def values(self) -> dict[str, Any]:
        """As the command line says it."""
        s, r = self.standing, self.rehearsal
        printed, _ = tipping(s.support, np.array(r.centre))
        return {
            "stands": s.stands,
            "tip_angle_deg": s.tip_angle,
            "tip_towards_deg": s.tip_towards,
            "centre_of_mass": s.centre.tolist(),
            "printed_tip_angle_deg": printed,
            "printed_centre_of_mass": list(r.centre),
            "floor_area_mm2": s.floor_area,
            "fits": self.fits,
            "overhang_mm2": self.overhang,
            "islands": len(self.islands),
            "thinnest_mm": self.thinnest,
            "thin_mm2": self.thin,
            "layers": r.layers,
            "filament_mm": r.filament,
            "mass_g": r.mass,
            "seconds": r.seconds,
            "uncertainty": r.uncertainty,
        }


def check_print(
    mesh: Mesh, printer: Printer, filament: Filament, settings: Settings, tell: Tell = lambda share, step: None
) -> PrintCheck:
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
    tell(0.05, "cutting into layers")
    layers = sections(solid, settings.layer)
    tell(0.25, "looking for what hangs in the air")
    in_the_air = islands(layers)
    spans = bridges(layers, (2 * printer.line) ** 2)
    tell(0.45, "measuring walls")
    samples = spread(mesh, APART_MM, MOST_PLACES)
    thick, _ = thickness(mesh, samples, float(np.linalg.norm(size)) + 1)
    tell(0.6, "rehearsing")
    filled = list(regions(layers, float(size[2]), printer, settings))
    return PrintCheck(
        solid=solid,
        standing=standing(mesh),
        size=size,
        fits=fits(size.tolist(), printer),
        overhang=float(areas(mesh)[overhanging(mesh)].sum()),
        islands=[_place(number * settings.layer, area) for number, area in in_the_air],
        bridges=[_place(number * settings.layer, area) for number, area in spans],
        thinnest=_thinnest(thick, samples.area, (2 * printer.nozzle) ** 2),
        thin=float(samples.area[thick < 2 * printer.nozzle].sum()),
        thin_places=_thin_places(samples, thick, 2 * printer.nozzle),
        fine=_largest([_place(number * settings.layer, area) for number, area in too_fine(layers, printer.nozzle)]),
        hollows=hollows(mesh),
        layers=filled,
        rehearsal=rehearse(filled, printer, filament, settings),
    )


def _place(height: float, area: CrossSection) -> Place:
    low_x, low_y, high_x, high_y = area.bounds()
    return Place(((low_x + high_x) / 2, (low_y + high_y) / 2, height), area.area())


def _largest(places: list[Place]) -> list[Place]:
    return sorted(places, key=lambda place: -place.size)[:LISTED]


def _thinnest(thick: Floats, area: Floats, least: float) -> float | None:
    """mm: how thick the thinnest places are that are as large together as `least` mm²; so flakes of no size that a seam
    leaves do not count. None where nothing has another side.
    """
    order = np.argsort(thick)[: int(np.isfinite(thick).sum())]
    if len(order) == 0:
        return None
    reached = np.searchsorted(np.cumsum(area[order]), least)
    return float(thick[order[min(int(reached), len(order) - 1)]])


def _thin_places(samples: Samples, thick: Floats, least: float) -> list[Place]:
    """The thinnest of those places that are thinner than so many mm, each some way from all the others."""
    found: list[Place] = []
    left = np.flatnonzero(thick < least)
    left = left[np.argsort(thick[left])]
    while len(left) and len(found) < LISTED:
        point = samples.points[left[0]]
        x, y, z = point.tolist()
        found.append(Place((x, y, z), float(thick[left[0]])))
        left = left[np.linalg.norm(samples.points[left] - point, axis=1) > THIN_APART_MM]
    return found


def fits(size: list[float], printer: Printer) -> bool:
    """Whether something so wide, deep and high, mm, goes into a printer, if need be turned by a right angle."""
    (w, d, h), bed = size, printer.bed
    return h <= bed[2] and ((w <= bed[0] and d <= bed[1]) or (d <= bed[0] and w <= bed[1]))
