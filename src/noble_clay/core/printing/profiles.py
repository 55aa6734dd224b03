"""Printers, filaments, and how a piece is printed: what a rehearsal goes by."""

from __future__ import annotations

from typing import Annotated, TypeVar

from pydantic import Field

from noble_clay.core.errors import MeshError
from noble_clay.core.fields import IsNumber, Model

Positive = Annotated[float, Field(gt=0, le=100_000), IsNumber]


class Printer(Model):
    """bed: width, depth and height that can be printed, mm. nozzle: mm. speed of the outer wall, of the rest, and where
    nothing is laid, mm/s. acceleration: mm/s². corner: how far a path may be thought to be cut at a corner, mm, which
    sets how fast it is taken.
    """

    name: Annotated[str, Field(min_length=1, max_length=40)]
    bed: tuple[Positive, Positive, Positive]
    nozzle: Annotated[float, Field(ge=0.1, le=2), IsNumber] = 0.4
    outer_speed: Positive = 60.0
    speed: Positive = 100.0
    travel_speed: Positive = 180.0
    acceleration: Positive = 2000.0
    corner: Annotated[float, Field(gt=0, le=1), IsNumber] = 0.02

    @property
    def line(self) -> float:
        """How wide a line is laid, mm (common practice: a little more than the nozzle)."""
        return 1.05 * self.nozzle


class Filament(Model):
    """diameter: mm. density: g/cm³. price: of a kilogram, in the maker's currency."""

    name: Annotated[str, Field(min_length=1, max_length=40)]
    diameter: Annotated[float, Field(ge=1, le=4), IsNumber] = 1.75
    density: Annotated[float, Field(gt=0.1, le=20), IsNumber]
    price: Annotated[float, Field(ge=0, le=100_000), IsNumber] = 20.0


class Settings(Model):
    """layer: mm. infill: share of the inside that is filled. walls: lines around. skins: full layers below and above.
    support: share of the room under overhangs that is filled.
    """

    layer: Annotated[float, Field(ge=0.02, le=1.5), IsNumber] = 0.2
    infill: Annotated[float, Field(ge=0, le=1), IsNumber] = 0.15
    walls: Annotated[int, Field(ge=1, le=20), IsNumber] = 2
    skins: Annotated[int, Field(ge=0, le=100), IsNumber] = 4
    support: Annotated[float, Field(ge=0, le=1), IsNumber] = 0.15


PRINTERS = (
    Printer(name="Workbench", bed=(220, 220, 250)),
    Printer(name="Shelf", bed=(180, 180, 180), outer_speed=100, speed=180, travel_speed=300, acceleration=6000),
)
FILAMENTS = (
    Filament(name="PLA", density=1.24),
    Filament(name="PETG", density=1.27, price=22),
    Filament(name="ABS", density=1.04, price=22),
    Filament(name="TPU", density=1.21, price=32),
)
"""Densities are values from memory, of plastics without fillers."""

Profile = TypeVar("Profile", Printer, Filament)


def named(profiles: tuple[Profile, ...], name: str | None, what: str) -> Profile:
    """The profile of a name, whatever its case; the first without one. Raises MeshError that lists those there are."""
    if name is None:
        return profiles[0]
    for profile in profiles:
        if profile.name.lower() == name.lower():
            return profile
    known = ", ".join(p.name for p in profiles)
    raise MeshError(f'there is no {what} "{name}"; there are {known}')


def check_layer(settings: Settings, printer: Printer) -> None:
    """Raise MeshError for layers that the nozzle cannot lay."""
    most = 0.8 * printer.nozzle
    if settings.layer > most:
        raise MeshError(f"layer: at most {most:.3g} mm with a nozzle of {printer.nozzle:g} mm, not {settings.layer:g}")
