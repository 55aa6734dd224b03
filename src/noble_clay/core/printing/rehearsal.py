"""A rehearsed print: what the layers of a solid take of filament and time, by the printer's own speeds.

Every layer has walls around, full skins where the next layers above or below do not cover it, and infill; under what
leans out too far stands support. What is laid is reckoned from areas, which are exact; the time of walls from the very
path of the outermost, that of fillings from how long their lines are on average (Cauchy: π times the area over its
perimeter).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection

from noble_clay.core.mesh.mesh import Floats
from noble_clay.core.printing.motion import line_seconds, path_seconds
from noble_clay.core.printing.paths import Regions, offset
from noble_clay.core.printing.profiles import Filament, Printer, Settings

UNCERTAINTY = 0.2
"""Share by which the figures may be off: slicers and printers differ in what is not reckoned here."""

HOP_SECONDS = 0.15
"""Of drawing the filament back and giving it again."""


@dataclass(frozen=True)
class Rehearsal:
    """layers: how many. plastic, support: mm³ that are laid, support among plastic. filament: mm. mass: g. cost: in the
    filament's currency. seconds: of printing. uncertainty: share of all of these. centre: (x, y, z) of mass of what is
    laid, without support: loosely filled as it is. layer_seconds: of each layer.
    """

    layers: int
    plastic: float
    support: float
    filament: float
    mass: float
    cost: float
    seconds: float
    centre: tuple[float, float, float]
    uncertainty: float = UNCERTAINTY
    layer_seconds: tuple[float, ...] = ()


def rehearse(layers: Sequence[Regions], printer: Printer, filament: Filament, settings: Settings) -> Rehearsal:
    """What printing these layers takes, from below."""
    plastic = support_laid = 0.0
    each: list[float] = []
    moment, weight, top = np.zeros(3), 0.0, 0.0
    for layer in layers:
        loose = 1 - settings.infill  # of what is filled loosely, so much is air
        laid = layer.thick * (layer.here.area() - loose * layer.core.area())
        across = layer.thick * (_moment(layer.here) - loose * _moment(layer.core))
        moment += [*across, laid * (top + layer.thick / 2)]
        weight, top = weight + laid, top + layer.thick
        walls = layer.here.area() - layer.inner.area()
        skin, inside, propped = layer.inner.area() - layer.core.area(), layer.core.area(), layer.prop.area()
        plastic += layer.thick * (walls + skin + settings.infill * inside)
        support_laid += layer.thick * settings.support * propped
        each.append(
            _walls_seconds(layer.here, walls, printer)
            + _filled_seconds(layer.inner, skin, 1.0, printer)
            + _filled_seconds(layer.core, inside, settings.infill, printer)
            + _filled_seconds(layer.prop, propped, settings.support, printer)
            + HOP_SECONDS * (layer.here.num_contour() + layer.prop.num_contour())
        )
    plastic += support_laid
    length = plastic / (math.pi * (filament.diameter / 2) ** 2)
    mass = plastic / 1000 * filament.density
    cost = mass / 1000 * filament.price
    x, y, z = (moment / weight if weight > 0 else moment).tolist()
    return Rehearsal(
        layers=len(layers),
        plastic=plastic,
        support=support_laid,
        filament=length,
        mass=mass,
        cost=cost,
        seconds=sum(each),
        centre=(x, y, z),
        layer_seconds=tuple(each),
    )


def _moment(area: CrossSection) -> Floats:
    """(2,) mm³: an area times where its middle is (the shoelace formula's first moments)."""
    found = np.zeros(2)
    for ring in _rings(area):
        here, there = ring[:-1], ring[1:]
        cross = here[:, 0] * there[:, 1] - there[:, 0] * here[:, 1]
        found += (cross[:, None] * (here + there)).sum(axis=0) / 6
    return found


def _walls_seconds(here: CrossSection, area: float, printer: Printer) -> float:
    """Of walls that cover so much area, mm²: the outermost by its path, those within as that, but quicker."""
    if area <= 0:
        return 0.0
    outer = offset(here, -printer.line / 2)
    rings = _rings(outer)
    length = sum(map(_length, rings))
    if length == 0:  # thinner than a line
        return area / printer.line / printer.outer_speed
    first, rest = (
        sum(path_seconds(ring, speed, printer.acceleration, printer.corner) for ring in rings)
        for speed in (printer.outer_speed, printer.speed)
    )
    return first + rest * max(0.0, area / printer.line / length - 1)


def _filled_seconds(region: CrossSection, area: float, share: float, printer: Printer) -> float:
    """Of lines that fill a share of so much of a region's area, mm²."""
    if area <= 0 or share <= 0:
        return 0.0
    around = sum(map(_length, _rings(region)))
    mean = math.pi * region.area() / around if around > 0 else printer.line
    return area * share / printer.line / mean * line_seconds(mean, printer.speed, printer.acceleration)


def _rings(area: CrossSection) -> list[Floats]:
    """(n, 2) each, its first point again at its end."""
    return [np.array([*ring, ring[0]]) for ring in area.to_polygons()]


def _length(ring: Floats) -> float:
    return float(np.linalg.norm(np.diff(ring, axis=0), axis=1).sum())
